import type { Look } from './look.ts';

export const mood: Look = {
  body: null,
  /** Half a sun over a line. */
  mark(context) {
    context.beginPath();
    context.arc(0, 1, 4, Math.PI, 2 * Math.PI);
    context.fill();
    context.beginPath();
    context.moveTo(-7, 3);
    context.lineTo(7, 3);
    context.stroke();
  },
};
