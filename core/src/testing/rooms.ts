/** Rooms for tests: a block with boxes cut out of it, as boxes. */

import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';

function boxMinusBox({ min, max }: Box3, cut: Box3): Box3[] {
  const low = min.map((v, k) => Math.max(v, cut.min[k]));
  const high = max.map((v, k) => Math.min(v, cut.max[k]));
  if (low.some((v, k) => v >= high[k])) return [{ min, max }];
  const parts: Box3[] = [];
  const rest = { min: [...min] as Vec3, max: [...max] as Vec3 };
  for (let k = 0; k < 3; k++) {
    if (rest.min[k] < low[k]) {
      const part = { min: [...rest.min] as Vec3, max: [...rest.max] as Vec3 };
      part.max[k] = low[k];
      parts.push(part);
      rest.min[k] = low[k];
    }
    if (rest.max[k] > high[k]) {
      const part = { min: [...rest.min] as Vec3, max: [...rest.max] as Vec3 };
      part.min[k] = high[k];
      parts.push(part);
      rest.max[k] = high[k];
    }
  }
  return parts;
}

export const boxMinusBoxes = (box: Box3, cuts: readonly Box3[]): Box3[] =>
  cuts.reduce<Box3[]>((parts, cut) => parts.flatMap((part) => boxMinusBox(part, cut)), [box]);
