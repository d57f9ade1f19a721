/** Heights over the ground: where a map has one, bands and new things count from it. */

import type { GameMap } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { groundBelow, groundsOf } from '../terrain/ground.ts';

/** Height of the ground at a place; 0 where there is none, so that a map without ground counts from 0. */
export function groundHeight(map: Pick<GameMap, 'terrains' | 'tiles'>, x: number, y: number): number {
  for (const _ in map.terrains) return groundBelow(groundsOf(map), x, y)?.height ?? 0;
  return 0;
}

/** Whether a point belongs to a range of heights: as it is, or over the ground. */
export function inBand(map: Pick<GameMap, 'terrains' | 'tiles'>, { bottom, top }: { bottom: number; top: number }, [x, y, z]: Vec3): boolean {
  if (z >= bottom - 1 && z <= top) return true;
  const over = z - groundHeight(map, x, y);
  return over !== z && over >= bottom - 1 && over <= top;
}
