/**
 * Light in free space, for what moves: at every point of a grid the mean radiance over the sphere and its mean
 * direction (the first two bands of spherical harmonics). A matt surface with normal n there receives
 * E/π = c0 + 2 c1·n (Ramamoorthi and Hanrahan 2001: the cosine lobe weighs band 0 by π and band 1 by 2π/3).
 */

import { distance, type Vec3 } from '../../math/vec3.ts';
import type { Atlas } from './charts.ts';
import type { PointLight, SunLight } from '../../part/lightSource.ts';
import { castRay, type Bvh, type Hit } from './bvh.ts';
import { DARK, EMITTER, seenAlong } from './gather.ts';

export interface ProbeGrid {
  /** Position of the first probe and distance between neighbours, units. */
  origin: Vec3;
  spacing: number;
  /** Probes along x, y, z; x runs fastest. */
  counts: [number, number, number];
  /** 1 where a probe stands in free space. */
  free: number[];
  /** Twelve numbers per probe: c0 red, green, blue, then c1 x, y, z of red, of green, of blue. */
  light: number[];
}

/** More probes than this are not made; the grid is widened instead. */
const MOST_PROBES = 20_000;
const DIRECTIONS = 64;

/** Directions over the whole sphere on a Fibonacci spiral. */
export function sphereDirections(count: number): Vec3[] {
  return Array.from({ length: count }, (_, i): Vec3 => {
    const z = 1 - (2 * i + 1) / count;
    const r = Math.sqrt(1 - z * z);
    const angle = i * Math.PI * (3 - Math.sqrt(5));
    return [r * Math.cos(angle), r * Math.sin(angle), z];
  });
}

export interface ProbeScene {
  bvh: Bvh;
  atlas: Atlas;
  chartOfTriangle: Int32Array;
  /** E/π of the atlas, and reflectance and emission of every chart. */
  values: Float32Array;
  reflectance: Float32Array;
  emission: Float32Array;
  chartOfTexel: Int32Array;
  /** Radiance of the sky's cells and of surfaces without charts, three numbers each. */
  emitters: Float32Array;
  lights: readonly PointLight[];
  suns: readonly SunLight[];
  metresPerUnit: number;
}

const hit: Hit = { triangle: -1, distance: 0 };

/** @param box where things may move; @param isFree whether a point lies in the open within it */
export function lightProbes(scene: ProbeScene, box: { min: Vec3; max: Vec3 }, wanted: number, isFree: (point: Vec3) => boolean): ProbeGrid | null {
  if (wanted <= 0) return null;
  let spacing = wanted;
  const countsOf = () => [0, 1, 2].map((k) => Math.max(1, Math.ceil((box.max[k] - box.min[k]) / spacing))) as [number, number, number];
  while (countsOf().reduce((a, b) => a * b) > MOST_PROBES) spacing *= 1.25;
  const counts = countsOf();
  // Half a step from the box, evenly on both sides.
  const origin = [0, 1, 2].map((k) => (box.min[k] + box.max[k] - (counts[k] - 1) * spacing) / 2) as Vec3;
  const grid: ProbeGrid = { origin, spacing, counts, free: [], light: [] };
  const directions = sphereDirections(DIRECTIONS);
  for (let k = 0; k < counts[2]; k++)
    for (let j = 0; j < counts[1]; j++)
      for (let i = 0; i < counts[0]; i++) {
        const point: Vec3 = [origin[0] + i * spacing, origin[1] + j * spacing, origin[2] + k * spacing];
        const free = isFree(point);
        grid.free.push(free ? 1 : 0);
        grid.light.push(...(free ? probeAt(scene, point, directions) : new Array<number>(12).fill(0)));
      }
  return grid;
}

