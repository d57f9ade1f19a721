/** Makes pictures smaller or larger by averaging the source area under each target pixel. */

import { linearToSrgb, srgbToLinear } from '../../math/srgb.ts';
import type { LightPicture, Picture } from './picture.ts';

/**
 * What the numbers mean, and so how they are averaged: colours in linear light and weighted by alpha (so
 * that transparent pixels do not bleed), data as it stands, normals as unit vectors.
 */
export type Meaning = 'colour' | 'data' | 'normal';

const TO_LINEAR = Float32Array.from({ length: 256 }, (_, i) => srgbToLinear(i / 255));
/** Linear light in 4096 steps back to sRGB: finer than a step of 8 bits everywhere. */
const STEPS = 4096;
const TO_SRGB = Uint8Array.from({ length: STEPS + 1 }, (_, i) => Math.round(linearToSrgb(i / STEPS) * 255));
/** Near black the curve is steep, so exact values are used there. */
const EXACT_BELOW = 0.02;

const encode = (linear: number): number =>
  linear < EXACT_BELOW ? Math.round(linearToSrgb(Math.max(0, linear)) * 255) : TO_SRGB[Math.round(Math.min(1, linear) * STEPS)];

export function resizePicture(picture: Picture, width: number, height: number, meaning: Meaning = 'colour'): Picture {
  if (width === picture.width && height === picture.height) return picture;
  const columns = coverage(picture.width, width);
  const rows = coverage(picture.height, height);
  const data = new Uint8Array(width * height * 4);
  const source = picture.data;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [r, g, b, a, total] = [0, 0, 0, 0, 0];
      for (let i = rows.start[y]; i < rows.start[y + 1]; i++) {
        const line = rows.cell[i] * picture.width;
        for (let j = columns.start[x]; j < columns.start[x + 1]; j++) {
          const at = (line + columns.cell[j]) * 4;
          const weight = rows.weight[i] * columns.weight[j];
          total += weight;
          if (meaning === 'colour') {
            const covered = (source[at + 3] / 255) * weight;
            r += TO_LINEAR[source[at]] * covered;
            g += TO_LINEAR[source[at + 1]] * covered;
            b += TO_LINEAR[source[at + 2]] * covered;
            a += covered;
          } else {
            r += source[at] * weight;
            g += source[at + 1] * weight;
            b += source[at + 2] * weight;
            a += source[at + 3] * weight;
          }
        }
      }
      const out = (y * width + x) * 4;
      if (meaning === 'colour') {
        if (a > 0) {
          data[out] = encode(r / a);
          data[out + 1] = encode(g / a);
          data[out + 2] = encode(b / a);
        }
        data[out + 3] = Math.round((a / total) * 255);
      } else {
        data[out] = Math.round(r / total);
        data[out + 1] = Math.round(g / total);
        data[out + 2] = Math.round(b / total);
        data[out + 3] = Math.round(a / total);
        if (meaning === 'normal') renormalise(data, out, r / total, g / total, b / total);
      }
    }
  }
  return { width, height, data };
}

/** Averaged unit vectors are shorter than 1; shading needs them long again. */
function renormalise(data: Uint8Array, at: number, r: number, g: number, b: number): void {
  const [x, y, z] = [r / 127.5 - 1, g / 127.5 - 1, b / 127.5 - 1];
  const size = Math.hypot(x, y, z);
  if (size < 1e-3) data.set([128, 128, 255], at);
  else for (const [k, v] of [x, y, z].entries()) data[at + k] = Math.round((v / size + 1) * 127.5);
}

/** For every target cell the source cells under it and the share of each, filed one after another. */
function coverage(from: number, to: number): { start: Uint32Array; cell: number[]; weight: number[] } {
  const step = from / to;
  const start = new Uint32Array(to + 1);
  const cell: number[] = [];
  const weight: number[] = [];
  for (let i = 0; i < to; i++) {
    const [low, high] = [i * step, (i + 1) * step];
    for (let c = Math.floor(low); c < Math.min(from, Math.ceil(high - 1e-9)); c++) {
      const share = Math.min(high, c + 1) - Math.max(low, c);
      if (share <= 0) continue;
      cell.push(c);
      weight.push(share);
    }
    start[i + 1] = cell.length;
  }
  return { start, cell, weight };
}

export function resizeLight(picture: LightPicture, width: number, height: number): LightPicture {
  if (width === picture.width && height === picture.height) return picture;
  const columns = coverage(picture.width, width);
  const rows = coverage(picture.height, height);
  const light = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const out = (y * width + x) * 4;
      let total = 0;
      for (let i = rows.start[y]; i < rows.start[y + 1]; i++)
        for (let j = columns.start[x]; j < columns.start[x + 1]; j++) {
          const weight = rows.weight[i] * columns.weight[j];
          const at = (rows.cell[i] * picture.width + columns.cell[j]) * 4;
          for (let k = 0; k < 4; k++) light[out + k] += picture.light[at + k] * weight;
          total += weight;
        }
      for (let k = 0; k < 4; k++) light[out + k] /= total;
    }
  return { width, height, light };
}

/** Mean colour in linear light, weighted by alpha. */
export function meanColour(picture: Picture): [number, number, number] {
  const sum = [0, 0, 0];
  let weight = 0;
  for (let i = 0; i < picture.data.length; i += 4) {
    const alpha = picture.data[i + 3] / 255;
    for (let k = 0; k < 3; k++) sum[k] += TO_LINEAR[picture.data[i + k]] * alpha;
    weight += alpha;
  }
  return sum.map((v) => (weight > 0 ? v / weight : 0)) as [number, number, number];
}
