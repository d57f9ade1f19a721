/** Which solids a ray meets. */

import type { Vec3 } from '../math/vec3.ts';
import { shapeOf } from '../solid/shape.ts';
import { keysOf } from '../document/record.ts';
import type { Solid } from '../document/schema.ts';
import { raySolid } from '../solid/ray.ts';

export interface SolidHit {
  solid: string;
  /** Index of the face that is met. */
  face: number;
  /** Along the ray, in lengths of its direction. */
  t: number;
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
