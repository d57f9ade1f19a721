/** What of a map lies below something, or above it, column by column: asked for once, kept for whoever falls there next. */

import type { GameMap } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { groundsOf } from '../terrain/ground.ts';
import { shapeOf } from '../solid/shape.ts';
import { pickSolids } from './pick.ts';

const key = (x: number, y: number): number => x * 1_048_576 + y;

function remembered(cell: number, look: (x: number, y: number) => number | null): (x: number, y: number) => number | null {
  const known = new Map<number, number | null>();
  return (x, y) => {
    const [i, j] = [Math.floor(x / cell), Math.floor(y / cell)];
    const at = key(i, j);
    const found = known.get(at);
    if (found !== undefined) return found;
    const height = look((i + 0.5) * cell, (j + 0.5) * cell);
    known.set(at, height);
    return height;
  };
}

/**
 * Heights below a point's own height, in columns as wide as `cell`, units.
 * @param whole the map with what copies of prefabs stand for
 */
export function depthBelow(whole: Pick<GameMap, 'solids' | 'terrains' | 'tiles'>, from: Vec3, cell: number): (x: number, y: number) => number | null {
  const grounds = groundsOf(whole);
  return remembered(cell, (x, y) => {
    const [hit] = pickSolids(whole.solids, [x, y, from[2]], [0, 0, -1]);
    let height = hit ? from[2] - hit.t : -Infinity;
    for (const ground of grounds) {
      const of = ground.heightAt(x, y);
      if (of !== null && of <= from[2] && of > height) height = of;
    }
    return height === -Infinity ? null : height;
  });
}

/** A height over all of a map. */
export function topOf(whole: Pick<GameMap, 'solids' | 'terrains' | 'tiles'>): number {
  let top = 0;
  for (const id in whole.solids) top = Math.max(top, shapeOf(whole.solids[id]).box.max[2]);
  for (const { box } of groundsOf(whole)) top = Math.max(top, box.max[2]);
  return top + 1;
}

/** Height of the lowest top that has nothing but sky above it, in columns as wide as `cell`: what rain comes down on. Null where there is nothing. */
export function skyFloor(whole: Pick<GameMap, 'solids' | 'terrains' | 'tiles'>, top: number, cell: number): (x: number, y: number) => number | null {
  return depthBelow(whole, [0, 0, top], cell);
}
