/** Where rays meet boxes and convex solids. */

import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Solid } from '../document/schema.ts';

/** Where a ray enters a box, or Infinity where it misses. A ray that begins inside enters at 0. */
export function rayBox({ min, max }: Box3, origin: Vec3, direction: Vec3): number {
  let near = 0;
  let far = Infinity;
  for (let axis = 0; axis < 3; axis++) {
    const d = direction[axis];
    if (d === 0) {
      if (origin[axis] < min[axis] || origin[axis] > max[axis]) return Infinity;
      continue;
    }
    const a = (min[axis] - origin[axis]) / d;
    const b = (max[axis] - origin[axis]) / d;
    near = Math.max(near, Math.min(a, b));
    far = Math.min(far, Math.max(a, b));
    if (near > far) return Infinity;
  }
  return near;
}

/** Where a ray enters a convex solid from outside, or null. */
export function raySolid(solid: Solid, origin: Vec3, direction: Vec3): { face: number; t: number } | null {
  let near = -Infinity;
  let far = Infinity;
  let entered = -1;
  for (let i = 0; i < solid.faces.length; i++) {
    const { normal, distance } = solid.faces[i];
    const away = normal[0] * origin[0] + normal[1] * origin[1] + normal[2] * origin[2] - distance;
    const speed = normal[0] * direction[0] + normal[1] * direction[1] + normal[2] * direction[2];
    if (speed === 0) {
      if (away > 0) return null;
      continue;
    }
    const t = -away / speed;
    if (speed < 0) {
      if (t > near) {
        near = t;
        entered = i;
      }
    } else if (t < far) far = t;
    if (near > far) return null;
  }
  return entered >= 0 && near >= 0 ? { face: entered, t: near } : null;
}

/** The face by which a ray from inside a convex solid leaves it, or null where it begins outside. */
export function leavingFace(solid: Solid, origin: Vec3, direction: Vec3): { face: number; t: number } | null {
  let best: { face: number; t: number } | null = null;
  for (let i = 0; i < solid.faces.length; i++) {
    const { normal, distance } = solid.faces[i];
    const away = normal[0] * origin[0] + normal[1] * origin[1] + normal[2] * origin[2] - distance;
    if (away > 0) return null;
    const speed = normal[0] * direction[0] + normal[1] * direction[1] + normal[2] * direction[2];
    if (speed > 0 && (!best || -away / speed < best.t)) best = { face: i, t: -away / speed };
  }
  return best;
}
