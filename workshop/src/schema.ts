import { blob, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** A release is never changed: a new version is a new row under a new share code. */
export const releases = sqliteTable('releases', {
  shareCode: text('share_code').primaryKey(),
  name: text('name').notNull(),
  title: text('title').notNull(),
  description: text('description').notNull(),
  version: text('version').notNull(),
  profile: text('profile').notNull(),
  authors: text('authors', { mode: 'json' }).$type<string[]>().notNull(),
  credits: text('credits', { mode: 'json' }).$type<{ author: string; work: string; licence: string }[]>().notNull(),
  bytes: integer('bytes').notNull(),
  sha256: text('sha256').notNull(),
  package: blob('package', { mode: 'buffer' }).notNull(),
  thumbnail: blob('thumbnail', { mode: 'buffer' }).notNull(),
  publishedAt: text('published_at').notNull(),
  downloads: integer('downloads').notNull().default(0),
});
