import type { Look } from './look.ts';

export const goal: Look = {
  colour: 'clear',
  mark(context) {
    context.moveTo(-4, 7);
    context.lineTo(-4, -7);
    context.lineTo(6, -3);
    context.lineTo(-4, 1);
    context.stroke();
  },
};
