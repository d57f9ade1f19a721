import type { Look } from './look.ts';
import { slab } from './slab.ts';

/** Two lines and what rolls between them. */
export const carrier: Look = {
  frame: 'line',
  inGame: true,
  mark(context) {
    for (const side of [-1, 1]) {
      context.moveTo(-7, side * 4);
      context.lineTo(7, side * 4);
    }
    for (const x of [-4, 0, 4]) {
      context.moveTo(x + 2, 0);
      context.arc(x, 0, 2, 0, 2 * Math.PI);
    }
    context.stroke();
  },
  trialBody: slab,
};
