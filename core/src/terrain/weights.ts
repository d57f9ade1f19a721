/** What covers a tile, as pictures that a shader mixes surfaces by: four surfaces a picture, red, green, blue, alpha. */

import { TILE } from '../document/schema.ts';
import type { Ground } from './ground.ts';

export interface WeightPictures {
  width: number;
  height: number;
  /** One for every four surfaces; the first row has the least y. Texels stand on samples, the last on the neighbour's first. */
  pictures: Uint8Array<ArrayBuffer>[];
}

/** @param step every how many samples; @param side quads along a side, whole tiles */
export function weightPictures(ground: Ground, x: number, y: number, step: number, side = TILE): WeightPictures {
  const [i0, j0] = [x * TILE, y * TILE];
  const width = Math.ceil(Math.min(side, ground.nx - 1 - i0) / step) + 1;
  const height = Math.ceil(Math.min(side, ground.ny - 1 - j0) / step) + 1;
  const count = ground.terrain.surfaces.length;
  const pictures = Array.from({ length: Math.ceil(count / 4) }, () => new Uint8Array(width * height * 4));
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const weights = ground.weightsAt(Math.min(ground.nx - 1, i0 + column * step), Math.min(ground.ny - 1, j0 + row * step));
      const at = (row * width + column) * 4;
      for (let k = 0; k < count; k++) pictures[k >> 2][at + (k & 3)] = Math.round(weights[k] * 255);
    }
  return { width, height, pictures };
}
