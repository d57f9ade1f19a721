import type { Look } from './look.ts';
import { slab } from './slab.ts';

/** A board with a crack. */
export const breakable: Look = {
  frame: 'line',
  inGame: true,
  mark(context) {
    context.strokeRect(-6, -6, 12, 12);
    context.moveTo(-6, -2);
    context.lineTo(-1, 1);
    context.lineTo(1, -2);
    context.lineTo(6, 2);
    context.stroke();
  },
  trialBody: slab,
};
