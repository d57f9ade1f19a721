/** What a ray meets, and what lies under a point. */

import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { shapeOf } from '../solid/shape.ts';
import { keysOf } from '../document/record.ts';
import type { Solid } from '../document/schema.ts';

export interface SolidHit {
  solid: string;
  /** Index of the face that is met. */
  face: number;
  /** Along the ray, in lengths of its direction. */
  t: number;
}

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

/** Boxes of a record's solids in a row, kept from one pick to the next: after an edit only what changed is looked at again. */
interface BoxIndex {
  keys: readonly string[];
  solids: Solid[];
  /** min x, y, z, max x, y, z of every solid. */
  boxes: Float64Array;
}

let lastIndex: { of: Record<string, Solid>; index: BoxIndex } | null = null;

function boxIndex(solids: Record<string, Solid>): BoxIndex {
  if (lastIndex?.of === solids) return lastIndex.index;
  const keys = keysOf(solids);
  const known = lastIndex?.index.keys === keys ? lastIndex.index : null;
  const index = known ?? { keys, solids: new Array<Solid>(keys.length), boxes: new Float64Array(keys.length * 6) };
  for (let i = 0; i < keys.length; i++) {
    const solid = solids[keys[i]];
    if (index.solids[i] === solid) continue;
    index.solids[i] = solid;
    const { min, max } = shapeOf(solid).box;
    for (let axis = 0; axis < 3; axis++) {
      index.boxes[i * 6 + axis] = min[axis];
      index.boxes[i * 6 + 3 + axis] = max[axis];
    }
  }
  lastIndex = { of: solids, index };
  return index;
}

/** Everything a ray enters, nearest first. `shown` leaves solids out. */
export function pickSolids(solids: Record<string, Solid>, origin: Vec3, direction: Vec3, shown: (id: string) => boolean = () => true): SolidHit[] {
  const { keys, boxes, solids: list } = boxIndex(solids);
  const hits: SolidHit[] = [];
  const inverse = direction.map((d) => 1 / d);
  for (let i = 0; i < keys.length; i++) {
    let near = 0;
    let far = Infinity;
    for (let axis = 0; axis < 3 && near <= far; axis++) {
      const low = boxes[i * 6 + axis];
      const high = boxes[i * 6 + 3 + axis];
      if (direction[axis] === 0) {
        if (origin[axis] < low || origin[axis] > high) far = -1;
        continue;
      }
      const a = (low - origin[axis]) * inverse[axis];
      const b = (high - origin[axis]) * inverse[axis];
      if (a < b) {
        if (a > near) near = a;
        if (b < far) far = b;
      } else {
        if (b > near) near = b;
        if (a < far) far = a;
      }
    }
    if (near > far || !shown(keys[i])) continue;
    const hit = raySolid(list[i], origin, direction);
    if (hit) hits.push({ solid: keys[i], ...hit });
  }
  return hits.sort((a, b) => a.t - b.t);
}

/** Height of the surface that an upright ray from `from` downwards meets first, or null where there is none. */
export function surfaceBelow(solids: Record<string, Solid>, from: Vec3, skip: ReadonlySet<string> = new Set()): number | null {
  const [hit] = pickSolids(solids, from, [0, 0, -1], (id) => !skip.has(id));
  return hit ? from[2] - hit.t : null;
}
