/** What is particular to one kind of member: its space, how it is moved, by which words it is found. */

import type { MemberKind } from '../../document/members.ts';
import type { GameMap, MemberOf } from '../../document/schema.ts';
import type { Box3 } from '../../math/box3.ts';
import type { Profile } from '../../profile/schema.ts';
import type { Affine } from '../../solid/transform.ts';
import type { Collider } from './collider.ts';
import type { DrawnSurface } from './surface.ts';

/** What a kind may have to look up. */
export interface Around {
  map: GameMap;
  profile: Profile;
}

export interface MemberFacts<K extends MemberKind = MemberKind> {
  kind: K;
  /** One of it, and several. */
  word: string;
  words: string;
  label(id: string, member: MemberOf<K>): string;
  /** The space that it takes up; null where it has none. */
  box(id: string, member: MemberOf<K>, around: Around): Box3 | null;
  /** The member after an affine map. What turns upright only leaves out whatever else the map does; `carry` takes textures along. */
  transform(member: MemberOf<K>, affine: Affine, carry: boolean): MemberOf<K>;
  /** What of it stands in the way; left out where nothing does. */
  colliders?(id: string, member: MemberOf<K>): readonly Collider[];
  /** What of it is drawn by geometry of its own; left out where nothing is. */
  surfaces?(id: string, member: MemberOf<K>): readonly DrawnSurface[];
  /** Words by which it is found, with what they are. */
  found(id: string, member: MemberOf<K>, around: Around): [key: string, text: string][];
}
