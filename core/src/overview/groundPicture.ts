/** All of a ground from above as one picture: its surfaces in light and shade, darker where tall things stand. */

import { TILE } from '../document/schema.ts';
import type { Ground } from '../terrain/ground.ts';
import { tilePicture, type Rgb } from '../terrain/picture.ts';

/** Share of its light that ground keeps under a wood. */
const UNDER_TREES = 0.62;
/** Share of the way to white by which all of it is lighter than ground in the plan: lines and words have to be read on it. */
const LIGHTER = 0.2;

/**
 * @param step every how many samples a pixel is; a power of two, at most a tile
 * @param colours of the terrain's surfaces, 0..255
 * @returns RGBA, the first row is the one of the greatest y; a pixel begins at its sample
 */
export function groundPicture(ground: Ground, step: number, colours: readonly Rgb[]): { width: number; height: number; data: Uint8Array } {
  const [width, height] = [Math.max(1, Math.ceil((ground.nx - 1) / step)), Math.max(1, Math.ceil((ground.ny - 1) / step))];
  const data = new Uint8Array(width * height * 4);
  const perTile = TILE / step;
  for (let y = 0; y < ground.tilesY; y++)
    for (let x = 0; x < ground.tilesX; x++) {
      const left = x * perTile;
      const below = y * perTile;
      if (left >= width || below >= height) continue;
      const tile = tilePicture(ground, x, y, step, colours, null);
      for (let row = 0; row < tile.height; row++) {
        const to = height - below - tile.height + row;
        data.set(tile.data.subarray(row * tile.width * 4, (row + 1) * tile.width * 4), (to * width + left) * 4);
      }
    }
  for (let at = 0; at < data.length; at++) if (at % 4 !== 3) data[at] += (255 - data[at]) * LIGHTER;
  shadeThings(ground, step, { width, height, data });
  return { width, height, data };
}

function shadeThings(ground: Ground, step: number, { width, height, data }: { width: number; height: number; data: Uint8Array }): void {
  const { things, spacing } = ground.terrain;
  for (let number = 0; number < ground.tilesX * ground.tilesY; number++)
    for (const { kind, position, scale } of ground.thingsOn(number)) {
      const { radius, tall } = things[kind];
      if (tall <= 0) continue;
      const [u, v] = ground.sampleOf(position[0], position[1]);
      const reach = Math.max(0.5, (radius * scale * 3) / spacing / step);
      const [cx, cy] = [u / step, height - v / step];
      for (let y = Math.max(0, Math.floor(cy - reach)); y <= Math.min(height - 1, Math.floor(cy + reach)); y++)
        for (let x = Math.max(0, Math.floor(cx - reach)); x <= Math.min(width - 1, Math.floor(cx + reach)); x++) {
          if (Math.hypot(x + 0.5 - cx, y + 0.5 - cy) > reach + 0.5) continue;
          const at = (y * width + x) * 4;
          for (let k = 0; k < 3; k++) data[at + k] *= UNDER_TREES;
        }
    }
}
