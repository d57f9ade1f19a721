/** A tile of the ground seen from above, as pixels: its surfaces in light and shade, or how steep it is. */

import { TILE } from '../document/schema.ts';
import type { Ground } from './ground.ts';
import { gradient, hillShade, slopeOfGradient } from './relief.ts';
import { tileBytes } from './tile.ts';

/** Where the light of the drawing comes from: north-west, as maps have it; degrees from +x, counter-clockwise, and over the horizon. */
const shadeOf = hillShade(135, 45);

export type Rgb = readonly [number, number, number];

/** From which slope on ground is called what, degrees. */
export interface SlopeWord {
  from: number;
  word: string;
  colour: Rgb;
}

export interface TilePicture {
  width: number;
  height: number;
  /** RGBA, the first row is the one of the greatest y. */
  data: Uint8ClampedArray<ArrayBuffer>;
}

/**
 * @param step every how many samples a pixel is; a power of two
 * @param colours of the terrain's surfaces, 0..255
 * @param slopes in place of the surfaces, in rising order
 */
export function tilePicture(
  ground: Ground,
  x: number,
  y: number,
  step: number,
  colours: readonly Rgb[],
  slopes: readonly SlopeWord[] | null,
): TilePicture {
  const [i0, j0] = [x * TILE, y * TILE];
  const width = Math.max(1, Math.ceil(Math.min(TILE, ground.nx - 1 - i0) / step));
  const height = Math.max(1, Math.ceil(Math.min(TILE, ground.ny - 1 - j0) / step));
  const data = new Uint8ClampedArray(width * height * 4);
  const tile = ground.tiles[y * ground.tilesX + x];
  const layers = (['ruled', 'hand'] as const).map((of) =>
    ground.terrain.surfaces.flatMap(({ id }, n) => {
      const bytes = tile?.[of]?.[id] === undefined ? null : tileBytes(tile, of, id);
      return bytes ? [{ bytes, colour: colours[n] ?? colours[0] }] : [];
    }),
  );
  const holes = tile?.holes === undefined ? null : tileBytes(tile, 'holes');
  const guard = tile?.guard === undefined ? null : tileBytes(tile, 'guard');
  const base = colours[0];
  // The ground as coarse as the picture is.
  const coarse = {
    nx: Math.ceil((ground.nx - 1) / step) + 1,
    ny: Math.ceil((ground.ny - 1) / step) + 1,
    at: (u: number, v: number) => ground.at(u * step, v * step),
  };
  const apart = step * ground.terrain.spacing;
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const [i, j] = [i0 + column * step, j0 + (height - 1 - row) * step];
      const to = (row * width + column) * 4;
      const at = (j - j0) * TILE + i - i0;
      if (holes?.[at]) continue;
      const fall = gradient(coarse, i / step, j / step, apart);
      let [r, g, b] = base;
      if (slopes) {
        const slope = slopeOfGradient(fall);
        for (const { from, colour } of slopes) if (slope >= from) [r, g, b] = colour;
      } else
        for (const layer of layers) {
          let [sum, lr, lg, lb] = [0, 0, 0, 0];
          for (const { bytes, colour } of layer) {
            const w = bytes[at];
            sum += w;
            lr += w * colour[0];
            lg += w * colour[1];
            lb += w * colour[2];
          }
          if (sum === 0) continue;
          const share = Math.min(1, sum / 255);
          r += (lr / sum - r) * share;
          g += (lg / sum - g) * share;
          b += (lb / sum - b) * share;
        }
      const light = shadeOf(fall);
      const shade = 0.3 + light;
      const kept = guard ? 1 - (guard[at] / 255) * 0.45 : 1;
      data[to] = r * shade * kept;
      data[to + 1] = g * shade * kept;
      data[to + 2] = b * shade;
      data[to + 3] = 255;
    }
  return { width, height, data };
}
