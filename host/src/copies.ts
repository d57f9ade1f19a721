/** Copies of the database, kept beside it: one before every migration, and one a day. */

import { mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import type SQLite from 'better-sqlite3';

/** So many copies of each occasion are kept. */
const KEPT = { daily: 7, migration: 3 };
export type Occasion = keyof typeof KEPT;

/** Ending of the list of contents that a copy names, which is kept beside it. */
export const NEEDS = '.needs';

export const copiesFolder = (database: string): string => join(dirname(database), 'copies');

/** Copies of a database by path, oldest first. */
export function listCopies(database: string): string[] {
  try {
    return readdirSync(copiesFolder(database))
      .filter((name) => name.endsWith(`-${basename(database)}`))
      .sort()
      .map((name) => join(copiesFolder(database), name));
  } catch {
    return [];
  }
}

const copiesOf = (database: string, occasion: Occasion): string[] =>
  listCopies(database).filter((path) => path.endsWith(`-${occasion}-${basename(database)}`));

/** Writes a copy of an open database (VACUUM INTO: one consistent state, while others write) and drops the oldest. */
export function keepCopy(client: SQLite.Database, database: string, occasion: Occasion, now = new Date()): string {
  const folder = copiesFolder(database);
  const stamp = now.toISOString().slice(0, 19).replaceAll(':', '-');
  const target = join(folder, `${stamp}-${occasion}-${basename(database)}`);
  const part = `${target}.part`;
  mkdirSync(folder, { recursive: true });
  rmSync(part, { force: true });
  try {
    client.prepare('VACUUM INTO ?').run(part);
    renameSync(part, target);
  } finally {
    rmSync(part, { force: true });
  }
  const same = copiesOf(database, occasion);
  for (const old of same.slice(0, -KEPT[occasion])) for (const file of [old, old + NEEDS]) rmSync(file, { force: true });
  return target;
}

/** Keeps the day's copy if there is none yet. */
export function keepDailyCopy(client: SQLite.Database, database: string, now = new Date()): void {
  const today = now.toISOString().slice(0, 10);
  const has = copiesOf(database, 'daily').some((path) => basename(path).startsWith(today));
  if (!has) keepCopy(client, database, 'daily', now);
}
