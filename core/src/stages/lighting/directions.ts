/** Sets of directions for sampling, and frames about one. */

import { cross, normalise, type Vec3 } from '../../math/vec3.ts';

/** Two unit vectors across n. */
export function frameOf(n: Vec3): [Vec3, Vec3] {
  const right = normalise(cross(Math.abs(n[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0], n));
  return [right, cross(n, right)];
}

/**
 * Cosine-weighted directions on the hemisphere about +z by Malley's method over a Hammersley set (Pharr,
 * Jakob and Humphreys, "Physically Based Rendering", 13.6.3): the mean over them estimates E/π.
 */
export function cosineDirections(count: number): Vec3[] {
  return Array.from({ length: count }, (_, i): Vec3 => {
    let bits = i;
    bits = ((bits << 16) | (bits >>> 16)) >>> 0;
    bits = (((bits & 0x55555555) << 1) | ((bits & 0xaaaaaaaa) >>> 1)) >>> 0;
    bits = (((bits & 0x33333333) << 2) | ((bits & 0xcccccccc) >>> 2)) >>> 0;
    bits = (((bits & 0x0f0f0f0f) << 4) | ((bits & 0xf0f0f0f0) >>> 4)) >>> 0;
    bits = (((bits & 0x00ff00ff) << 8) | ((bits & 0xff00ff00) >>> 8)) >>> 0;
    const radius = Math.sqrt((i + 0.5) / count);
    const angle = 2 * Math.PI * (bits * 2.3283064365386963e-10);
    return [radius * Math.cos(angle), radius * Math.sin(angle), Math.sqrt(Math.max(0, 1 - radius * radius))];
  });
}
