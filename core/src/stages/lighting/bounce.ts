/**
 * Light that bounces between matt surfaces, by repeated gathering along fixed rays (the Neumann series of the
 * radiosity equation B = E + ρ·F·B; Goral et al. 1984): every round brings the light of one bounce more.
 */

import { DARK, EMITTER } from './gather.ts';

export interface BounceInputs {
  /** Luxels that are lit, as texels of the atlas; the other arrays follow this order. */
  texels: Uint32Array;
  /** E/π that arrives directly, three numbers per luxel. */
  direct: Float32Array;
  /** `rays` entries per luxel, as `gather.ts` writes them. */
  hits: Int32Array;
  rays: number;
  /** Index of the chart of every luxel, and of every chart its reflectance and its emission (radiance), three numbers each. */
  chartOf: Uint32Array;
  reflectance: Float32Array;
  emission: Float32Array;
  /** Radiance of the sky's cells and of surfaces without charts, three numbers each. */
  emitters: Float32Array;
  texelCount: number;
}

/** E/π that arrives indirectly after a number of bounces, three numbers per luxel; sky and emitters count as the first. */
export function bounceLight(inputs: BounceInputs, bounces: number): Float32Array {
  const { texels, direct, hits, rays, chartOf, reflectance, emission, emitters, texelCount } = inputs;
  const count = texels.length;
  const indirect = new Float32Array(count * 3);
  if (rays === 0 || bounces === 0) return indirect;
  // What every texel gives off towards those who see it: radiance, since E/π times reflectance is radiance of a matt surface.
  const radiance = new Float32Array(texelCount * 3);
  for (let round = 0; round < bounces; round++) {
    for (let i = 0; i < count; i++) {
      const [t, c] = [texels[i] * 3, chartOf[i] * 3];
      for (let k = 0; k < 3; k++) radiance[t + k] = emission[c + k] + reflectance[c + k] * (direct[i * 3 + k] + indirect[i * 3 + k]);
    }
    let largest = 0;
    for (let i = 0; i < count; i++) {
      const [r, g, b] = meanRadiance(hits, i * rays, (i + 1) * rays, radiance, emitters);
      const before = indirect[i * 3] + indirect[i * 3 + 1] + indirect[i * 3 + 2];
      indirect[i * 3] = r;
      indirect[i * 3 + 1] = g;
      indirect[i * 3 + 2] = b;
      largest = Math.max(largest, Math.abs(r + g + b - before));
    }
    // Later rounds would change nothing that can be seen.
    if (largest < 1e-4) break;
  }
  return indirect;
}

/**
 * Mean of what rays of equal weight see: E/π where they are spread by the cosine.
 *
 * @param hits what the rays `from` to `to` meet
 * @param radiance three numbers per texel; @param emitters three per emitter
 */
export function meanRadiance(
  hits: Int32Array,
  from: number,
  to: number,
  radiance: Float32Array,
  emitters: Float32Array,
): [r: number, g: number, b: number] {
  let [r, g, b] = [0, 0, 0];
  for (let at = from; at < to; at++) {
    const hit = hits[at];
    if (hit >= 0) {
      r += radiance[hit * 3];
      g += radiance[hit * 3 + 1];
      b += radiance[hit * 3 + 2];
    } else if (hit !== DARK) {
      const m = (EMITTER - hit) * 3;
      r += emitters[m];
      g += emitters[m + 1];
      b += emitters[m + 2];
    }
  }
  const count = to - from || 1;
  return [r / count, g / count, b / count];
}
