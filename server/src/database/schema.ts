/** Tables. Documents are JSON text; binary content lies in the blob store under its SHA-256. */

import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { AssetPack, PackEntry } from '@violet-crate/core/importing/assetPack';
import type { CrateEdit } from '@violet-crate/core/crate/crateEdit';
import type { AssetRecord, CrateManifest, CrateMaterial } from '@violet-crate/core/crate/manifest';
import type { Finding } from '@violet-crate/core/finding';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { SeenGame } from '@violet-crate/core/setup/gameChange';
import type { BuildInputs } from '@violet-crate/core/stages/freshness';
import type { BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import type { StageReport } from '@violet-crate/core/stages/contract/stage';
import type { PlatformPackage } from '@violet-crate/core/release/platform';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import type { FileRecord } from '@violet-crate/core/crate/basePack';
import { index, integer, primaryKey, real, sqliteTable, text } from 'drizzle-orm/sqlite-core';

export const crates = sqliteTable('crates', {
  id: text('id').primaryKey(),
  name: text('name').notNull().unique(),
  manifest: text('manifest', { mode: 'json' }).$type<CrateManifest>().notNull(),
  createdAt: text('created_at').notNull(),
  updatedAt: text('updated_at').notNull(),
  /** Folder of the install that it is made with; null for the first that is found. */
  install: text('install'),
  /** Its game as somebody last looked at it. */
  seenGame: text('seen_game', { mode: 'json' }).$type<SeenGame>(),
  /** Hash of the profile that it is made with, among `profileVersions`; null for the newest. */
  profileHash: text('profile_hash'),
  /** When it was put away (it is listed below the others), and when it was deleted (it can be had back for a while). */
  archivedAt: text('archived_at'),
  deletedAt: text('deleted_at'),
});

/** Folders that were chosen for a game by hand. */
export const installs = sqliteTable('installs', {
  folder: text('folder').primaryKey(),
  profile: text('profile').notNull(),
  addedAt: text('added_at').notNull(),
});

/** Steps of the preparation that somebody ticked, and programs of it that ran. */
export const prepared = sqliteTable(
  'prepared',
  {
    install: text('install').notNull(),
    step: text('step').notNull(),
    at: text('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.install, table.step] })],
);

/** What the user has said yes to, by what it is about, with the hash of what was shown. */
export const consents = sqliteTable(
  'consents',
  {
    kind: text('kind').$type<'programs' | 'places' | 'git'>().notNull(),
    /** Id of a profile with the folder of its install, or a folder. */
    subject: text('subject').notNull(),
    hash: text('hash').notNull(),
    at: text('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.kind, table.subject] })],
);

/** Profiles as they were, for crates that were made with them. */
export const profileVersions = sqliteTable('profile_versions', {
  hash: text('hash').primaryKey(),
  profile: text('profile', { mode: 'json' }).$type<Profile>().notNull(),
  at: text('at').notNull(),
});

export type DownloadState = 'waiting' | 'running' | 'paused' | 'failed' | 'unpacking' | 'done';

/** What is fetched from a depot. Its bytes lie in the data folder until they are unpacked. */
export const downloads = sqliteTable('downloads', {
  id: text('id').primaryKey(),
  profile: text('profile').notNull(),
  item: text('item').notNull(),
  version: text('version').notNull(),
  title: text('title').notNull(),
  /** Folder of the install that it goes into. */
  install: text('install').notNull(),
  bytes: integer('bytes').notNull(),
  state: text('state').$type<DownloadState>().notNull(),
  problem: text('problem'),
  createdAt: text('created_at').notNull(),
});

/** Crates that are kept equal to a folder. */
export const boundFolders = sqliteTable('bound_folders', {
  crateId: text('crate_id')
    .primaryKey()
    .references(() => crates.id, { onDelete: 'cascade' }),
  folder: text('folder').notNull(),
  boundAt: text('bound_at').notNull(),
});

/** What a file was when crate and folder were last equal in it. */
export const boundFiles = sqliteTable(
  'bound_files',
  {
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    sha256: text('sha256').notNull(),
  },
  (table) => [primaryKey({ columns: [table.crateId, table.path] })],
);

/** What is just being written into a crate's folder: known before it lies there, so that a killed server takes it for nobody else's change. */
export const boundGiving = sqliteTable(
  'bound_giving',
  {
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    sha256: text('sha256').notNull(),
  },
  (table) => [primaryKey({ columns: [table.crateId, table.path] })],
);

export const files = sqliteTable(
  'files',
  {
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    sha256: text('sha256').notNull(),
    bytes: integer('bytes').notNull(),
    findings: text('findings', { mode: 'json' }).$type<Finding[]>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.crateId, table.path] })],
);

/** Opened asset packs: what they hold, their files lying in the blob store. */
export const packs = sqliteTable('packs', {
  id: text('id').primaryKey(),
  crateId: text('crate_id')
    .notNull()
    .references(() => crates.id, { onDelete: 'cascade' }),
  about: text('about', { mode: 'json' }).$type<AssetPack>().notNull(),
  described: integer('described', { mode: 'boolean' }).notNull(),
  entries: text('entries', { mode: 'json' }).$type<(PackEntry & { sha256: string })[]>().notNull(),
  openedAt: text('opened_at').notNull(),
});

/** What was removed from a crate, so that it can be put back. */
export const trash = sqliteTable('trash', {
  id: text('id').primaryKey(),
  crateId: text('crate_id')
    .notNull()
    .references(() => crates.id, { onDelete: 'cascade' }),
  files: text('files', { mode: 'json' }).$type<(FileRecord & { findings: Finding[] })[]>().notNull(),
  records: text('records', { mode: 'json' }).$type<Record<string, AssetRecord>>().notNull(),
  materials: text('materials', { mode: 'json' }).$type<CrateMaterial[]>().notNull(),
  removedAt: text('removed_at').notNull(),
});

/** Changes of crates as a whole, with what takes each back. */
export const crateEdits = sqliteTable(
  'crate_edits',
  {
    id: text('id').primaryKey(),
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    edit: text('edit', { mode: 'json' }).$type<CrateEdit>().notNull(),
    inverse: text('inverse', { mode: 'json' }).$type<CrateEdit>().notNull(),
    /** Findings of files that went, by the hash of their content. */
    findings: text('findings', { mode: 'json' }).$type<Record<string, Finding[]>>().notNull(),
    at: text('at').notNull(),
    undoneAt: text('undone_at'),
  },
  (table) => [index('crate_edits_by_crate').on(table.crateId, table.at)],
);

/** What scripts were before: a row each time that one was saved as something else, but for what was typed within a few minutes. */
export const scriptVersions = sqliteTable(
  'script_versions',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    path: text('path').notNull(),
    sha256: text('sha256').notNull(),
    savedAt: text('saved_at').notNull(),
  },
  (table) => [index('script_versions_by_path').on(table.crateId, table.path, table.id)],
);

/** Folders on this machine whose files a crate's assets are made from. */
export const watches = sqliteTable('watches', {
  crateId: text('crate_id')
    .primaryKey()
    .references(() => crates.id, { onDelete: 'cascade' }),
  folder: text('folder').notNull(),
  automatic: integer('automatic', { mode: 'boolean' }).notNull(),
});

/** A snapshot of a map at a revision; later revisions are edits on top of it. */
export const maps = sqliteTable(
  'maps',
  {
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    document: text('document', { mode: 'json' }).$type<GameMap>().notNull(),
    revision: integer('revision').notNull(),
  },
  (table) => [primaryKey({ columns: [table.crateId, table.name] })],
);

export const mapEdits = sqliteTable(
  'map_edits',
  {
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    map: text('map').notNull(),
    revision: integer('revision').notNull(),
    edit: text('edit', { mode: 'json' }).$type<MapEdit>().notNull(),
    at: text('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.crateId, table.map, table.revision] })],
);

/** Earlier states of maps, from which any revision is reached by the edits after them. */
export const mapSnapshots = sqliteTable(
  'map_snapshots',
  {
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    map: text('map').notNull(),
    revision: integer('revision').notNull(),
    document: text('document', { mode: 'json' }).$type<GameMap>().notNull(),
    at: text('at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.crateId, table.map, table.revision] })],
);

export type JobState = 'queued' | 'running' | 'paused' | 'done' | 'failed' | 'cancelled' | 'interrupted';

export const jobs = sqliteTable(
  'jobs',
  {
    id: text('id').primaryKey(),
    kind: text('kind').notNull(),
    crateId: text('crate_id').references(() => crates.id, { onDelete: 'cascade' }),
    label: text('label').notNull(),
    state: text('state').$type<JobState>().notNull(),
    step: text('step').notNull(),
    progress: real('progress').notNull(),
    result: text('result', { mode: 'json' }).$type<Record<string, unknown>>(),
    error: text('error', { mode: 'json' }).$type<Finding>(),
    log: text('log', { mode: 'json' }).$type<string[]>().notNull(),
    createdAt: text('created_at').notNull(),
    finishedAt: text('finished_at'),
  },
  (table) => [index('jobs_by_crate').on(table.crateId, table.createdAt)],
);

export const builds = sqliteTable(
  'builds',
  {
    id: text('id').primaryKey(),
    crateId: text('crate_id')
      .notNull()
      .references(() => crates.id, { onDelete: 'cascade' }),
    map: text('map').notNull(),
    quality: text('quality').notNull(),
    /** Hash of all inputs: equal to the crate's present one while the build is fresh. */
    inputHash: text('input_hash').notNull(),
    ok: integer('ok', { mode: 'boolean' }).notNull(),
    stages: text('stages', { mode: 'json' }).$type<StageReport[]>().notNull(),
    artefacts: text('artefacts', { mode: 'json' }).$type<FileRecord[]>().notNull(),
    /** What it was made from, stage by stage; null for builds from before this was kept. */
    inputs: text('inputs', { mode: 'json' }).$type<BuildInputs>(),
    /** Parameters that differed from those of the quality. */
    parameters: text('parameters', { mode: 'json' }).$type<Partial<BuildParameters>>(),
    /** SHA-256 of a small picture of what came out; null where nothing did. */
    picture: text('picture'),
    createdAt: text('created_at').notNull(),
  },
  (table) => [index('builds_by_crate').on(table.crateId, table.createdAt)],
);

export const packages = sqliteTable('packages', {
  id: text('id').primaryKey(),
  crateId: text('crate_id')
    .notNull()
    .references(() => crates.id, { onDelete: 'cascade' }),
  sha256: text('sha256').notNull(),
  bytes: integer('bytes').notNull(),
  inputHash: text('input_hash').notNull(),
  manifest: text('manifest', { mode: 'json' }).$type<ReleaseManifest>().notNull(),
  findings: text('findings', { mode: 'json' }).$type<Finding[]>().notNull(),
  createdAt: text('created_at').notNull(),
  /** SHA-256 of the crate as it was packed, as JSON; null for packages of older versions. */
  contents: text('contents'),
  /** The same for single platforms of the game. */
  platforms: text('platforms', { mode: 'json' }).$type<PlatformPackage[]>().notNull().default([]),
});

export type UploadState = 'running' | 'stopped' | 'failed' | 'done';

/** Packages on their way to a workshop. What has arrived there is gone on with after a restart. */
export const uploads = sqliteTable('uploads', {
  id: text('id').primaryKey(),
  crateId: text('crate_id')
    .notNull()
    .references(() => crates.id, { onDelete: 'cascade' }),
  packageId: text('package_id').notNull(),
  workshop: text('workshop').notNull(),
  notes: text('notes').notNull(),
  visibility: text('visibility').$type<'private' | 'code'>().notNull(),
  bytes: integer('bytes').notNull(),
  /** Address of the upload at the workshop. */
  begun: text('begun'),
  state: text('state').$type<UploadState>().notNull(),
  problem: text('problem'),
  createdAt: text('created_at').notNull(),
});

export const releases = sqliteTable('releases', {
  shareCode: text('share_code').primaryKey(),
  crateId: text('crate_id')
    .notNull()
    .references(() => crates.id, { onDelete: 'cascade' }),
  packageId: text('package_id').notNull(),
  version: text('version').notNull(),
  workshop: text('workshop').notNull(),
  publishedAt: text('published_at').notNull(),
});

export const settings = sqliteTable('settings', { key: text('key').primaryKey(), value: text('value').notNull() });
