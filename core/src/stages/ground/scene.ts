/** What light on the ground comes from, and what stands in its way. */

import type { PointLight, SunLight } from '../../part/lightSource.ts';
import { skyCellLight, type Sky } from '../lighting/skyCells.ts';
import type { BuiltGround } from './stage.ts';

export interface DaylightScene {
  grounds: readonly Pick<BuiltGround, 'id' | 'nx' | 'ny' | 'origin' | 'spacing' | 'heights'>[];
  /** Three corners per triangle, nine numbers each. */
  occluders: Float32Array;
  /** How far the triangles of the ground may lie off it, units. */
  error: number;
  suns: readonly SunLight[];
  lights: readonly PointLight[];
  sky: Sky;
  /** Linear reflectance of the ground on the whole. */
  albedo: [number, number, number];
  metresPerUnit: number;
}

/**
 * What ground in the open sends back, as radiance: E/π of the upper half of the sky and of suns on level ground, times its
 * reflectance; a little less, since slopes shade each other (a matter of taste).
 */
export function hillLight({ suns, sky, albedo }: Pick<DaylightScene, 'suns' | 'sky' | 'albedo'>): [number, number, number] {
  const cells = skyCellLight(sky, suns.length > 0);
  const half = cells.length / 2;
  return albedo.map((share, k) => {
    let above = 0;
    for (let i = k; i < half; i += 3) above += cells[i];
    const sun = suns.reduce((sum, { colour, intensity, towards }) => sum + colour[k] * intensity * Math.max(0, towards[2]), 0);
    return share * (above / (half / 3) + sun) * 0.8;
  }) as [number, number, number];
}