function probeAt(scene: ProbeScene, point: Vec3, directions: readonly Vec3[]): number[] {
  const { bvh, atlas, chartOfTriangle, values, reflectance, emission, chartOfTexel, emitters, lights, suns, metresPerUnit } = scene;
  const sum = new Array<number>(12).fill(0);
  const add = (radiance: ArrayLike<number>, at: number, scale: number, d: Vec3) => {
    for (let c = 0; c < 3; c++) {
      const value = radiance[at + c] * scale;
      sum[c] += value;
      for (let axis = 0; axis < 3; axis++) sum[3 + c * 3 + axis] += value * d[axis];
    }
  };
  for (const d of directions) {
    const seen = seenAlong(bvh, atlas, chartOfTriangle, point, d[0], d[1], d[2]);
    if (seen >= 0) {
      const chart = chartOfTexel[seen] * 3;
      const radiance = [0, 1, 2].map((c) => emission[chart + c] + reflectance[chart + c] * values[seen * 3 + c]);
      add(radiance, 0, 1 / directions.length, d);
    } else if (seen !== DARK) add(emitters, (EMITTER - seen) * 3, 1 / directions.length, d);
  }
  // A point light is a direction of the sphere with all its light: its mean over 4π is I / (4π d²).
  for (const light of lights) {
    const away = distance(light.position, point);
    if ((light.reach > 0 && away >= light.reach) || away < 1e-3) continue;
    const d = [0, 1, 2].map((k) => (light.position[k] - point[k]) / away) as Vec3;
    if (light.cone && -(d[0] * light.cone.direction[0] + d[1] * light.cone.direction[1] + d[2] * light.cone.direction[2]) < light.cone.outer)
      continue;
    if (castRay(bvh, point[0], point[1], point[2], d[0] * away, d[1] * away, d[2] * away, 0, 1, true, hit)) continue;
    const window = light.reach > 0 ? (1 - (away / light.reach) ** 4) ** 2 : 1;
    add(light.colour, 0, (light.intensity * window) / (4 * Math.PI * (away * metresPerUnit) ** 2), d);
  }
  for (const sun of suns) {
    const d = sun.towards;
    if (castRay(bvh, point[0], point[1], point[2], d[0], d[1], d[2], 0, 1e7, true, hit)) continue;
    // `intensity` is E/π of a surface that faces the sun: π times it over 4π.
    add(sun.colour, 0, sun.intensity / 4, d);
  }
  return sum.map((v) => Math.fround(v));
}

/**
 * E/π on a matt surface from the mean radiance of all directions and the mean of radiance times direction along the
 * normal (`along`) and at its largest (`strength`). The first order of spherical harmonics alone, `mean + 2 along`, is
 * below zero on the far side as soon as light comes mostly from one; this keeps the mean and never is. Formula of
 * G. Hazel, "Reconstructing Diffuse Lighting from Spherical Harmonic Data" (2015), from memory.
 */
export function matt(mean: number, along: number, strength: number): number {
  if (mean <= 0) return 0;
  // 0 for light from everywhere, 1 for light from one direction.
  const ratio = Math.min(1, strength / mean);
  const power = 1 + 2 * ratio;
  const floor = (1 - ratio) / (1 + ratio);
  const towards = strength > 0 ? Math.max(0, (1 + along / strength) / 2) : 0;
  return mean * (floor + (1 - floor) * (power + 1) * towards ** power);
}

/** E/π in a direction at a point, from the nearest free probes around it; null where there are none. */
export function probeLight({ origin, spacing, counts, free, light }: ProbeGrid, point: Vec3, normal: Vec3): [number, number, number] | null {
  const at = point.map((v, k) => Math.min(counts[k] - 1, Math.max(0, (v - origin[k]) / spacing)));
  let weight = 0;
  const sum: [number, number, number] = [0, 0, 0];
  for (let corner = 0; corner < 8; corner++) {
    let w = 1;
    const index = at.map((v, k) => {
      const low = Math.min(counts[k] - 1, Math.floor(v));
      const high = (corner >> k) & 1;
      w *= high ? v - low : 1 - (v - low);
      return Math.min(counts[k] - 1, low + high);
    });
    const probe = (index[2] * counts[1] + index[1]) * counts[0] + index[0];
    if (w <= 0 || !free[probe]) continue;
    weight += w;
    for (let c = 0; c < 3; c++) {
      const p = probe * 12;
      const d = p + 3 + c * 3;
      const [x, y, z] = [light[d], light[d + 1], light[d + 2]];
      sum[c] += w * matt(light[p + c], x * normal[0] + y * normal[1] + z * normal[2], Math.hypot(x, y, z));
    }
  }
  return weight > 0 ? [sum[0] / weight, sum[1] / weight, sum[2] / weight] : null;
}
