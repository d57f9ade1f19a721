/** Tileable value noise: the lattice wraps at `period`, so textures repeat without a seam. */

function lattice(x: number, y: number, seed: number): number {
  let h = (Math.imul(x, 374761393) + Math.imul(y, 668265263) + Math.imul(seed, 1274126177)) | 0;
  h = Math.imul(h ^ (h >>> 13), 1103515245);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/** Noise in 0..1 at (u, v) in 0..1 with `period` cells across. */
export function noise(u: number, v: number, period: number, seed: number, periodV = period): number {
  const x = u * period;
  const y = v * periodV;
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const fade = (t: number) => t * t * (3 - 2 * t);
  const [fx, fy] = [fade(x - i), fade(y - j)];
  const at = (a: number, b: number) => lattice(((a % period) + period) % period, ((b % periodV) + periodV) % periodV, seed);
  const top = at(i, j) * (1 - fx) + at(i + 1, j) * fx;
  const bottom = at(i, j + 1) * (1 - fx) + at(i + 1, j + 1) * fx;
  return top * (1 - fy) + bottom * fy;
}

/** Sum of octaves, in 0..1. */
export function fractal(u: number, v: number, period: number, seed: number, octaves = 4): number {
  let sum = 0;
  let weight = 0;
  for (let o = 0; o < octaves; o++) {
    const w = 0.55 ** o;
    sum += noise(u, v, period * 2 ** o, seed + o) * w;
    weight += w;
  }
  return sum / weight;
}

export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
export const step = (from: number, to: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
};

export type Rgb = [number, number, number];
export const blend = (a: Rgb, b: Rgb, t: number): Rgb => [mix(a[0], b[0], t), mix(a[1], b[1], t), mix(a[2], b[2], t)];
export const shade = (a: Rgb, f: number): Rgb => [a[0] * f, a[1] * f, a[2] * f];
