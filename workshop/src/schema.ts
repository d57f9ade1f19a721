/** Tables of the workshop. Files lie on disk under their SHA-256; here is what they are and who may do what. */

import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import { blob, index, integer, primaryKey, sqliteTable, text, unique } from 'drizzle-orm/sqlite-core';

export const accounts = sqliteTable('accounts', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  name: text('name').notNull().unique(),
  mail: text('mail').notNull().unique(),
  /** `scrypt$N$r$p$salt$hash`; empty where nobody signs in with one. */
  password: text('password').notNull(),
  createdAt: text('created_at').notNull(),
  confirmedAt: text('confirmed_at'),
  termsAt: text('terms_at'),
  moderator: integer('moderator', { mode: 'boolean' }).notNull().default(false),
});

/** Signed in browsers. Only the hash of what their cookie holds is kept. */
export const sessions = sqliteTable('sessions', {
  hash: text('hash').primaryKey(),
  account: integer('account')
    .notNull()
    .references(() => accounts.id, { onDelete: 'cascade' }),
  createdAt: text('created_at').notNull(),
  expiresAt: text('expires_at').notNull(),
});

export const SCOPES = ['read', 'publish', 'manage'] as const;
export type Scope = (typeof SCOPES)[number];

/** Tokens of programs, by the hash of what they show. */
export const tokens = sqliteTable('tokens', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  hash: text('hash').notNull().unique(),
  account: integer('account')
    .notNull()
    .references(() => accounts.id, { onDelete: 'cascade' }),
  name: text('name').notNull(),
  scopes: text('scopes', { mode: 'json' }).$type<Scope[]>().notNull(),
  createdAt: text('created_at').notNull(),
  usedAt: text('used_at'),
  revokedAt: text('revoked_at'),
});

/** The mailbox page stands in for mail: what would have been sent, with its link. */
export const mails = sqliteTable('mails', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  to: text('to').notNull(),
  subject: text('subject').notNull(),
  body: text('body').notNull(),
  link: text('link').notNull(),
  at: text('at').notNull(),
});

/** What a link in a mail stands for, by the hash of what it holds. */
export const letters = sqliteTable('letters', {
  hash: text('hash').primaryKey(),
  kind: text('kind').$type<'confirm' | 'invitation' | 'enter'>().notNull(),
  /** Until when it holds; null for links of mails, which hold until they are used. */
  until: text('until'),
  account: integer('account').references(() => accounts.id, { onDelete: 'cascade' }),
  invitation: integer('invitation'),
  usedAt: text('used_at'),
});

/** Whoever publishes: an account has one of its own name, and may be in others. */
export const organisations = sqliteTable('organisations', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  name: text('name').notNull().unique(),
  title: text('title').notNull(),
  createdAt: text('created_at').notNull(),
});

export const ROLES = ['owner', 'publisher', 'tester'] as const;
export type Role = (typeof ROLES)[number];

export const members = sqliteTable(
  'members',
  {
    organisation: integer('organisation')
      .notNull()
      .references(() => organisations.id, { onDelete: 'cascade' }),
    account: integer('account')
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    role: text('role').$type<Role>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.organisation, table.account] })],
);

export const invitations = sqliteTable('invitations', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  organisation: integer('organisation')
    .notNull()
    .references(() => organisations.id, { onDelete: 'cascade' }),
  account: integer('account')
    .notNull()
    .references(() => accounts.id, { onDelete: 'cascade' }),
  role: text('role').$type<Role>().notNull(),
  at: text('at').notNull(),
  acceptedAt: text('accepted_at'),
});

/** Public keys of packages, each of one account. */
export const keys = sqliteTable('keys', {
  key: text('key').primaryKey(),
  account: integer('account')
    .notNull()
    .references(() => accounts.id, { onDelete: 'cascade' }),
  at: text('at').notNull(),
});

export const VISIBILITIES = ['private', 'code', 'listed'] as const;
export type Visibility = (typeof VISIBILITIES)[number];

export const mods = sqliteTable('mods', {
  /** Also the row of the search index. */
  id: integer('id').primaryKey({ autoIncrement: true }),
  name: text('name').notNull().unique(),
  organisation: integer('organisation')
    .notNull()
    .references(() => organisations.id),
  profile: text('profile').notNull(),
  visibility: text('visibility').$type<Visibility>().notNull(),
  /** The version that is given out; a rollback names an older one. */
  current: integer('current'),
  createdAt: text('created_at').notNull(),
  updatedAt: text('updated_at').notNull(),
  /** It can be had back for a while. */
  deletedAt: text('deleted_at'),
  /** When a moderator took it off the list: its owner does not list it again until a moderator allows that. */
  barredAt: text('barred_at'),
});

