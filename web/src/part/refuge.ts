import type { Look } from './look.ts';

/** A roof over a floor. */
export const refuge: Look = {
  points: true,
  mark(context) {
    context.moveTo(-6, 0);
    context.lineTo(0, -6);
    context.lineTo(6, 0);
    context.moveTo(-6, 5);
    context.lineTo(6, 5);
    context.stroke();
  },
};
