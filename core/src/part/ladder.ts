import type { Part } from './part.ts';

export const ladder: Part = {
  id: 'ladder',
  says: 'is climbed with forward by whoever faces it; it hangs on what is behind it, and its turn is where the climber stands',
  reads: ['size', 'material'],
  floats: true,
  climb({ turn }, box) {
    const angle = (turn * Math.PI) / 180;
    return { space: box, outwards: [Math.cos(angle), Math.sin(angle), 0] };
  },
};
