/** Seeded noise over the map, about -1..1, in octaves. */

import { createNoise2D } from 'simplex-noise';
import { chance } from '../math/chance.ts';

export type Noise = (x: number, y: number) => number;

/** @param size width of its widest waves, in units of what it is asked with */
export function noiseOf(seed: number, size: number, octaves = 4): Noise {
  const one = createNoise2D(chance(seed));
  return (x, y) => {
    let [sum, weight, share, scale] = [0, 0, 1, 1 / size];
    for (let k = 0; k < octaves; k++) {
      sum += one(x * scale, y * scale) * share;
      weight += share;
      share /= 2;
      scale *= 2;
    }
    return sum / weight;
  };
}
