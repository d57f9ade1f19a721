import type { Look } from './look.ts';

/** Strokes of a tally. */
export const counter: Look = {
  colour: 'clear',
  mark(context) {
    for (const x of [-5, 0, 5]) {
      context.moveTo(x, -6);
      context.lineTo(x, 6);
    }
    context.stroke();
  },
};
