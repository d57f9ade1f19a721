/** Axis-aligned boxes. An empty box has `min > max`. */

import type { Vec3 } from './vec3.ts';

export interface Box3 {
  min: Vec3;
  max: Vec3;
}

export const emptyBox = (): Box3 => ({ min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] });

/** Grows `box` in place to contain `point`. */
export function expandBox(box: Box3, point: ArrayLike<number>): void {
  for (let axis = 0; axis < 3; axis++) {
    if (point[axis] < box.min[axis]) box.min[axis] = point[axis];
    if (point[axis] > box.max[axis]) box.max[axis] = point[axis];
  }
}

export function boxOfPoints(points: Iterable<ArrayLike<number>>): Box3 {
  const box = emptyBox();
  for (const point of points) expandBox(box, point);
  return box;
}

/** True where the boxes share at least a point, grown by `margin`. */
export function boxesTouch(a: Box3, b: Box3, margin = 0): boolean {
  for (let axis = 0; axis < 3; axis++) {
    if (a.min[axis] > b.max[axis] + margin || b.min[axis] > a.max[axis] + margin) return false;
  }
  return true;
}

export const boxSize = (box: Box3): Vec3 => [box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]];
export const boxCentre = (box: Box3): Vec3 => [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, (box.min[2] + box.max[2]) / 2];
export const boxCorners = ({ min, max }: Box3): Vec3[] =>
  [0, 1, 2, 3, 4, 5, 6, 7].map((i) => [0, 1, 2].map((axis) => (i & (1 << axis) ? max : min)[axis]) as Vec3);
