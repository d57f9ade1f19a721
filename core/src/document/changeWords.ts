/** What is different between two versions of a map, in words: for the message of a commit, and to read before one. */

import { own } from '../own.ts';
import { changedMembers } from './merge.ts';
import { COLLECTIONS, type Collection, type GameMap } from './schema.ts';

/** One and several of a collection's members; the others go by their collection's name. */
const NAMES: Partial<Record<Collection, [string, string]>> = {
  solids: ['solid', 'solids'],
  objects: ['object', 'objects'],
  signals: ['signal', 'signals'],
  bands: ['band', 'bands'],
  copies: ['prefab copy', 'prefab copies'],
  paths: ['path', 'paths'],
  tiles: ['tile of ground', 'tiles of ground'],
};

export interface MapDifference {
  /** Sentences like "2 objects moved: lamp_1, lamp_2". */
  words: string[];
  /** Ids by collection that are there now and were changed or added, for showing them. */
  touched: Partial<Record<Collection, string[]>>;
}

/** Names that are listed of one kind of change. */
const NAMED = 4;

export function mapDifference(before: GameMap, after: GameMap): MapDifference {
  const groups = new Map<string, string[]>();
  const touched: MapDifference['touched'] = {};
  for (const [key, to] of changedMembers(before, after)) {
    if (key === 'settings') {
      groups.set('settings of the map changed', []);
      continue;
    }
    const at = key.indexOf('/');
    const [of, id] = [key.slice(0, at) as Collection, key.slice(at + 1)];
    const from = own(before[of] as Record<string, Record<string, unknown>>, id);
    const verb = to === null ? 'removed' : !from ? 'added' : verbOf(from, to as Record<string, unknown>);
    const group = `${of} ${verb}`;
    groups.set(group, [...(groups.get(group) ?? []), nameOf(to ?? from) ?? id]);
    if (to !== null) (touched[of] ??= []).push(id);
  }
  const order = [...groups.keys()].sort((a, b) => rank(a) - rank(b));
  return {
    words: order.map((group) => {
      const names = groups.get(group)!;
      if (names.length === 0) return group;
      const [of, verb] = group.split(' ') as [Collection, string];
      const [one, many] = NAMES[of] ?? [of.replace(/s$/, ''), of];
      const listed = names.slice(0, NAMED).join(', ') + (names.length > NAMED ? ' …' : '');
      return `${names.length} ${names.length === 1 ? one : many} ${verb}: ${listed}`;
    }),
    touched,
  };
}

const rank = (group: string): number => {
  const at = COLLECTIONS.indexOf(group.split(' ')[0] as Collection);
  return at < 0 ? COLLECTIONS.length : at;
};

const nameOf = (member: unknown): string | undefined => {
  const { name } = (member ?? {}) as { name?: unknown };
  return typeof name === 'string' ? name : undefined;
};

/** "moved" or "renamed" where nothing else of a member is different. */
function verbOf(from: Record<string, unknown>, to: Record<string, unknown>): string {
  const different = [...new Set([...Object.keys(from), ...Object.keys(to)])].filter((key) => JSON.stringify(from[key]) !== JSON.stringify(to[key]));
  if (different.length === 1 && different[0] === 'position') return 'moved';
  if (different.length === 1 && different[0] === 'turn') return 'turned';
  return different.length === 1 && different[0] === 'name' ? 'renamed' : 'changed';
}
