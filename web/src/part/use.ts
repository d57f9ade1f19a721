import type { Look } from './look.ts';

export const use: Look = {
  mark(context) {
    context.rect(-5, -5, 10, 10);
    context.moveTo(0, -5);
    context.lineTo(0, 0);
    context.stroke();
  },
};
