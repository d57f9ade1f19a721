/** Members of a map's collections, as they are selected together. */

import type { Change, MapEdit } from './edit.ts';
import type { GameMap } from './schema.ts';

/** What is selected, by collection. */
export interface Members {
  solids: readonly string[];
  objects: readonly string[];
  copies: readonly string[];
  paths: readonly string[];
}

export const noMembers: Members = { solids: [], objects: [], copies: [], paths: [] };
export const KINDS = ['solids', 'objects', 'copies', 'paths'] as const;
export type MemberKind = (typeof KINDS)[number];

export const countMembers = (members: Members): number => KINDS.reduce((sum, kind) => sum + members[kind].length, 0);

/** Deletes what is selected, and the signals from or to what is gone. */
export function deleteMembers(map: GameMap, members: Members): MapEdit {
  const gone = new Set(members.objects);
  const within = (id: string) => gone.has(id) || members.copies.some((copy) => id.startsWith(`${copy}_`));
  const changes: Change[] = [
    ...members.solids.map((id): Change => ({ of: 'solids', id, to: null })),
    ...members.objects.map((id): Change => ({ of: 'objects', id, to: null })),
    ...members.copies.map((id): Change => ({ of: 'copies', id, to: null })),
    ...members.paths.map((id): Change => ({ of: 'paths', id, to: null })),
  ];
  for (const [id, signal] of Object.entries(map.signals))
    if (within(signal.from) || ('object' in signal.to && within(signal.to.object))) changes.push({ of: 'signals', id, to: null });
  return { name: 'delete', changes };
}
