import { join } from 'node:path';
import { openSqlite, type OpenDatabase } from '@violet-crate/host/sqlite';
import * as schema from './schema.ts';

export type Database = OpenDatabase<typeof schema>;
export const DATABASE = Symbol('database');

/** Rows in groups that one statement can take: SQLite has a bound on values, and Drizzle takes longest over each statement. */
export const inGroups = <T>(rows: readonly T[], most = 500): T[][] =>
  Array.from({ length: Math.ceil(rows.length / most) }, (_, i) => rows.slice(i * most, (i + 1) * most));

export const openDatabase = (file: string): Database => openSqlite(file, schema, join(import.meta.dirname, '..', '..', 'drizzle'));
