/** Boxes minus boxes: how the demo's rooms get their doors, hatches and windows. */

import type { Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';

export const box = (x0: number, y0: number, z0: number, x1: number, y1: number, z1: number): Box3 => ({ min: [x0, y0, z0], max: [x1, y1, z1] });

/** The parts of `from` outside `hole`, as at most six boxes; whole slabs along x first, then y, then z. */
export function boxMinusBox(from: Box3, hole: Box3): Box3[] {
  for (let axis = 0; axis < 3; axis++) if (from.min[axis] >= hole.max[axis] || from.max[axis] <= hole.min[axis]) return [from];
  const parts: Box3[] = [];
  const rest: Box3 = { min: [...from.min], max: [...from.max] };
  for (let axis = 0; axis < 3; axis++) {
    if (rest.min[axis] < hole.min[axis]) {
      const max: Vec3 = [...rest.max];
      max[axis] = hole.min[axis];
      parts.push({ min: [...rest.min], max });
      rest.min[axis] = hole.min[axis];
    }
    if (rest.max[axis] > hole.max[axis]) {
      const min: Vec3 = [...rest.min];
      min[axis] = hole.max[axis];
      parts.push({ min, max: [...rest.max] });
      rest.max[axis] = hole.max[axis];
    }
  }
  return parts;
}
