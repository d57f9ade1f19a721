/**
 * What a record holds itself under a key. Ids, names and paths come from users and files; `record[key]` and
 * `key in record` would find `constructor` and its kind in any object.
 */
export const own = <T>(record: Readonly<Record<string, T>>, key: string): T | undefined => (Object.hasOwn(record, key) ? record[key] : undefined);
