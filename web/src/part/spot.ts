import type { Look } from './look.ts';

export const spot: Look = { points: true };
