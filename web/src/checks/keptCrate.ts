/** The crate as a worker keeps it between edits: it is sent whole once, and afterwards only what changed. */

import { applyEdit, type MapEdit } from '@violet-crate/core/document/edit';
import type { CrateWorld } from '@violet-crate/core/crate/world';

export interface CheckRequest {
  mapName: string;
  /** The crate anew, or what changed in its map since the last time. */
  world?: CrateWorld;
  edit?: MapEdit | null;
}

let world: CrateWorld | null = null;

/** The crate after a request; null before there is one. */
export function takeRequest({ mapName, world: whole, edit }: CheckRequest): CrateWorld | null {
  if (whole) world = whole;
  if (world && edit)
    world = { ...world, crate: { ...world.crate, maps: { ...world.crate.maps, [mapName]: applyEdit(world.crate.maps[mapName], edit) } } };
  return world;
}
