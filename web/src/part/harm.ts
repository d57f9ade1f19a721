import type { Look } from './look.ts';

/** A space with a crossed middle. */
export const harm: Look = {
  colour: 'warm',
  frame: 'dashed',
  body: null,
  mark(context) {
    for (const side of [-1, 1]) {
      context.moveTo(-5, side * 5);
      context.lineTo(5, side * -5);
    }
    context.stroke();
  },
};
