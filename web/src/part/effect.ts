import type { Look } from './look.ts';

export const effect: Look = {
  colour: 'clear',
  body: null,
  points: true,
  /** Three motes that rise. */
  mark(context) {
    for (const [x, y, r] of [
      [-3, 4, 2.5],
      [2, 0, 2],
      [-1, -5, 1.5],
    ]) {
      context.beginPath();
      context.arc(x, y, r, 0, 2 * Math.PI);
      context.fill();
    }
  },
};
