import type SQLite from 'better-sqlite3';

const SHA256 = /\b[0-9a-f]{64}\b/g;

/**
 * Every SHA-256 that any row of any table names, in whatever column: a table that comes later is never forgotten,
 * and a number that only looks like one keeps a file too long instead of losing it.
 */
export function neededBlobs(database: SQLite.Database): Set<string> {
  const needed = new Set<string>();
  const tables = database.prepare(`SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'`).pluck().all() as string[];
  for (const table of tables) {
    for (const row of database.prepare(`SELECT * FROM "${table}"`).raw().iterate() as IterableIterator<unknown[]>)
      for (const value of row) if (typeof value === 'string') for (const [sha256] of value.matchAll(SHA256)) needed.add(sha256);
  }
  return needed;
}
