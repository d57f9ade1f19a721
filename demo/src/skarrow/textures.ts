/** The stock textures of Skarrow: drawn by formulas, tileable. Colours are sRGB 0..255. */

import { blend, fractal, noise, shade, step, type Rgb } from '../noise.ts';

type Painter = (u: number, v: number) => Rgb;

const snow: Painter = (u, v) => {
  const drift = fractal(u, v, 4, 11, 4);
  const crust = fractal(u, v, 40, 12, 3);
  const blue = step(0.55, 0.35, drift);
  return shade(blend([240, 243, 248], [206, 220, 240], blue * 0.8), 0.93 + crust * 0.1);
};

const ice: Painter = (u, v) => {
  const depth = fractal(u, v, 5, 21, 4);
  const crack = Math.abs(fractal(u, v, 6, 22, 4) - 0.5);
  const line = step(0.025, 0, crack) * 0.8 + step(0.008, 0, Math.abs(fractal(u, v, 10, 23, 3) - 0.5)) * 0.5;
  return blend(blend([110, 158, 190], [176, 210, 226], depth), [236, 246, 252], Math.min(1, line));
};

const rock: Painter = (u, v) => {
  const layers = fractal(u, (v * 1) % 1, 6, 31, 5);
  const grain = fractal(u, v, 48, 32, 3);
  const crack = step(0.03, 0, Math.abs(fractal(u, v, 7, 33, 5) - 0.5));
  return shade(blend([96, 92, 96], [148, 142, 140], layers), (0.72 + grain * 0.42) * (1 - crack * 0.45));
};

const turf: Painter = (u, v) => {
  const patch = fractal(u, v, 5, 41, 4);
  const blade = noise(u, v, 96, 42, 40);
  const heather = step(0.58, 0.78, fractal(u, v, 8, 43, 4));
  return shade(blend(blend([104, 104, 58], [142, 130, 74], patch), [112, 78, 88], heather * 0.6), 0.78 + blade * 0.34);
};

const boards: Painter = (u, v) => {
  const board = Math.floor(v * 5);
  const y = v * 5 - board;
  const offset = noise((board * 0.37) % 1, 0.2, 16, 51);
  const grain = fractal((u + offset) % 1, v, 6, 53, 4);
  const streak = noise((u + offset) % 1, v, 4, 54, 96);
  return shade(
    blend([118, 84, 58], [158, 120, 84], offset * 0.5 + grain * 0.5),
    (0.72 + streak * 0.34) * (0.4 + 0.6 * step(0, 0.06, Math.min(y, 1 - y))),
  );
};

const cloth =
  (base: Rgb, other: Rgb, pattern: (u: number, v: number) => number): Painter =>
  (u, v) => {
    const weave = noise(u, v, 128, 61, 128);
    const fold = fractal(u, v, 6, 62, 2);
    return shade(blend(base, other, pattern(u, v)), 0.84 + weave * 0.14 + (fold - 0.5) * 0.25);
  };

const check = (u: number, v: number): number => (Math.floor(u * 8) + Math.floor(v * 8)) % 2;
const chevron = (u: number, v: number): number => step(0.42, 0.46, Math.abs(((v * 4 + Math.abs(u - 0.5) * 3) % 1) - 0.5));

const PLAIN: Record<string, Painter> = {
  banner_red: cloth([188, 44, 48], [236, 222, 200], chevron),
  banner_gold: cloth([222, 160, 42], [60, 44, 74], chevron),
  banner_check: cloth([238, 236, 228], [34, 32, 40], check),
};

export const TEXTURES: Record<string, Painter> = { snow, ice, rock, turf, boards, ...PLAIN };
