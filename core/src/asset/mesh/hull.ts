/** Convex hulls of points in space. */

import { Vector3 } from 'three';
import { ConvexHull } from 'three/examples/jsm/math/ConvexHull.js';
import { pointNumbers } from './topology.ts';

export interface Hull {
  /** Three per vertex. */
  positions: Float32Array;
  /** Three per triangle, counter-clockwise from outside. */
  indices: Uint32Array;
}

/** The hull of a set of points, or null where they lie in one plane, line or point. */
export function convexHull(points: Float32Array): Hull | null {
  const { point, count } = pointNumbers(points);
  const seen = new Uint8Array(count);
  const distinct: Vector3[] = [];
  for (let i = 0; i < point.length; i++) {
    if (seen[point[i]]) continue;
    seen[point[i]] = 1;
    distinct.push(new Vector3(points[i * 3], points[i * 3 + 1], points[i * 3 + 2]));
  }
  if (distinct.length < 4 || isFlat(distinct)) return null;
  const hull = new ConvexHull().setFromPoints(distinct);
  const numbers = new Map<Vector3, number>();
  const positions: number[] = [];
  const indices: number[] = [];
  for (const face of hull.faces) {
    const corners: number[] = [];
    let edge = face.edge;
    do {
      const corner = edge.head().point;
      let number = numbers.get(corner);
      if (number === undefined) {
        numbers.set(corner, (number = numbers.size));
        positions.push(corner.x, corner.y, corner.z);
      }
      corners.push(number);
      edge = edge.next;
    } while (edge !== face.edge);
    for (let k = 2; k < corners.length; k++) indices.push(corners[0], corners[k - 1], corners[k]);
  }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}

/** Whether the points span no volume worth speaking of, against their extent. */
function isFlat(points: readonly Vector3[]): boolean {
  const [a] = points;
  const far = points.reduce((best, p) => (p.distanceToSquared(a) > best.distanceToSquared(a) ? p : best), a);
  const axis = far.clone().sub(a);
  const extent = axis.length();
  if (extent === 0) return true;
  axis.normalize();
  const away = (p: Vector3) => p.clone().sub(a).cross(axis).length();
  const wide = points.reduce((best, p) => (away(p) > away(best) ? p : best), a);
  const normal = wide.clone().sub(a).cross(axis);
  if (normal.length() < extent * 1e-6) return true;
  normal.normalize();
  return points.every((p) => Math.abs(p.clone().sub(a).dot(normal)) < extent * 1e-5);
}