/** A version is never changed but for its notes; what it holds lies in `manifest`. */
export const versions = sqliteTable(
  'versions',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    mod: integer('mod')
      .notNull()
      .references(() => mods.id, { onDelete: 'cascade' }),
    version: text('version').notNull(),
    shareCode: text('share_code').notNull().unique(),
    manifest: text('manifest', { mode: 'json' }).$type<ReleaseManifest>().notNull(),
    /** The very texts of `release.json` and `release.sig`, which is empty where nobody signed. */
    document: text('document').notNull(),
    signature: text('signature').notNull(),
    notes: text('notes').notNull(),
    sha256: text('sha256').notNull(),
    bytes: integer('bytes').notNull(),
    /** Of who signed it; empty where nobody did. */
    key: text('key').notNull(),
    by: integer('by').references(() => accounts.id, { onDelete: 'set null' }),
    publishedAt: text('published_at').notNull(),
    withdrawnAt: text('withdrawn_at'),
    withdrawnFor: text('withdrawn_for').notNull().default(''),
  },
  (table) => [unique('one_of_a_version').on(table.mod, table.version), index('versions_by_content').on(table.sha256)],
);

/** Reports of testers on versions, before and after they are listed. */
export const tests = sqliteTable(
  'tests',
  {
    version: integer('version')
      .notNull()
      .references(() => versions.id, { onDelete: 'cascade' }),
    account: integer('account')
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    works: integer('works', { mode: 'boolean' }).notNull(),
    note: text('note').notNull(),
    at: text('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.version, table.account] })],
);

export const downloads = sqliteTable(
  'downloads',
  {
    version: integer('version')
      .notNull()
      .references(() => versions.id, { onDelete: 'cascade' }),
    day: text('day').notNull(),
    count: integer('count').notNull(),
  },
  (table) => [primaryKey({ columns: [table.version, table.day] })],
);

/** Which version somebody has, by a number that their application made up: an application that asks for updates says it. */
export const inUse = sqliteTable(
  'in_use',
  {
    who: text('who').notNull(),
    mod: integer('mod')
      .notNull()
      .references(() => mods.id, { onDelete: 'cascade' }),
    version: text('version').notNull(),
    at: text('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.who, table.mod] })],
);

/** Uploads that have come in whole, and what became of them. */
export const uploads = sqliteTable('uploads', {
  id: text('id').primaryKey(),
  account: integer('account').notNull(),
  shareCode: text('share_code'),
  problem: text('problem'),
  status: integer('status'),
  at: text('at').notNull(),
});

export const comments = sqliteTable(
  'comments',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    mod: integer('mod')
      .notNull()
      .references(() => mods.id, { onDelete: 'cascade' }),
    account: integer('account')
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    text: text('text').notNull(),
    at: text('at').notNull(),
    hiddenAt: text('hidden_at'),
  },
  (table) => [index('comments_by_mod').on(table.mod)],
);

export const ratings = sqliteTable(
  'ratings',
  {
    mod: integer('mod')
      .notNull()
      .references(() => mods.id, { onDelete: 'cascade' }),
    account: integer('account')
      .notNull()
      .references(() => accounts.id, { onDelete: 'cascade' }),
    stars: integer('stars').notNull(),
  },
  (table) => [primaryKey({ columns: [table.mod, table.account] })],
);

export const reports = sqliteTable('reports', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  mod: integer('mod')
    .notNull()
    .references(() => mods.id, { onDelete: 'cascade' }),
  comment: integer('comment').references(() => comments.id, { onDelete: 'cascade' }),
  account: integer('account')
    .notNull()
    .references(() => accounts.id, { onDelete: 'cascade' }),
  reason: text('reason').notNull(),
  at: text('at').notNull(),
  settledAt: text('settled_at'),
  outcome: text('outcome').notNull().default(''),
});

/** Who did what to a mod, for everybody who may see it. */
export const log = sqliteTable(
  'log',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    mod: integer('mod')
      .notNull()
      .references(() => mods.id, { onDelete: 'cascade' }),
    who: text('who').notNull(),
    what: text('what').notNull(),
    at: text('at').notNull(),
  },
  (table) => [index('log_by_mod').on(table.mod)],
);

/** Releases as they were kept before there were accounts: taken over at the first start, and none afterwards. */
export const oldReleases = sqliteTable('releases', {
  shareCode: text('share_code').primaryKey(),
  name: text('name').notNull(),
  title: text('title').notNull(),
  description: text('description').notNull(),
  version: text('version').notNull(),
  profile: text('profile').notNull(),
  authors: text('authors', { mode: 'json' }).$type<string[]>().notNull(),
  credits: text('credits', { mode: 'json' }).$type<object[]>().notNull(),
  bytes: integer('bytes').notNull(),
  sha256: text('sha256').notNull(),
  package: blob('package', { mode: 'buffer' }).notNull(),
  thumbnail: blob('thumbnail', { mode: 'buffer' }).notNull(),
  publishedAt: text('published_at').notNull(),
  downloads: integer('downloads').notNull().default(0),
});
