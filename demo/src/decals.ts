/** Stock pictures that lie on other surfaces: drawn by formulas, clear around what they show. Colours are sRGB 0..255. */

import { encode } from 'fast-png';
import { blend, fractal, shade, step, type Rgb } from './noise.ts';

export type DecalPainter = (u: number, v: number) => [...Rgb, alpha: number];

/** Fades to the edges, so that no picture is cut off by its frame. */
const rim = (u: number, v: number, width = 0.12): number => step(0, width, Math.min(u, 1 - u, v, 1 - v));

const stain: DecalPainter = (u, v) => {
  const r = Math.hypot(u - 0.5, v - 0.5) + (fractal(u, v, 4, 301, 4) - 0.5) * 0.35;
  const wet = fractal(u, v, 12, 302, 3);
  return [...shade([62, 50, 40], 0.7 + wet * 0.5), step(0.46, 0.2, r) * (0.55 + wet * 0.4) * rim(u, v)];
};

/** Lime and weed where the tide has stood: along the bottom. */
const tide_line: DecalPainter = (u, v) => {
  const level = 0.32 + (fractal(u, 0.5, 6, 311, 3) - 0.5) * 0.24;
  const below = step(level - 0.06, level + 0.02, v);
  const crust = step(0.05, 0, Math.abs(v - level));
  const grain = fractal(u, v, 24, 312, 3);
  return [
    ...blend(shade([70, 82, 52], 0.7 + grain * 0.5), [206, 200, 178], crust),
    Math.min(1, below * 0.62 + crust * 0.8) * step(0, 0.06, Math.min(u, 1 - u)),
  ];
};

/** A chalked arrow, pointing to the right. */
const chalk_arrow: DecalPainter = (u, v) => {
  const shaft = step(0.045, 0.03, Math.abs(v - 0.5)) * step(0.12, 0.16, u) * step(0.84, 0.8, u);
  const head = [1, -1].reduce(
    (most, side) => Math.max(most, step(0.05, 0.03, Math.abs(v - 0.5 - side * (0.82 - u) * 0.8)) * step(0.54, 0.58, u) * step(0.86, 0.83, u)),
    0,
  );
  const grain = fractal(u, v, 32, 321, 3);
  return [236, 232, 222, Math.min(1, Math.max(shaft, head)) * (0.35 + grain * 0.75)];
};

const crack: DecalPainter = (u, v) => {
  const line = Math.abs(u - 0.5 + (fractal(u, v, 5, 331, 4) - 0.5) * 0.5);
  const branch = Math.abs(u - 0.2 - v * 0.5 + (fractal(u, v, 7, 332, 4) - 0.5) * 0.4);
  const dark = Math.max(step(0.022, 0, line), step(0.014, 0, branch) * step(0.75, 0.5, v));
  return [24, 20, 18, dark * 0.85 * rim(u, v, 0.2)];
};

export const DECALS: Record<string, DecalPainter> = { stain, tide_line, chalk_arrow, crack };

export function paintDecal(painter: DecalPainter, size = 256): Uint8Array {
  const data = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const [r, g, b, a] = painter((x + 0.5) / size, (y + 0.5) / size);
      data.set(
        [r, g, b, a * 255].map((value) => Math.round(Math.min(255, Math.max(0, value)))),
        (y * size + x) * 4,
      );
    }
  return encode({ width: size, height: size, data, channels: 4, depth: 8 });
}
