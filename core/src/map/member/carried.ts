import { withCarriedBy, type Carriers } from '../../decal/follow.ts';
import type { MapEdit } from '../../document/edit.ts';
import type { GameMap } from '../../document/schema.ts';
import { decal } from './decal.ts';
import { overlay } from './overlay.ts';

const CARRIERS: Carriers = {
  // What is carried stays its rule's.
  decals: (member, motion) => ({ ...decal.transform(member, motion, true), ...(member.rule === undefined ? {} : { rule: member.rule }) }),
  overlays: (member, motion) => overlay.transform(member, motion, true),
};

/** An edit of solids with the decals and overlays that they take along: the same value where there are none. */
export const withCarried = (map: GameMap, edit: MapEdit): MapEdit => withCarriedBy(map, edit, CARRIERS);
