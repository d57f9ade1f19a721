import type { Look } from './look.ts';

/** Two runners under a bar. */
export const vehicle: Look = {
  colour: 'warm',
  points: true,
  inGame: true,
  mark(context) {
    for (const side of [-4, 4]) {
      context.moveTo(-7, side);
      context.lineTo(6, side);
    }
    context.moveTo(2, -4);
    context.lineTo(2, 4);
    context.stroke();
  },
};
