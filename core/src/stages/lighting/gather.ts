/** Where the hemisphere over a luxel looks: what every ray of a fixed set meets, kept so that light can bounce along it again. */

import type { Vec3 } from '../../math/vec3.ts';
import { castRay, type Bvh, type Hit } from './bvh.ts';
import { chartCoordinates, type Atlas, type Chart } from './charts.ts';
import { SKY_CELLS, skyCell } from './skyCells.ts';

/** A ray that meets something without light of its own. */
export const DARK = -1;
/** -2 - m: the emitter m. The first SKY_CELLS emitters are the sky's cells, then come surfaces without charts that give off light. */
export const EMITTER = -2;

export interface Scene {
  bvh: Bvh;
  atlas: Atlas;
  /** Chart of every triangle; -1 - m for a triangle without one, where m is its emitter or NO_EMITTER. */
  chartOfTriangle: Int32Array;
}

/** Stands for the emitter of a surface that gives off nothing. */
export const NO_EMITTER = 0x3fffffff;

const hit: Hit = { triangle: -1, distance: 0 };

/** Writes what each direction meets, from `at` on: a texel of the atlas, or one of the codes above. */
export function gatherHits(
  { bvh, atlas, chartOfTriangle }: Scene,
  point: Vec3,
  chart: Chart,
  texel: number,
  directions: readonly Vec3[],
  hits: Int32Array,
  at: number,
): void {
  // Rotating the set per luxel turns banding into noise; the angle depends on the luxel alone.
  const angle = ((texel * 2654435761) >>> 0) * (2 * Math.PI * 2.3283064365386963e-10);
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const { u, v, normal } = chart;
  for (let r = 0; r < directions.length; r++) {
    const [a, b, z] = directions[r];
    const x = a * c - b * s;
    const y = a * s + b * c;
    const dx = u[0] * x + v[0] * y + normal[0] * z;
    const dy = u[1] * x + v[1] * y + normal[1] * z;
    const dz = u[2] * x + v[2] * y + normal[2] * z;
    hits[at + r] = seenAlong(bvh, atlas, chartOfTriangle, point, dx, dy, dz);
  }
}

/** What a ray from a point meets first, as a texel or a code. */
export function seenAlong(bvh: Bvh, atlas: Atlas, chartOfTriangle: Int32Array, point: Vec3, dx: number, dy: number, dz: number): number {
  if (!castRay(bvh, point[0], point[1], point[2], dx, dy, dz, 0, 1e7, false, hit)) return EMITTER - skyCell(dx, dy, dz);
  const owner = chartOfTriangle[hit.triangle];
  if (owner < 0) return owner === -1 - NO_EMITTER ? DARK : EMITTER - SKY_CELLS - (-1 - owner);
  const other = atlas.charts[owner];
  // Seen from behind, a surface gives no light.
  if (dx * other.normal[0] + dy * other.normal[1] + dz * other.normal[2] >= 0) return DARK;
  const d = hit.distance;
  const [i, j] = chartCoordinates(other, [point[0] + dx * d, point[1] + dy * d, point[2] + dz * d]);
  return (other.y + Math.min(other.h - 1, Math.max(0, Math.floor(j)))) * atlas.width + other.x + Math.min(other.w - 1, Math.max(0, Math.floor(i)));
}
