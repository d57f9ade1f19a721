/** Decals and overlays alike: what is thrown at surfaces. */

import type { Decal, GameMap, Overlay } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Winding } from '../solid/winding.ts';
import { Thrower, type DecalPiece } from './clip.ts';
import type { ThrownDecal } from './frame.ts';
import { OverlayThrower, type ThrownOverlay } from './overlay.ts';

/** What lies on surfaces, as far as it says where and how it is seen. */
export type Lying = ThrownDecal | ThrownOverlay;

export interface Throwing {
  /** The space in which it can lie. */
  box: Box3;
  /** The parts of a surface that it covers, none where it does not reach it. @param normal unit normal of the winding */
  on(winding: Winding, normal: Vec3): DecalPiece[];
  /** Whether it lies over a point of a surface of this normal. */
  holds(point: Vec3, normal: Vec3): boolean;
}

const made = new WeakMap<Lying, Throwing>();

/** Kept with the value: an edit makes new values only for what it changes. */
export function throwing(member: Lying): Throwing {
  let known = made.get(member);
  if (!known) made.set(member, (known = 'points' in member ? new OverlayThrower(member) : new Thrower(member)));
  return known;
}

/** All decals and overlays of a map by id. */
export const lyingOf = ({ decals, overlays }: Pick<GameMap, 'decals' | 'overlays'>): Record<string, Decal | Overlay> => ({ ...decals, ...overlays });
