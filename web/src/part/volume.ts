import type { Look } from './look.ts';

export const volume: Look = { frame: 'dashed', points: true, body: null };
