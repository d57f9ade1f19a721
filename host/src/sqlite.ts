/** SQLite files that programs of the house keep: opened with all that can be wrong with them told in a sentence. */

import { existsSync, statSync } from 'node:fs';
import SQLite from 'better-sqlite3';
import { drizzle, type BetterSQLite3Database } from 'drizzle-orm/better-sqlite3';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import { keepCopy } from './copies.ts';
import { diskFull } from './diskFull.ts';
import { StartProblem } from './startProblem.ts';

export type OpenDatabase<Schema extends Record<string, unknown>> = BetterSQLite3Database<Schema> & { $client: SQLite.Database };

/**
 * Opens the database and brings it to the newest migration. Every commit is synced before it is
 * acknowledged (synchronous = FULL), so that a killed process loses nothing that was answered. Before a
 * migration changes anything, a copy is kept.
 *
 * @throws StartProblem where the file is damaged, empty, of a newer version or cannot be written
 */
export function openSqlite<Schema extends Record<string, unknown>>(file: string, schema: Schema, migrationsFolder: string): OpenDatabase<Schema> {
  const isNew = !existsSync(file);
  if (!isNew && statSync(file).size === 0)
    throw new StartProblem(`The database ${file} is empty: it was cut off. ${MEND} To begin with an empty library, remove the file.`);
  let client: SQLite.Database | undefined;
  try {
    client = new SQLite(file);
    client.pragma('journal_mode = WAL');
    client.pragma('synchronous = FULL');
    client.pragma('foreign_keys = ON');
    if (!isNew) checkWhole(client, file);
    const database = drizzle(client, { schema });
    const due = migrationsDue(client, migrationsFolder);
    if (due < 0) throw new StartProblem(`The database ${file} was written by a newer version of Violet Crate. Start that version.`);
    if (!isNew && due > 0) keepCopy(client, file, 'migration');
    migrate(database, { migrationsFolder });
    return database;
  } catch (error) {
    client?.close();
    throw explain(error, file);
  }
}

const MEND = 'Bring back the last copy with "npm run restore" (docs/restore.md).';

/** Looks through all pages; seconds for gigabytes, and the only way to notice damage before it spreads into edits. */
function checkWhole(client: SQLite.Database, file: string): void {
  const wrong = client.pragma('quick_check(1)', { simple: true });
  if (wrong !== 'ok') throw new StartProblem(`The database ${file} is damaged: ${String(wrong)}. ${MEND}`);
  // A file that may only be read is opened all the same, and fails at the first edit.
  client.exec('BEGIN IMMEDIATE; ROLLBACK');
}

/** How many migrations the file lacks; negative where it has some that this version does not know. */
function migrationsDue(client: SQLite.Database, migrationsFolder: string): number {
  const known = readMigrationFiles({ migrationsFolder });
  const table = client.prepare(`SELECT name FROM sqlite_master WHERE name = '__drizzle_migrations'`).get();
  if (!table) return known.length;
  const { last } = client.prepare('SELECT max(created_at) AS last FROM __drizzle_migrations').get() as { last: number | null };
  const newest = known.at(-1)?.folderMillis ?? 0;
  if ((last ?? 0) > newest) return -1;
  return known.filter((migration) => migration.folderMillis > (last ?? 0)).length;
}

function explain(error: unknown, file: string): unknown {
  if (error instanceof StartProblem) return error;
  const full = diskFull(error, file, 1 << 20);
  if (full) return new StartProblem(full.message);
  const code = (error as { code?: string }).code ?? '';
  if (code === 'SQLITE_NOTADB' || code.startsWith('SQLITE_CORRUPT'))
    return new StartProblem(`The database ${file} is damaged: it is no SQLite file any more. ${MEND}`);
  if (code.startsWith('SQLITE_READONLY') || code === 'SQLITE_CANTOPEN')
    return new StartProblem(
      `The database ${file} cannot be written. Make it and its folder writable for you, or set VIOLET_CRATE_DATA to another folder.`,
    );
  if (code.startsWith('SQLITE_BUSY')) return new StartProblem(`The database ${file} is in use by another program. End that one first.`);
  return error;
}
