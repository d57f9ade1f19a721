import { join } from 'node:path';
import { openSqlite, type OpenDatabase } from '@violet-crate/host/sqlite';
import * as schema from './schema.ts';

export type Database = OpenDatabase<typeof schema>;
export const DATABASE = Symbol('database');

export const openDatabase = (file: string): Database => openSqlite(file, schema, join(import.meta.dirname, '..', '..', 'drizzle'));
