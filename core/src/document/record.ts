/**
 * Large records by id. Spreading one of thousands of members costs three times as much as setting known keys,
 * so the list of keys is kept beside each record and shared by copies that have the same ones.
 */

const keyLists = new WeakMap<object, readonly string[]>();

/** The keys of a record that is no longer changed. */
export function keysOf(record: Readonly<Record<string, unknown>>): readonly string[] {
  let keys = keyLists.get(record);
  if (!keys) keyLists.set(record, (keys = Object.keys(record)));
  return keys;
}

/** A record with some members set, or removed where their value is null; the given one stays as it is. */
export function changedRecord<T>(record: Readonly<Record<string, T>>, changes: readonly { id: string; to: T | null }[]): Record<string, T> {
  const keys = keysOf(record);
  const copy: Record<string, T> = {};
  for (let i = 0; i < keys.length; i++) copy[keys[i]] = record[keys[i]];
  let same = true;
  for (const { id, to } of changes) {
    if (to === null) {
      same &&= !Object.hasOwn(copy, id);
      delete copy[id];
    } else {
      same &&= Object.hasOwn(copy, id);
      copy[id] = to;
    }
  }
  if (same) keyLists.set(copy, keys);
  return copy;
}
