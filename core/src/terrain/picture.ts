/** A tile of the ground seen from above, as pixels: its surfaces in light and shade, or how steep it is. */

import { TILE } from '../document/schema.ts';
import type { Ground } from './ground.ts';
import { tileBytes } from './tile.ts';

/** Where the light of the drawing comes from: north-west, as maps have it; degrees from +x, counter-clockwise, and over the horizon. */
const LIGHT = { from: 135, above: 45 };

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
  const [a, h] = [(LIGHT.from * Math.PI) / 180, (LIGHT.above * Math.PI) / 180];
  const [lx, ly, lz] = [Math.cos(h) * Math.cos(a), Math.cos(h) * Math.sin(a), Math.sin(h)];
  const base = colours[0];
  const reach = 2 * step * ground.terrain.spacing;
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const [i, j] = [i0 + column * step, j0 + (height - 1 - row) * step];
      const to = (row * width + column) * 4;
      const at = (j - j0) * TILE + i - i0;
      if (holes?.[at]) continue;
      const dx = (ground.at(i + step, j) - ground.at(i - step, j)) / reach;
      const dy = (ground.at(i, j + step) - ground.at(i, j - step)) / reach;
      let [r, g, b] = base;
      if (slopes) {
        const slope = (Math.atan(Math.hypot(dx, dy)) * 180) / Math.PI;
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
      const light = Math.max(0, (lz - dx * lx - dy * ly) / Math.sqrt(1 + dx * dx + dy * dy));
      const shade = 0.3 + light;
      const kept = guard ? 1 - (guard[at] / 255) * 0.45 : 1;
      data[to] = r * shade * kept;
      data[to + 1] = g * shade * kept;
      data[to + 2] = b * shade;
      data[to + 3] = 255;
    }
  return { width, height, data };
}
