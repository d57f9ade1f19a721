/** A quick look at the light while the real one is computed: luxels four times as wide, few rays, laid over the same atlas. */

import { BORDER, blocksOf, type Atlas, type Chart } from './charts.ts';
import { coarserScene } from './coarse.ts';
import { chartLighter, finishLight, type LightScene, type LitCharts } from './light.ts';

const COARSER = 4;

export interface RoughLight {
  /** E/π, linear RGB per texel of the fine atlas; changed by `refine`. */
  values: Float32Array;
  /** Puts direct light that has been computed in its place; bounced light stays rough. */
  refine(part: LitCharts): void;
}

export function roughLight(scene: LightScene): RoughLight {
  const { atlas, options } = scene;
  const few = {
    hemisphereRays: Math.min(16, options.hemisphereRays),
    bounces: Math.min(2, options.bounces),
    supersample: 1,
    sunRays: Math.min(4, options.sunRays),
    denoise: 1,
  };
  const coarse = coarserScene({ ...scene, options: few }, COARSER);
  const charts = chartLighter(coarse)({ from: 0, to: blocksOf(coarse.atlas).length, direct: true, hits: true });
  const all = finishLight(coarse, charts);
  const direct = finishLight({ ...coarse, options: { ...coarse.options, bounces: 0 } }, charts);
  const values = spread(coarse.atlas, all, atlas);
  const indirect = spread(
    coarse.atlas,
    all.map((v, i) => v - direct[i]),
    atlas,
  );
  return {
    values,
    refine: ({ texels, direct: fine }) =>
      texels.forEach((texel, i) => {
        for (let k = 0; k < 3; k++) values[texel * 3 + k] = fine[i * 3 + k] + indirect[texel * 3 + k];
      }),
  };
}

/** Values of one atlas over the luxels of another one of the same surfaces, mixed linearly between luxel centres. */
function spread(from: Atlas, values: Float32Array, to: Atlas): Float32Array {
  const chartOf = new Map<number, Chart>();
  for (const chart of from.charts) for (const surface of chart.surfaces) chartOf.set(surface, chart);
  const result = new Float32Array(to.width * to.height * 3);
  for (const chart of to.charts) {
    const other = chartOf.get(chart.surfaces[0])!;
    /** Along one axis: the two luxels of the other chart about a centre, and the share of the second. */
    const along = (i: number, start: number, otherStart: number, most: number): [low: number, high: number, share: number] => {
      const at = (start + (i - BORDER + 0.5) * chart.luxel - otherStart) / other.luxel + BORDER - 0.5;
      const low = Math.min(most - 1, Math.max(0, Math.floor(at)));
      return [low, Math.min(most - 1, low + 1), Math.min(1, Math.max(0, at - low))];
    };
    for (let j = 0; j < chart.h; j++) {
      const [j0, j1, v] = along(j, chart.v0, other.v0, other.h);
      for (let i = 0; i < chart.w; i++) {
        const [i0, i1, u] = along(i, chart.u0, other.u0, other.w);
        const texel = (x: number, y: number) => ((other.y + y) * from.width + other.x + x) * 3;
        const [a, b, c, d] = [texel(i0, j0), texel(i1, j0), texel(i0, j1), texel(i1, j1)];
        const at = ((chart.y + j) * to.width + chart.x + i) * 3;
        for (let k = 0; k < 3; k++)
          result[at + k] = (values[a + k] * (1 - u) + values[b + k] * u) * (1 - v) + (values[c + k] * (1 - u) + values[d + k] * u) * v;
      }
    }
  }
  return result;
}
