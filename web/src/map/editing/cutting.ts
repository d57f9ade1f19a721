/** Cutting solids along a plane: both parts stay, or one. */

import type { GameMap, Solid } from '@violet-crate/core/document/schema';
import { splitSolid } from '@violet-crate/core/solid/cut';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { planeSide, type Plane } from '@violet-crate/core/solid/winding';
import { replaceSolids, type Made } from './edits.ts';

/** The cut of those of `ids` that the plane goes through; `keep` names the side in front of it left. Null where it meets none. */
export function cutSolids(map: GameMap, ids: readonly string[], plane: Plane, keep: 'both' | 'left' | 'right'): Made | null {
  const gone: string[] = [];
  const parts: Solid[] = [];
  for (const id of ids) {
    const sides = shapeOf(map.solids[id]).polygons.flatMap((polygon) => polygon.winding.map((p) => planeSide(plane, p)));
    if (!(sides.some((d) => d > 1e-3) && sides.some((d) => d < -1e-3))) continue;
    const { front, back } = splitSolid(map.solids[id], plane);
    gone.push(id);
    if (front && keep !== 'right') parts.push(front);
    if (back && keep !== 'left') parts.push(back);
  }
  return gone.length > 0 ? replaceSolids(map, gone, parts, gone.length === 1 ? 'cut solid' : `cut ${gone.length} solids`) : null;
}
