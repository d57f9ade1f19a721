/** Where the sun stands in a picture of the whole sky. */

import { srgbToLinear } from '../math/srgb.ts';

/**
 * The brightest spot of an equirectangular picture (width twice the height, horizon in the middle, its left
 * edge at turn 180°, going clockwise seen from above): the mean direction of the brightest thousandth of its
 * upper half, each pixel weighed by the solid angle it covers, and its colour scaled to full brightness.
 *
 * @param pixels RGBA bytes, sRGB, row by row from the top
 */
export function estimateSun(
  pixels: Uint8ClampedArray | Uint8Array,
  width: number,
  height: number,
): { turn: number; height: number; colour: string } | null {
  const rows = Math.floor(height / 2);
  if (rows < 1 || width < 2) return null;
  const linear = (at: number): number =>
    0.2126 * srgbToLinear(pixels[at] / 255) + 0.7152 * srgbToLinear(pixels[at + 1] / 255) + 0.0722 * srgbToLinear(pixels[at + 2] / 255);
  const all: { at: number; light: number }[] = [];
  for (let i = 0; i < rows * width; i++) all.push({ at: i, light: linear(i * 4) });
  all.sort((a, b) => b.light - a.light);
  const chosen = all.slice(0, Math.max(1, Math.round(all.length / 1000)));
  const sum = [0, 0, 0];
  const colour = [0, 0, 0];
  for (const { at, light } of chosen) {
    const latitude = (0.5 - (Math.floor(at / width) + 0.5) / height) * Math.PI;
    const longitude = Math.PI - (((at % width) + 0.5) / width) * 2 * Math.PI;
    const weight = light * Math.cos(latitude);
    sum[0] += weight * Math.cos(latitude) * Math.cos(longitude);
    sum[1] += weight * Math.cos(latitude) * Math.sin(longitude);
    sum[2] += weight * Math.sin(latitude);
    for (let k = 0; k < 3; k++) colour[k] += pixels[at * 4 + k];
  }
  const size = Math.hypot(...sum);
  if (size < 1e-12) return null;
  const most = Math.max(...colour, 1);
  const hex = colour
    .map((c) =>
      Math.round((c / most) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('');
  return { turn: ((Math.atan2(sum[1], sum[0]) * 180) / Math.PI + 360) % 360, height: (Math.asin(sum[2] / size) * 180) / Math.PI, colour: `#${hex}` };
}
