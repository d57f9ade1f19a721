import earcut from 'earcut';
import { cross, dot, normalise, sub, type Vec3 } from '../../../math/vec3.ts';
import { newell } from '../../../solid/winding.ts';
import { vertexAt } from '../model/model.ts';

/**
 * Triangulates one polygon in space, given by the numbers of its points. Answers triples of positions
 * within the polygon. Convex quads are fanned; all else is laid into its plane and clipped by ears.
 */
export function triangulate(corners: readonly number[], positions: ArrayLike<number>): number[] {
  if (corners.length === 3) return [0, 1, 2];
  const points = corners.map((index) => vertexAt(positions, index));
  const normal = normalise(newell(points));
  if (corners.length === 4) {
    const convex = points.every((p, i) => {
      const a = sub(points[(i + 1) % 4], p);
      const b = sub(points[(i + 2) % 4], points[(i + 1) % 4]);
      return dot(cross(a, b), normal) >= -1e-9;
    });
    if (convex) return [0, 1, 2, 0, 2, 3];
  }
  const helper: Vec3 = Math.abs(normal[2]) < 0.7 ? [0, 0, 1] : [1, 0, 0];
  const right = normalise(cross(helper, normal));
  const up = cross(normal, right);
  return earcut(points.flatMap((p) => [dot(p, right), dot(p, up)]));
}
