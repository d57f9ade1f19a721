/**
 * Takes the grain out of what was gathered with few rays: an à-trous filter (Dammertz et al. 2010) within each chart,
 * weighted by likeness so that edges of light stay. What is compared is the mean about each luxel: single ones differ by
 * their grain alone. Only indirect light is filtered: direct light has no grain.
 */

import type { Atlas, Chart } from './charts.ts';

/** B3 spline, as in the source. */
const KERNEL = [1 / 16, 1 / 4, 3 / 8, 1 / 4, 1 / 16];
/** How unlike two luxels may be, relative to their mean, to be mixed fully. */
const LIKENESS = 0.35;

/**
 * @param values linear RGB per texel of the atlas, changed in place
 * @param covered which texels hold light
 * @param passes each one doubles the reach: 1, 2, 4 … luxels
 */
export function denoise(values: Float32Array, covered: Uint8Array, atlas: Atlas, passes: number): void {
  for (const chart of atlas.charts) for (let pass = 0; pass < passes; pass++) filterChart(values, covered, atlas.width, chart, 1 << pass);
}

function filterChart(values: Float32Array, covered: Uint8Array, width: number, { x: x0, y: y0, w, h }: Chart, stride: number): void {
  const next = new Float32Array(w * h * 3);
  const guide = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let [sum, n] = [0, 0];
      for (let ny = Math.max(0, y - 1); ny <= Math.min(h - 1, y + 1); ny++)
        for (let nx = Math.max(0, x - 1); nx <= Math.min(w - 1, x + 1); nx++) {
          const texel = (y0 + ny) * width + x0 + nx;
          if (!covered[texel]) continue;
          sum += values[texel * 3] + values[texel * 3 + 1] + values[texel * 3 + 2];
          n++;
        }
      guide[y * w + x] = n > 0 ? sum / n : 0;
    }
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const own = (y0 + y) * width + x0 + x;
      if (!covered[own]) continue;
      const ownLight = guide[y * w + x];
      let weight = 0;
      let [r, g, b] = [0, 0, 0];
      for (let dy = -2; dy <= 2; dy++) {
        const ny = y + dy * stride;
        if (ny < 0 || ny >= h) continue;
        for (let dx = -2; dx <= 2; dx++) {
          const nx = x + dx * stride;
          if (nx < 0 || nx >= w) continue;
          const other = (y0 + ny) * width + x0 + nx;
          if (!covered[other]) continue;
          const light = guide[ny * w + nx];
          const unlike = (light - ownLight) / (LIKENESS * (light + ownLight) * 0.5 + 1e-5);
          const k = KERNEL[dx + 2] * KERNEL[dy + 2] * Math.exp(-unlike * unlike);
          weight += k;
          r += values[other * 3] * k;
          g += values[other * 3 + 1] * k;
          b += values[other * 3 + 2] * k;
        }
      }
      const at = (y * w + x) * 3;
      next[at] = r / weight;
      next[at + 1] = g / weight;
      next[at + 2] = b / weight;
    }
  }
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const own = (y0 + y) * width + x0 + x;
      if (covered[own]) values.set(next.subarray((y * w + x) * 3, (y * w + x) * 3 + 3), own * 3);
    }
}
