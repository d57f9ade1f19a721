/** Paths: points in order, walked at constant speed along straight pieces. */

import { distance, lerp, type Vec3 } from '../math/vec3.ts';
import type { MapEdit } from './edit.ts';
import type { GameMap, MapPath } from './schema.ts';
import { own } from '../own.ts';

const pieces = (path: MapPath): [Vec3, Vec3][] => {
  const ends = path.points.slice(1).map((p, i): [Vec3, Vec3] => [path.points[i], p]);
  return path.loop ? [...ends, [path.points[path.points.length - 1], path.points[0]]] : ends;
};

/** Length in units, the way back of a loop included. */
export const pathLength = (path: MapPath): number => pieces(path).reduce((sum, [a, b]) => sum + distance(a, b), 0);

/** The point `along` units from the beginning; loops go on, open paths end at their last point. */
export function pointAlong(path: MapPath, along: number): Vec3 {
  const whole = pathLength(path);
  let rest = path.loop && whole > 0 ? ((along % whole) + whole) % whole : Math.min(Math.max(0, along), whole);
  for (const [a, b] of pieces(path)) {
    const size = distance(a, b);
    if (rest <= size) return size > 0 ? lerp(a, b, rest / size) : a;
    rest -= size;
  }
  return path.loop ? path.points[0] : path.points[path.points.length - 1];
}

/** A path with a point moved, added behind another, or removed; two points always stay. */
export function changePath(map: GameMap, id: string, change: (points: Vec3[]) => Vec3[], name: string): MapEdit | null {
  const path = own(map.paths, id);
  if (!path) return null;
  const points = change(path.points.map((p): Vec3 => [...p]));
  return points.length >= 2 ? { name, changes: [{ of: 'paths', id, to: { ...path, points } }] } : null;
}
