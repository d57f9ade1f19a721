import type { Look } from './look.ts';

/** A plate with a notch that leads out of it. */
export const zone: Look = {
  frame: 'dashed',
  points: true,
  body: null,
  mark(context, angle) {
    context.rect(-5, -5, 10, 10);
    if (angle !== null) {
      context.moveTo(Math.cos(angle) * 5, -Math.sin(angle) * 5);
      context.lineTo(Math.cos(angle) * 12, -Math.sin(angle) * 12);
    }
    context.stroke();
  },
};
