import { bearing } from './lightSource.ts';
import type { Part } from './part.ts';

const cosine = (degrees: number) => Math.cos((degrees * Math.PI) / 180);

export const spot: Part = {
  id: 'spot',
  says: 'beside `light`: only within a cone; the turn of the object, and `tilt` above the horizontal, are where it points',
  reads: ['cone', 'soft', 'tilt'],
  aim(light, { turn, properties }) {
    if (light.kind !== 'point') return light;
    const half = Math.min(89.9, Number(properties.cone ?? 60) / 2);
    const soft = Math.min(1, Math.max(0, Number(properties.soft ?? 0.3)));
    const direction = bearing(turn, Number(properties.tilt ?? -90));
    const cone = { direction, outer: cosine(half), inner: Math.min(1, cosine(half * (1 - soft)) + 1e-6) };
    return { ...light, light: { ...light.light, cone } };
  },
};
