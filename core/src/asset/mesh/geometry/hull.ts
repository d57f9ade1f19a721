/** Convex hulls of points in space. */

import { Vector3 } from 'three';
import { ConvexHull } from 'three/examples/jsm/math/ConvexHull.js';
import { boundsOf } from './surface.ts';
import { pointNumbers } from './topology.ts';

export interface Hull {
  /** Three per vertex. */
  positions: Float32Array;
  /** Three per triangle, counter-clockwise from outside. */
  indices: Uint32Array;
}

/** Up to so many points the hull is exact. */
const EXACT = 4096;
/** Directions in which the outermost points of larger sets are taken. */
const DIRECTIONS = 320;

/**
 * The hull of a set of points, or null where they lie in one plane, line or point. Of more than 4,096 points
 * only the outermost in 320 directions are taken, which on a sphere loses 2 % of the volume: physics needs
 * hulls of few faces, and a hull of a hundred thousand would cost more than everything else together.
 */
export function convexHull(points: Float32Array): Hull | null {
  const distinct = distinctPoints(points);
  return exactHull(distinct.length / 3 > EXACT ? outermost(distinct) : distinct);
}

/** The outermost points in directions spread evenly over the sphere (a Fibonacci lattice). */
function outermost(all: Float32Array): Float32Array {
  const points = columnEnds(all);
  const chosen = new Set<number>();
  for (let d = 0; d < DIRECTIONS; d++) {
    const z = 1 - (2 * d + 1) / DIRECTIONS;
    const angle = d * Math.PI * (3 - Math.sqrt(5));
    const r = Math.sqrt(1 - z * z);
    const x = Math.cos(angle) * r;
    const y = Math.sin(angle) * r;
    let best = 0;
    let most = -Infinity;
    for (let i = 0; i < points.length; i += 3) {
      const reach = points[i] * x + points[i + 1] * y + points[i + 2] * z;
      if (reach > most) {
        most = reach;
        best = i;
      }
    }
    chosen.add(best);
  }
  return Float32Array.from([...chosen].flatMap((i) => [points[i], points[i + 1], points[i + 2]]));
}

/** Cells along either side of the grids into which points are sorted. */
const COLUMNS = 48;

/**
 * Of the points above each cell of a grid, seen along every axis, the nearest and the furthest: whatever is
 * outermost in some direction is among them or beside one of them.
 */
function columnEnds(points: Float32Array): Float32Array {
  const { min, max } = boundsOf(points);
  const ends = new Int32Array(3 * 2 * COLUMNS * COLUMNS).fill(-1);
  const scale = [0, 1, 2].map((axis) => (COLUMNS - 1) / (max[axis] - min[axis] || 1));
  for (let axis = 0; axis < 3; axis++) {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const [su, sv, mu, mv] = [scale[u], scale[v], min[u], min[v]];
    for (let i = 0; i < points.length; i += 3) {
      const at = ((axis * COLUMNS + (((points[i + u] - mu) * su) | 0)) * COLUMNS + (((points[i + v] - mv) * sv) | 0)) * 2;
      const value = points[i + axis];
      if (ends[at] < 0 || value < points[ends[at] + axis]) ends[at] = i;
      if (ends[at + 1] < 0 || value > points[ends[at + 1] + axis]) ends[at + 1] = i;
    }
  }
  const kept = [...new Set(ends)].filter((i) => i >= 0);
  return Float32Array.from(kept.flatMap((i) => [points[i], points[i + 1], points[i + 2]]));
}

function distinctPoints(points: Float32Array): Float32Array {
  const { point, count } = pointNumbers(points);
  if (count * 3 === points.length) return points;
  const out = new Float32Array(count * 3);
  point.forEach((number, i) => out.set(points.subarray(i * 3, i * 3 + 3), number * 3));
  return out;
}

function exactHull(points: Float32Array): Hull | null {
  const distinct = Array.from({ length: points.length / 3 }, (_, i) => new Vector3(points[i * 3], points[i * 3 + 1], points[i * 3 + 2]));
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
