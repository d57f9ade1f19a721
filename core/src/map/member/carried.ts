import { withDecalsCarried } from '../../decal/follow.ts';
import type { MapEdit } from '../../document/edit.ts';
import type { GameMap } from '../../document/schema.ts';
import { decal } from './decal.ts';

/** An edit of solids with the decals that they take along: the same value where there are none. */
export const withCarried = (map: GameMap, edit: MapEdit): MapEdit =>
  withDecalsCarried(map, edit, (member, motion) => decal.transform(member, motion, true));
