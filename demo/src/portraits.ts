/** Stock portraits of the people of both games: a bust before a wall, drawn by formulas. Colours are sRGB 0..255. */

import { blend, fractal, noise, shade, step, type Rgb } from './noise.ts';

export const PORTRAITS = 6;

const SKIN: readonly Rgb[] = [
  [236, 200, 170],
  [198, 150, 112],
  [140, 96, 70],
];
const HAIR: readonly Rgb[] = [
  [60, 44, 34],
  [168, 120, 62],
  [196, 196, 200],
  [110, 50, 34],
];
const COAT: readonly Rgb[] = [
  [62, 74, 110],
  [110, 62, 74],
  [72, 96, 70],
];

/** @param which from 0 to below `PORTRAITS` */
export const portrait =
  (which: number) =>
  (u: number, v: number): Rgb => {
    const wall = shade([120, 112, 128], 0.55 + fractal(u, v, 5, 400 + which, 3) * 0.4);
    const [skin, hair, coat] = [SKIN[which % 3], HAIR[(which * 3 + 1) % 4], COAT[(which + 1) % 3]];
    const [x, y] = [u - 0.5, v - 0.42];
    const oval = (cx: number, cy: number, rx: number, ry: number) => Math.hypot((x - cx) / rx, (y - cy) / ry);
    const wide = 0.16 + noise(which / PORTRAITS, 0.3, 8, 410) * 0.03;
    const edge = (distance: number) => step(1.04, 0.98, distance);
    let colour = blend(wall, shade(coat, 0.8 + fractal(u, v, 20, 420, 2) * 0.3), edge(oval(0, 0.56, 0.4, 0.3)));
    colour = blend(colour, shade(skin, 0.78), edge(oval(0, 0.24, 0.075, 0.13)));
    colour = blend(colour, hair, edge(oval(0, -0.03, wide + 0.04, 0.24)));
    // Light falls from the left.
    colour = blend(colour, shade(skin, 0.98 - x * 0.9), edge(oval(0, 0.03, wide, 0.2)));
    if (which % 2 === 0) colour = blend(colour, hair, edge(oval(0, 0.17, wide * 0.8, 0.09)) * step(0.1, 0.13, y));
    for (const side of [-1, 1]) {
      colour = blend(colour, [34, 28, 30], edge(oval(side * 0.065, 0, 0.02, 0.017)));
      colour = blend(colour, shade(hair, 0.7), edge(oval(side * 0.066, -0.045, 0.036, 0.01)));
    }
    colour = blend(colour, shade(skin, 0.72), edge(oval(0.012, 0.06, 0.016, 0.03)));
    return blend(colour, [128, 58, 54], edge(oval(0, 0.125, 0.05, 0.011)));
  };

/** The path of a portrait in the game's base pack. */
export const portraitPath = (which: number): string => `textures/portrait_${(which % PORTRAITS) + 1}.ktx2`;
