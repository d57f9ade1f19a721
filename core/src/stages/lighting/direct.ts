/**
 * Direct light from point lights, spots and suns, with shadow rays.
 *
 * The lightmap holds E/π (irradiance over π): 1 is what makes a matt white surface look white.
 * A point light of intensity I (candela) gives E = I cos θ / d², d in metres (inverse square law and
 * Lambert's cosine law). Where a light has a reach r, that is multiplied by the window (1 - (d/r)⁴)²,
 * which is 1 near the light and falls smoothly to 0 at r, so that far charts need no ray.
 */

import { dot, type Vec3 } from '../../math/vec3.ts';
import type { PointLight, SunLight } from '../../part/lightSource.ts';
import { castRay, type Bvh, type Hit } from './bvh.ts';
import { frameOf } from './directions.ts';

const scratchHit: Hit = { triangle: -1, distance: 0 };

/**
 * Adds what arrives at a point from lights that reach it. A ball that is wholly above the horizon lights as a point at
 * its centre would (configuration factor of a sphere from a plane element: (r/d)² cos θ); how much of it is hidden
 * `rays` over its disc tell.
 */
export function addPointLights(
  lights: readonly PointLight[],
  metresPerUnit: number,
  bvh: Bvh,
  point: Vec3,
  normal: Vec3,
  seed: number,
  rays: number,
  sum: number[],
): void {
  for (const light of lights) {
    const dx = light.position[0] - point[0];
    const dy = light.position[1] - point[1];
    const dz = light.position[2] - point[2];
    const squared = dx * dx + dy * dy + dz * dz;
    if (light.reach > 0 && squared >= light.reach * light.reach) continue;
    const along = dx * normal[0] + dy * normal[1] + dz * normal[2];
    if (along <= 0 || squared < 1e-9) continue;
    const spread = light.cone ? coneFade(light.cone, dx, dy, dz, Math.sqrt(squared)) : 1;
    if (spread === 0) continue;
    const free = light.radius ? freeShare(bvh, point, [dx, dy, dz], light.radius, seed, rays) : isFree(bvh, point, dx, dy, dz, 1) ? 1 : 0;
    if (free === 0) continue;
    const cosine = along / Math.sqrt(squared);
    const metresSquared = squared * metresPerUnit * metresPerUnit;
    const window = light.reach > 0 ? (1 - (squared / (light.reach * light.reach)) ** 2) ** 2 : 1;
    const value = (light.intensity * cosine * window * spread * free) / metresSquared / Math.PI;
    for (let k = 0; k < 3; k++) sum[k] += value * light.colour[k];
  }
}

/** 1 within the inner cone, 0 outside the outer one, and a smooth step between. (dx, dy, dz) leads to the light. */
function coneFade(cone: NonNullable<PointLight['cone']>, dx: number, dy: number, dz: number, distance: number): number {
  const cosine = -(cone.direction[0] * dx + cone.direction[1] * dy + cone.direction[2] * dz) / distance;
  if (cosine <= cone.outer) return 0;
  if (cosine >= cone.inner) return 1;
  const t = (cosine - cone.outer) / (cone.inner - cone.outer);
  return t * t * (3 - 2 * t);
}

const isFree = (bvh: Bvh, point: Vec3, dx: number, dy: number, dz: number, most: number): boolean =>
  !castRay(bvh, point[0], point[1], point[2], dx, dy, dz, 0, most, true, scratchHit);

/** Share of a disc about the end of `to`, square to it, that can be seen from a point: `rays` over it, turned by luxel against banding. */
function freeShare(bvh: Bvh, point: Vec3, to: Vec3, radius: number, seed: number, rays: number, most = 1): number {
  const size = Math.hypot(...to);
  const [right, up] = frameOf([to[0] / size, to[1] / size, to[2] / size]);
  const count = Math.max(1, rays);
  const turn = ((seed * 2654435761) >>> 0) * (2 * Math.PI * 2.3283064365386963e-10);
  let free = 0;
  for (let i = 0; i < count; i++) {
    // A Fibonacci spiral covers the disc evenly: r = √((i + ½)/n), golden angle between neighbours.
    const r = count > 1 ? radius * Math.sqrt((i + 0.5) / count) : 0;
    const angle = turn + i * Math.PI * (3 - Math.sqrt(5));
    const [a, b] = [r * Math.cos(angle), r * Math.sin(angle)];
    if (isFree(bvh, point, to[0] + right[0] * a + up[0] * b, to[1] + right[1] * a + up[1] * b, to[2] + right[2] * a + up[2] * b, most)) free++;
  }
  return free / count;
}

/** Adds what arrives from suns; a sun that is wide casts `rays` over its disc. */
export function addSuns(suns: readonly SunLight[], bvh: Bvh, point: Vec3, normal: Vec3, seed: number, rays: number, sum: number[]): void {
  for (const sun of suns) {
    const cosine = dot(sun.towards, normal);
    if (cosine <= 0) continue;
    const free = freeShare(bvh, point, sun.towards, Math.tan(sun.size / 2), seed, sun.size > 0 ? rays : 1, 1e7);
    for (let k = 0; k < 3; k++) sum[k] += sun.intensity * cosine * free * sun.colour[k];
  }
}
