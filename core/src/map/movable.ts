/** Which objects physics moves. */

import { assetRecord, type CrateWorld } from '../crate/world.ts';
import type { MapObject } from '../document/schema.ts';
import { movesFreely } from '../profile/parts.ts';
import { modelOf } from './objectBox.ts';

/** Whether an object may be moved by physics: it says so, and its model has a convex collision shape and a mass. */
export function isMovable(world: CrateWorld, object: Pick<MapObject, 'class' | 'properties'>): boolean {
  if (!movesFreely(world.profile, object)) return false;
  const collision = assetRecord(world, modelOf(world.profile, object))?.collision;
  return collision !== undefined && collision.kind !== 'none' && collision.kind !== 'exact' && collision.mass > 0;
}
