/** All kinds of members. A new kind is its schema, its own file and a line here, and its look in the web. */

import { KINDS, type MemberKind, type Members } from '../../document/members.ts';
import type { GameMap, MemberOf } from '../../document/schema.ts';
import { boxOfPoints, type Box3 } from '../../math/box3.ts';
import { own } from '../../own.ts';
import type { Profile } from '../../profile/schema.ts';
import { copy } from './copy.ts';
import type { Around, MemberFacts } from './member.ts';
import { note } from './note.ts';
import { object } from './object.ts';
import { path } from './path.ts';
import { solid } from './solid.ts';

export const MEMBERS: { [K in MemberKind]: MemberFacts<K> } = { solids: solid, objects: object, copies: copy, paths: path, notes: note };

/** The facts of a kind that is only known at run time, together with its members. */
export const factsOf = (kind: MemberKind): MemberFacts => MEMBERS[kind] as unknown as MemberFacts;

export const memberOf = (map: GameMap, kind: MemberKind, id: string): MemberOf<MemberKind> | undefined =>
  own(map[kind] as Record<string, MemberOf<MemberKind>>, id);

/** The space that one member takes up; null where it is not there. */
export function memberBox(map: GameMap, profile: Profile, kind: MemberKind, id: string): Box3 | null {
  const member = memberOf(map, kind, id);
  return member === undefined ? null : factsOf(kind).box(id, member as never, { map, profile } satisfies Around);
}

export function membersBox(map: GameMap, profile: Profile, members: Members): Box3 | null {
  const boxes = KINDS.flatMap((kind) => members[kind].flatMap((id) => memberBox(map, profile, kind, id) ?? []));
  return boxes.length > 0 ? boxOfPoints(boxes.flatMap((b) => [b.min, b.max])) : null;
}
