/** Members of a map's collections, as they are selected together. What is particular to a kind stands in `map/member/`. */

import type { Change, MapEdit } from './edit.ts';
import type { GameMap } from './schema.ts';

/** Kinds that can be selected, moved and copied. */
export const KINDS = ['solids', 'objects', 'copies', 'paths', 'notes', 'decals', 'overlays'] as const;
export type MemberKind = (typeof KINDS)[number];

/** What is selected, by collection. */
export type Members = { [K in MemberKind]: readonly string[] };

/** A value for every kind. */
export const byKind = <T>(make: (kind: MemberKind) => T): Record<MemberKind, T> =>
  Object.fromEntries(KINDS.map((kind) => [kind, make(kind)])) as Record<MemberKind, T>;

export const noMembers: Members = byKind(() => []);

export const countMembers = (members: Members): number => KINDS.reduce((sum, kind) => sum + members[kind].length, 0);

/** Deletes what is selected, and the signals from or to what is gone. */
export function deleteMembers(map: GameMap, members: Members): MapEdit {
  const gone = new Set(members.objects);
  const within = (id: string) => gone.has(id) || members.copies.some((copy) => id.startsWith(`${copy}_`));
  const changes: Change[] = KINDS.flatMap((of) => members[of].map((id): Change => ({ of, id, to: null })));
  for (const [id, signal] of Object.entries(map.signals))
    if (within(signal.from) || ('object' in signal.to && within(signal.to.object))) changes.push({ of: 'signals', id, to: null });
  return { name: 'delete', changes };
}
