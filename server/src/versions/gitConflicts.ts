/** What a merge of git left in conflict: read from git's own three versions, told by member, and settled. */

import { readMap } from '@violet-crate/core/crate/readMap';
import { conflictsFile, mergeMaps, type MemberKey, type MergeConflict } from '@violet-crate/core/document/merge';
import type { GameMap } from '@violet-crate/core/document/schema';
import { serialiseMap } from '@violet-crate/core/document/serialise';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readInside, removeInside, writeInside } from '@violet-crate/host/inside';
import type { SimpleGit } from 'simple-git';

export type GitSide = 'ours' | 'theirs';

export interface GitConflict {
  path: string;
  /** Members of a map that both branches changed, with their names; empty where only the whole file can be chosen. */
  members: { key: MemberKey; label: string }[];
}

/** A version of a file in conflict: 1 what both come of, 2 ours, 3 theirs; null where it has none. */
async function version(git: SimpleGit, path: string, stage: 1 | 2 | 3): Promise<string | null> {
  try {
    return await git.raw(['cat-file', 'blob', `:${stage}:${path}`]);
  } catch {
    return null;
  }
}

async function threeMaps(git: SimpleGit, path: string): Promise<[GameMap, GameMap, GameMap] | null> {
  if (!path.endsWith('.map.json')) return null;
  const texts = await Promise.all(([1, 2, 3] as const).map((stage) => version(git, path, stage)));
  try {
    return texts.every((text) => text !== null) ? (texts.map((text) => readMap(text!, path)) as [GameMap, GameMap, GameMap]) : null;
  } catch (error) {
    if (error instanceof UnreadableInput) return null;
    throw error;
  }
}

export async function conflictOf(git: SimpleGit, path: string): Promise<GitConflict> {
  const maps = await threeMaps(git, path);
  return { path, members: maps ? mergeMaps(...maps, 'merged').conflicts.map((one) => ({ key: one.key, label: labelOf(one) })) : [] };
}

function labelOf({ key, ours, theirs }: MergeConflict): string {
  const name = [ours, theirs].map((member) => (member as { name?: unknown } | null)?.name).find((one) => typeof one === 'string');
  const gone = ours === null ? ', gone here' : theirs === null ? ', gone there' : '';
  return `${typeof name === 'string' ? name : key}${gone}`;
}

/**
 * Settles a file: a map by member, where what was drawn since the merge stays; any other as one side has it.
 *
 * @param side for what `members` does not say
 */
export async function settleConflict(
  git: SimpleGit,
  folder: string,
  path: string,
  side: GitSide,
  members: Record<MemberKey, GitSide>,
): Promise<void> {
  const maps = await threeMaps(git, path);
  const there = maps && readInside(folder, path);
  if (maps && there) {
    const [base, ours, theirs] = maps;
    const merged = mergeMaps(base, ours, theirs, 'merged').map;
    const settled = mergeMaps(base, ours, theirs, 'settled', (key) => members[key] ?? side).map;
    const now = readMap(new TextDecoder().decode(there), path);
    const { map } = mergeMaps(merged, now, settled, 'settled', () => 'theirs');
    writeInside(folder, [[path, new TextEncoder().encode(serialiseMap(map))]]);
    removeInside(folder, conflictsFile(path));
  } else if ((await version(git, path, side === 'ours' ? 2 : 3)) === null) {
    // That side has removed it.
    await git.raw(['rm', '--quiet', '--force', '--', path]);
    return;
  } else await git.raw(['checkout', '--quiet', `--${side}`, '--', path]);
  await git.add(['--', path]);
}
