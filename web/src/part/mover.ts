import type { Look } from './look.ts';
import { slab } from './slab.ts';

export const mover: Look = { frame: 'line', inGame: true, trialBody: slab };
