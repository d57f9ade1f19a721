import type { Look } from './look.ts';

/** A bar with a gap, and what goes through it. */
export const relay: Look = {
  colour: 'clear',
  mark(context) {
    for (const side of [-1, 1]) {
      context.moveTo(0, side * 7);
      context.lineTo(0, side * 3);
    }
    context.moveTo(-6, 0);
    context.lineTo(6, 0);
    context.stroke();
  },
};
