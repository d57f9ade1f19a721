import { join } from 'node:path';
import SQLite from 'better-sqlite3';
import { drizzle, type BetterSQLite3Database } from 'drizzle-orm/better-sqlite3';
import { migrate } from 'drizzle-orm/better-sqlite3/migrator';
import * as schema from './schema.ts';

export type Database = BetterSQLite3Database<typeof schema> & { $client: SQLite.Database };
export const DATABASE = Symbol('database');

export function openDatabase(file: string): Database {
  const client = new SQLite(file);
  client.pragma('journal_mode = WAL');
  client.pragma('synchronous = FULL');
  const database = drizzle(client, { schema });
  migrate(database, { migrationsFolder: join(import.meta.dirname, '..', 'drizzle') });
  return database;
}
