/** Shapes of the server's answers. */

import type { Freshness } from '@violet-crate/core/stages/freshness';
import type { BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import type { StageReport } from '@violet-crate/core/stages/contract/stage';
import type { AssetPack, PackEntry } from '@violet-crate/core/importing/assetPack';
import type { FileRecord } from '@violet-crate/core/crate/basePack';
import type { MapDifference } from '@violet-crate/core/document/changeWords';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { Finding } from '@violet-crate/core/finding';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { Step } from '@violet-crate/core/profile/toolchain';
import type { SetupCheck } from '@violet-crate/core/setup/checks';
import type { GameChange } from '@violet-crate/core/setup/gameChange';
import type { Offer } from '@violet-crate/core/setup/packUpdates';
import type { Grown } from '@violet-crate/core/link/grown';
import type { Changes } from '@violet-crate/core/release/notes';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { PlatformPackage } from '@violet-crate/core/release/platform';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';

export interface Game {
  profile: Profile;
  folder: string;
  version: string | null;
  installs: FoundGame[];
}

export type { SetupCheck };

export interface FoundGame {
  id: string;
  folder: string;
  version: string | null;
  /** How it was found, in words. */
  how: string;
}

export interface StepState {
  step: Step;
  done: boolean;
  rule: string;
  writes: { file: string; content: string } | null;
}

/** A command of a profile as it would run here. */
export interface ResolvedCommand {
  what: string;
  line: string[];
  folder: string;
  environment: Record<string, string>;
  files: { path: string; sha256: string | null }[];
}

export interface PlannedWrites {
  writes: { file: string; content: string }[];
  hash: string;
  allowed: boolean;
}

export interface Programs {
  commands: ResolvedCommand[];
  hash: string;
  allowed: boolean;
}

export interface Offers {
  offers: Offer[];
  findings: Finding[];
}

export interface Download {
  id: string;
  profile: string;
  item: string;
  version: string;
  title: string;
  install: string;
  bytes: number;
  state: 'waiting' | 'running' | 'paused' | 'failed' | 'unpacking' | 'done';
  problem: string | null;
  done: number;
  speed: number;
  secondsLeft: number | null;
}

/** The folder that a crate lives in, and how both stand. */
export interface FolderState {
  folder: string;
  problem: string | null;
  vanished: boolean;
  refused: { path: string; reason: string }[];
  conflicts: { path: string; members: string[]; what: string }[];
  equalAt: string | null;
  looking: boolean;
}

export interface ChangedFile {
  path: string;
  how: 'added' | 'changed' | 'removed' | 'in conflict';
  difference: MapDifference | null;
}

export interface VersionsState {
  untrusted: { settings: string[]; hash: string } | null;
  problem: string | null;
  repository: boolean;
  branch: string;
  branches: string[];
  changes: ChangedFile[];
  merging: boolean;
  conflicts: { path: string; members: { key: string; label: string }[] }[];
  draft: string;
  driver: boolean;
  large: { path: string; bytes: number }[];
}

export interface Commit {
  hash: string;
  message: string;
  author: string;
  at: string;
}

/** The game that a crate is made with. */
export interface CrateGame {
  profile: Profile;
  install: { id: string; folder: string; version: string | null };
  change: GameChange | null;
  /** What a newer version of the profile would mean; null where there is none. */
  newer: { differences: string[]; trouble: string[] } | null;
}

export interface ProfileEntry {
  id: string;
  title: string;
  description: string;
  version: string | null;
  shipped: boolean;
  hash: string;
}

export interface Profiles {
  profiles: ProfileEntry[];
  damaged: { file: string; message: string }[];
}

export interface CrateEntry {
  id: string;
  manifest: CrateManifest;
  updatedAt: string;
  /** Address of what it looks like; null where nothing shows it. */
  picture: string | null;
  bytes: number;
  archived: boolean;
  /** When it was deleted; it can be had back for a while. */
  deletedAt: string | null;
  /** Files whose stored content is missing or damaged. */
  damaged: number;
  stages: { findings: number; build: 'none' | 'fresh' | 'stale' | 'stopped'; release: 'none' | 'packed' | 'published' };
}

export interface CrateFile extends FileRecord {
  findings: Finding[];
}

export interface CrateView extends Pick<CrateEntry, 'id' | 'manifest' | 'updatedAt'> {
  maps: string[];
  files: CrateFile[];
  /** Id of the install that it is made with. */
  install: string;
}

export interface Job {
  id: string;
  kind: 'convert' | 'build' | 'pack';
  crateId: string;
  label: string;
  state: 'queued' | 'running' | 'paused' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  step: string;
  progress: number;
  result: Record<string, unknown> | null;
  error: Finding | null;
  log: string[];
  createdAt: string;
  finishedAt: string | null;
}

/** What became of one file of an import. */
export interface ImportedFile {
  file: string;
  kind: string | null;
  state: 'waiting' | 'converting' | 'done' | 'failed' | 'unchanged' | 'skipped';
  path?: string;
  findings?: number;
  error?: Finding;
  reason?: string;
}

/** A source that is open in a program of the server's machine. */
export interface OpenedFile {
  path: string;
  file: string;
  program: string;
  conflict: boolean;
  /** Why what the program saved cannot be taken, or null. */
  problem: string | null;
}

export interface Openers {
  /** Why no program can show a window, or null. */
  noScreen: string | null;
  /** What the system would open files with. */
  system: string;
  programs: Record<string, string>;
  /** The bare names of those. */
  names: Record<string, string>;
}

export interface WatchState {
  folder: string;
  automatic: boolean;
  stale: { asset: string; file: string }[];
  fresh: string[];
  problem: string | null;
}

export interface Pack {
  id: string;
  about: AssetPack;
  described: boolean;
  entries: PackEntry[];
}

export interface PackClash {
  file: string;
  asset: string;
  renamed: string;
}

export interface Build {
  id: string;
  map: string;
  quality: string;
  ok: boolean;
  fresh: boolean;
  stages: StageReport[];
  /** For the newest build of a map, whether each stage is fresh, and why not. */
  freshness: Freshness[];
  parameters: Partial<BuildParameters> | null;
  /** Whether there is a small picture of what came out. */
  picture: string | null;
  artefacts: FileRecord[];
  createdAt: string;
}

/** What a running build looks like so far; `version` counts its pictures. */
export interface JobPicture {
  jobId: string;
  crateId: string | null;
  map: string;
  version: number;
}

/** A change of the crate as a whole. */
export interface CrateEditEntry {
  id: string;
  name: string;
  places: string[];
  at: string;
  undoneAt: string | null;
}

export interface PackageEntry {
  id: string;
  sha256: string;
  bytes: number;
  manifest: ReleaseManifest;
  findings: Finding[];
  platforms: PlatformPackage[];
  fresh: boolean;
  createdAt: string;
}

export interface ReleaseEntry {
  shareCode: string;
  packageId: string;
  version: string;
  workshop: string;
  publishedAt: string;
}

/** A package on its way to the workshop. */
export interface UploadEntry {
  id: string;
  packageId: string;
  notes: string;
  visibility: 'private' | 'code';
  bytes: number;
  sent: number;
  state: 'running' | 'stopped' | 'failed' | 'done';
  problem: string | null;
  createdAt: string;
}

export type Visibility = 'private' | 'code' | 'listed';

/** What the workshop has of a crate. */
export interface WorkshopMod {
  name: string;
  visibility: Visibility;
  organisation: string;
  current: string | null;
  deletedAt: string | null;
  versions: {
    version: string;
    shareCode: string;
    notes: string;
    publishedAt: string;
    bytes: number;
    downloads: number;
    withdrawnAt?: string;
    withdrawnFor: string;
  }[];
  tests: { version: string; who: string; works: boolean; note: string; at: string }[];
}

export interface WorkshopState {
  mod: WorkshopMod | null;
  conditions: { id: string; met: boolean; text: string }[];
  statistics: { perDay: { day: string; count: number }[]; used: { version: string; count: number }[] } | null;
}

/** What is different since the last release. */
export interface ReleaseChanges {
  since: string | null;
  notes: string;
  version: string;
  why: string;
  unchanged: boolean;
}

export interface ReleaseComparison {
  files: Grown[];
  changes: Changes | null;
  before: Record<string, GameMap> | null;
  after: Record<string, GameMap> | null;
}

/** Mods of a game. */
export interface ModEntry {
  name: string;
  title: string;
  version: string;
  description: string;
  authors: string[];
  enabled: boolean;
  local: boolean;
  bytes: number;
  shareCode: string | null;
  before: string | null;
  signer: string | null | false;
  requires: Record<string, string>;
}

export interface ModsState {
  game: string;
  mods: ModEntry[];
  conflicts: { path: string; mods: string[] }[];
  order: string[];
  running: string | null;
}

export interface ModUpdate {
  version: string;
  shareCode: string;
  notes: string;
  withdrawn?: string;
}

export interface InstalledRelease {
  name: string;
  version: string;
  title: string;
  verified: number;
  fetched: number;
  folder: string;
}

export interface WorkshopCard {
  name: string;
  title: string;
  summary: string;
  organisation: string;
  version: string;
  shareCode: string;
  tags: string[];
  downloads: number;
  stars: number | null;
}

export interface Settings {
  workshopUrl: string;
  /** Whether a token was entered for the workshop's address; it is never given out. */
  hasToken: boolean;
  depotUrl: string;
}
