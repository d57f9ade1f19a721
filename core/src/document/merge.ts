/**
 * Two versions of a map that come of the same one, merged member by member. What only one of them changed is taken from that one;
 * what both changed to the same is that; what both changed to something else is a conflict, which somebody has to settle.
 */

import { canonicalJson } from '../hash.ts';
import { own } from '../own.ts';
import { applyEdit, type Change, type MapEdit } from './edit.ts';
import { COLLECTIONS, type GameMap } from './schema.ts';

/** The file beside a map's in which members are told that both sides changed. */
export const conflictsFile = (map: string): string => map.replace(/(\.map)?\.json$/, '') + '.conflicts.json';

/** A member as `collection/id`, or `settings`. */
export type MemberKey = string;

export interface MergeConflict {
  key: MemberKey;
  /** The member in each version; null where it is not there. */
  base: unknown;
  ours: unknown;
  theirs: unknown;
}

export interface MapMerge {
  /** Ours with what theirs changed; members in conflict are as `settle` says, ours without it. */
  map: GameMap;
  /** The edit that makes it of ours; null where theirs adds nothing. */
  edit: MapEdit | null;
  /** What both changed to something else and `settle` says nothing of. */
  conflicts: MergeConflict[];
}

/** Whether two members are the same, whatever the order of their own members. */
const same = (a: unknown, b: unknown): boolean =>
  a === b || JSON.stringify(a) === JSON.stringify(b) || canonicalJson(a ?? null) === canonicalJson(b ?? null);

/** What of a map is not as in another, by key: the member as it is now, or null. */
export function changedMembers(from: GameMap, to: GameMap): Map<MemberKey, unknown> {
  const changed = new Map<MemberKey, unknown>();
  for (const of of COLLECTIONS) {
    const [before, after] = [from[of], to[of]] as Record<string, unknown>[];
    if (before === after) continue;
    for (const id of Object.keys(after)) if (!same(own(before, id), after[id])) changed.set(`${of}/${id}`, after[id]);
    for (const id of Object.keys(before)) if (!Object.hasOwn(after, id)) changed.set(`${of}/${id}`, null);
  }
  if (!same(from.settings, to.settings)) changed.set('settings', to.settings);
  return changed;
}

const changeOf = (key: MemberKey, to: unknown): Change => {
  if (key === 'settings') return { of: 'settings', to } as Change;
  const at = key.indexOf('/');
  return { of: key.slice(0, at), id: key.slice(at + 1), to } as Change;
};

const memberOf = (map: GameMap, key: MemberKey): unknown => {
  if (key === 'settings') return map.settings;
  const at = key.indexOf('/');
  return own(map[key.slice(0, at) as 'solids'] as Record<string, unknown>, key.slice(at + 1)) ?? null;
};

/**
 * @param name of the edit, as the history shows it
 * @param settle says of a conflict whose version holds
 */
export function mergeMaps(
  base: GameMap,
  ours: GameMap,
  theirs: GameMap,
  name: string,
  settle: (key: MemberKey) => 'ours' | 'theirs' | null = () => null,
): MapMerge {
  const [mine, other] = [changedMembers(base, ours), changedMembers(base, theirs)];
  const changes: Change[] = [];
  const conflicts: MergeConflict[] = [];
  for (const [key, to] of other) {
    const clash = mine.has(key) && !same(mine.get(key), to);
    const side = clash ? settle(key) : 'theirs';
    if (side === null) conflicts.push({ key, base: memberOf(base, key), ours: memberOf(ours, key), theirs: memberOf(theirs, key) });
    else if (side === 'theirs' && !same(memberOf(ours, key), to)) changes.push(changeOf(key, to));
  }
  const edit = changes.length > 0 ? { name, changes } : null;
  return { map: edit ? applyEdit(ours, edit) : ours, edit, conflicts };
}
