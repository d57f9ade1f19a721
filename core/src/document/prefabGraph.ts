/** Which prefab holds which, as a graph: cycles, and how much a map comes to with all copies laid out. Linear in the prefabs. */

import { UnreadableInput } from '../unreadable.ts';
import { own } from '../own.ts';
import type { GameMap, Prefab } from './schema.ts';

/** Solids, objects and signals that a map may have with all copies laid out: a handful of prefabs within each other make billions. */
export const MOST_MEMBERS = 100_000;

export type FindPrefab = (id: string) => Prefab | undefined;

/** The prefabs of a map, and behind them those of its game. */
export const prefabsOf =
  (map: Pick<GameMap, 'prefabs'>, game?: { prefabs?: Readonly<Record<string, Prefab>> }): FindPrefab =>
  (id) =>
    own(map.prefabs, id) ?? own(game?.prefabs ?? {}, id);

/** Ids along a cycle of prefabs that begins and ends with the same one, or null. */
export function prefabCycle(ids: Iterable<string>, find: FindPrefab): string[] | null {
  const done = new Set<string>();
  const trail: string[] = [];
  const onTrail = new Set<string>();
  // Recursion is as deep as prefabs lie within each other, which is bounded by their number.
  const visit = (id: string): string[] | null => {
    if (onTrail.has(id)) return [...trail.slice(trail.indexOf(id)), id];
    if (done.has(id)) return null;
    trail.push(id);
    onTrail.add(id);
    for (const inner of innerOf(find(id))) {
      const found = visit(inner);
      if (found) return found;
    }
    trail.pop();
    onTrail.delete(id);
    done.add(id);
    return null;
  };
  for (const id of ids) {
    const found = visit(id);
    if (found) return found;
  }
  return null;
}

const innerOf = (prefab: Prefab | undefined): string[] => Object.values(prefab?.copies ?? {}).map((copy) => copy.prefab);

/** Members of one copy of a prefab with all copies in it; without end where it holds itself. */
export function memberCounter(find: FindPrefab): (id: string) => number {
  const counts = new Map<string, number>();
  const count = (id: string): number => {
    const known = counts.get(id);
    if (known !== undefined) return known;
    const prefab = find(id);
    // Whoever comes back here while it is being counted goes round in a circle.
    counts.set(id, Infinity);
    const all = prefab
      ? Object.keys(prefab.solids).length +
        Object.keys(prefab.objects).length +
        Object.keys(prefab.signals).length +
        innerOf(prefab).reduce((sum, inner) => sum + count(inner), 0)
      : 0;
    counts.set(id, all);
    return all;
  };
  return count;
}

/** Why a map with these prefabs cannot be, as a sentence, or null. */
export function cycleProblem(map: Pick<GameMap, 'prefabs'>): string | null {
  const cycle = prefabCycle(Object.keys(map.prefabs), prefabsOf(map));
  return cycle && `Prefab ${nameOf(map, cycle[0])} would hold itself: ${cycle.map((id) => nameOf(map, id)).join(' → ')}.`;
}

export const nameOf = (map: Pick<GameMap, 'prefabs'>, id: string): string => own(map.prefabs, id)?.name ?? id;

/** @throws UnreadableInput for a file whose prefabs hold themselves */
export function refuseCycles(map: GameMap, file: string): GameMap {
  const problem = cycleProblem(map);
  if (problem) throw new UnreadableInput('prefab-cycle', `${file}: ${problem}`, { file }, 'Take the copy of itself out of the prefab.');
  return map;
}
