import { bearing, colourOf } from './lightSource.ts';
import type { Part } from './part.ts';

export const sun: Part = {
  id: 'sun',
  says: 'light from one direction; the turn is where it comes from, `height` how far above the horizon',
  reads: ['colour', 'intensity', 'height', 'size'],
  floats: true,
  everywhere: true,
  shine: ({ turn, properties }) => ({
    kind: 'sun',
    lit: true,
    light: {
      towards: bearing(turn, Number(properties.height ?? 45)),
      colour: colourOf(properties.colour),
      intensity: Number(properties.intensity),
      size: (Number(properties.size ?? 0.53) * Math.PI) / 180,
    },
  }),
};
