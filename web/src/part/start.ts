import type { Look } from './look.ts';

export const start: Look = {
  colour: 'clear',
  mark(context, angle) {
    context.rotate(angle ?? -Math.PI / 2);
    context.moveTo(8, 0);
    context.lineTo(-5, -6);
    context.lineTo(-2, 0);
    context.lineTo(-5, 6);
    context.closePath();
    context.fill();
  },
};
