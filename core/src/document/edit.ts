/**
 * Every change of a map is an edit: a named, serialisable list of new values. Applying it is pure, and
 * its inverse is an edit too, so undo, redo, autosave, history and fixes are one mechanism.
 */

import { Type, type Static } from '@sinclair/typebox';
import { changedRecord, keysOf } from './record.ts';
import { COLLECTION_TABLE, COLLECTIONS, MapSettingsSchema, type Collection, type GameMap, type MemberOf } from './schema.ts';
import { own } from '../own.ts';

const change = (of: Collection) =>
  Type.Object(
    {
      of: Type.Literal(of),
      id: Type.String({ minLength: 1, maxLength: 40, pattern: '^[a-z][a-z0-9_]*$' }),
      to: Type.Union([COLLECTION_TABLE[of].schema, Type.Null()]),
    },
    { additionalProperties: false },
  );

/** A member that is set, or removed where `to` is null; or the map's settings. */
export type Change =
  { [K in Collection]: { of: K; id: string; to: MemberOf<K> | null } }[Collection] | { of: 'settings'; to: Static<typeof MapSettingsSchema> };

export const ChangeSchema = Type.Unsafe<Change>(
  Type.Union([...COLLECTIONS.map(change), Type.Object({ of: Type.Literal('settings'), to: MapSettingsSchema }, { additionalProperties: false })]),
);

export const MapEditSchema = Type.Object(
  { name: Type.String({ minLength: 1, maxLength: 120 }), changes: Type.Array(ChangeSchema, { minItems: 1, maxItems: 20000 }) },
  { additionalProperties: false },
);

export type MapEdit = Static<typeof MapEditSchema>;

/** The map after `edit`. Untouched collections and members keep their identity. */
export function applyEdit(map: GameMap, edit: MapEdit): GameMap {
  const next: GameMap = { ...map };
  const byCollection = new Map<Collection, { id: string; to: unknown }[]>();
  for (const step of edit.changes) {
    if (step.of === 'settings') {
      next.settings = step.to;
      continue;
    }
    const list = byCollection.get(step.of);
    if (list) list.push(step);
    else byCollection.set(step.of, [step]);
  }
  for (const [of, changes] of byCollection) Object.assign(next, { [of]: changedRecord(map[of] as Record<string, unknown>, changes) });
  return next;
}

/** The edit that takes the map after `edit` back to `before`. */
export function invertEdit(before: GameMap, edit: MapEdit): MapEdit {
  const seen = new Set<string>();
  const changes: Change[] = [];
  for (const step of edit.changes) {
    const key = step.of === 'settings' ? 'settings' : `${step.of}/${step.id}`;
    if (seen.has(key)) continue;
    seen.add(key);
    if (step.of === 'settings') changes.push({ of: 'settings', to: before.settings });
    else changes.push({ of: step.of, id: step.id, to: own(before[step.of] as Record<string, unknown>, step.id) ?? null } as Change);
  }
  return { name: edit.name, changes };
}

/** A fresh id in a collection: the prefix and the next free number, stable for equal maps. */
export const freshId = (collection: Readonly<Record<string, unknown>>, prefix: string, taken: ReadonlySet<string> = new Set()): string =>
  freshIds(collection, prefix, taken)();

/** Fresh ids one after the other; the collection is looked through once. */
export function freshIds(collection: Readonly<Record<string, unknown>>, prefix: string, taken: ReadonlySet<string> = new Set()): () => string {
  let highest = 0;
  const look = (id: string) => {
    if (!id.startsWith(prefix)) return;
    const n = Number(id.slice(prefix.length));
    if (Number.isInteger(n) && n > highest) highest = n;
  };
  Object.keys(collection).forEach(look);
  taken.forEach(look);
  return () => `${prefix}${++highest}`;
}

/** What an edit touches, as `collection/id`; two edits that share nothing can be applied in either order. */
export function touchedBy(edit: MapEdit): Set<string> {
  return new Set(edit.changes.map((step) => (step.of === 'settings' ? 'settings' : `${step.of}/${step.id}`)));
}

/** The edit that turns one map into another it was made from: only members that are not the same value are compared. */
export function diffByIdentity(from: GameMap, to: GameMap): MapEdit | null {
  const changes: Change[] = [];
  for (const of of COLLECTIONS) {
    const [before, after] = [from[of], to[of]] as Record<string, unknown>[];
    if (before === after) continue;
    for (const id of keysOf(after)) if (own(before, id) !== after[id]) changes.push({ of, id, to: after[id] } as Change);
    if (keysOf(before) !== keysOf(after))
      for (const id of keysOf(before)) if (!Object.hasOwn(after, id)) changes.push({ of, id, to: null } as Change);
  }
  if (from.settings !== to.settings) changes.push({ of: 'settings', to: to.settings });
  return changes.length > 0 ? { name: 'since the last check', changes } : null;
}

/** The edit that turns one map into another. Members are compared by value. */
export function diffMaps(from: GameMap, to: GameMap, name: string): MapEdit | null {
  const changes: Change[] = [];
  for (const of of COLLECTIONS) {
    const [before, after] = [from[of], to[of]] as Record<string, unknown>[];
    if (before === after) continue;
    for (const id of new Set([...Object.keys(before), ...Object.keys(after)]))
      if (own(before, id) !== own(after, id) && JSON.stringify(own(before, id)) !== JSON.stringify(own(after, id)))
        changes.push({ of, id, to: own(after, id) ?? null } as Change);
  }
  if (JSON.stringify(from.settings) !== JSON.stringify(to.settings)) changes.push({ of: 'settings', to: to.settings });
  return changes.length > 0 ? { name, changes } : null;
}
