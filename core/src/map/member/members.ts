/** All kinds of members. A new kind is its schema, its own file and a line here, and its look in the web. */

import { KINDS, type MemberKind, type Members } from '../../document/members.ts';
import type { GameMap, MemberOf } from '../../document/schema.ts';
import { boxOfPoints, type Box3 } from '../../math/box3.ts';
import { own } from '../../own.ts';
import type { Profile } from '../../profile/schema.ts';
import type { Collider } from './collider.ts';
import { copy } from './copy.ts';
import { decal } from './decal.ts';
import type { Around, MemberFacts } from './member.ts';
import { note } from './note.ts';
import { object } from './object.ts';
import { overlay } from './overlay.ts';
import { path } from './path.ts';
import { solid } from './solid.ts';
import type { DrawnSurface } from './surface.ts';

export const MEMBERS: { [K in MemberKind]: MemberFacts<K> } = {
  solids: solid,
  objects: object,
  copies: copy,
  paths: path,
  notes: note,
  decals: decal,
  overlays: overlay,
};

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

/** Everything of a map that stands in the way. What copies of prefabs stand for is in it only where they are laid out. */
export const collidersOf = (map: GameMap): Collider[] => ofAll(map, (facts, id, member) => facts.colliders?.(id, member));

/** Everything of a map that is drawn by geometry of its own; of copies as above. */
export const surfacesOf = (map: GameMap): DrawnSurface[] => ofAll(map, (facts, id, member) => facts.surfaces?.(id, member));

function ofAll<T>(map: GameMap, ask: (facts: MemberFacts, id: string, member: never) => readonly T[] | undefined): T[] {
  const out: T[] = [];
  for (const kind of KINDS) for (const id in map[kind]) out.push(...(ask(factsOf(kind), id, map[kind][id] as never) ?? []));
  return out;
}
