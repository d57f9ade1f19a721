/**
 * Light of sun, sky and lamps on the ground, in points that lie on its samples: soft shadows of the ground on itself and of solids on
 * the ground, as the lightmap of solids has them. What the ground sends back is taken as its brightness in the open.
 */

import type { Vec3 } from '../../math/vec3.ts';
import { gradient, gridHeights } from '../../terrain/relief.ts';
import { buildBvh, castRay } from '../lighting/bvh.ts';
import { addPointLights, addSuns } from '../lighting/direct.ts';
import { cosineDirections, frameOf } from '../lighting/directions.ts';
import { skyCell, skyCellLight } from '../lighting/skyCells.ts';
import { hillLight, type DaylightScene } from './scene.ts';

export interface GroundLight {
  id: string;
  width: number;
  height: number;
  /** Samples from one point to the next. */
  stride: number;
  /** E/π, three numbers a point, row by row from the least y. */
  values: Float32Array;
}

export interface DaylightOutput {
  grounds: GroundLight[];
}

export interface DaylightOptions {
  /** Wanted distance of points of light, units. */
  luxel: number;
  /** Rays to the sky a point, and to a wide sun. */
  skyRays: number;
  sunRays: number;
}

/** Longest side of the light of a ground, in points. */
const SIDE = 1024;

export function buildDaylight(scene: DaylightScene, options: DaylightOptions, onProgress: (fraction: number) => void): DaylightOutput {
  const bvh = buildBvh(scene.occluders);
  const sky = skyCellLight(scene.sky, scene.suns.length > 0);
  const directions = cosineDirections(options.skyRays);
  const hit = { triangle: -1, distance: 0 };
  const open = hillLight(scene);
  const total = scene.grounds.reduce((sum, { nx, ny }) => sum + nx * ny, 0) || 1;
  let done = 0;

  const lightOf = ({ id, nx, ny, origin, spacing, heights }: DaylightScene['grounds'][number]): GroundLight => {
    const stride = 2 ** Math.max(0, Math.ceil(Math.log2(Math.max(options.luxel / spacing, (Math.max(nx, ny) - 1) / SIDE))));
    const [width, height] = [Math.ceil((nx - 1) / stride) + 1, Math.ceil((ny - 1) / stride) + 1];
    const values = new Float32Array(width * height * 3);
    const field = gridHeights(heights, nx, ny);
    // Off the surface by what the mesh that casts shadows may lie above it.
    const lift = scene.error * 1.5 + spacing * 0.02;
    for (let row = 0; row < height; row++) {
      for (let column = 0; column < width; column++) {
        const [i, j] = [Math.min(nx - 1, column * stride), Math.min(ny - 1, row * stride)];
        const [dx, dy] = gradient(field, i, j, spacing);
        const size = Math.sqrt(1 + dx * dx + dy * dy);
        const normal: Vec3 = [-dx / size, -dy / size, 1 / size];
        const point: Vec3 = [origin[0] + i * spacing, origin[1] + j * spacing, heights[j * nx + i] + lift];
        const sum = [0, 0, 0];
        const seed = row * width + column;
        addSuns(scene.suns, bvh, point, normal, seed, options.sunRays, sum);
        addPointLights(scene.lights, scene.metresPerUnit, bvh, point, normal, seed, 1, sum);
        const [u, v] = frameOf(normal);
        // The set is turned from point to point, so that few rays leave grain instead of bands.
        const turn = ((seed * 2654435761) >>> 0) * (2 * Math.PI * 2.3283064365386963e-10);
        const [c, s] = [Math.cos(turn), Math.sin(turn)];
        for (const [a, b, z] of directions) {
          const [x, y] = [a * c - b * s, a * s + b * c];
          const wx = u[0] * x + v[0] * y + normal[0] * z;
          const wy = u[1] * x + v[1] * y + normal[1] * z;
          const wz = u[2] * x + v[2] * y + normal[2] * z;
          const seesSky = wz > 0 && !castRay(bvh, point[0], point[1], point[2], wx, wy, wz, 0, 1e7, true, hit);
          const cell = skyCell(wx, wy, wz);
          for (let k = 0; k < 3; k++) sum[k] += (seesSky ? sky[cell * 3 + k] : open[k]) / directions.length;
        }
        values.set(sum, seed * 3);
      }
      if (row % 8 === 0) onProgress((done + (row / height) * nx * ny) / total);
    }
    done += nx * ny;
    return { id, width, height, stride, values: smoothed(values, width, height) };
  };
  return { grounds: scene.grounds.map(lightOf) };
}

/** A little of each neighbour: rays leave grain, and light in the open has no edges finer than its points. */
function smoothed(values: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(values.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0];
      let weight = 0;
      for (let b = -1; b <= 1; b++)
        for (let a = -1; a <= 1; a++) {
          const [i, j] = [x + a, y + b];
          if (i < 0 || j < 0 || i >= width || j >= height) continue;
          const w = (a === 0 ? 2 : 1) * (b === 0 ? 2 : 1);
          for (let k = 0; k < 3; k++) sum[k] += values[(j * width + i) * 3 + k] * w;
          weight += w;
        }
      for (let k = 0; k < 3; k++) out[(y * width + x) * 3 + k] = sum[k] / weight;
    }
  return out;
}
