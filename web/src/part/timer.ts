import type { Look } from './look.ts';

/** A dial with its hand at a quarter. */
export const timer: Look = {
  colour: 'clear',
  mark(context) {
    context.arc(0, 0, 6, 0, 2 * Math.PI);
    context.moveTo(0, -4);
    context.lineTo(0, 0);
    context.lineTo(4, 0);
    context.stroke();
  },
};
