/** Shapes of the server's answers. */

import type { StageReport } from '@violet-crate/core/build/stage';
import type { FileRecord } from '@violet-crate/core/crate/basePack';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { Finding } from '@violet-crate/core/finding';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';

export interface Game {
  profile: Profile;
  folder: string;
  version: string | null;
}

export interface SetupCheck {
  id: string;
  title: string;
  ok: boolean;
  detail: string;
  hint?: string;
  fix?: { action: string; label: string };
}

export interface CrateEntry {
  id: string;
  manifest: CrateManifest;
  updatedAt: string;
}

export interface CrateFile extends FileRecord {
  findings: Finding[];
}

export interface CrateView extends CrateEntry {
  maps: string[];
  files: CrateFile[];
}

export interface Job {
  id: string;
  kind: 'convert' | 'build' | 'pack';
  crateId: string;
  label: string;
  state: 'queued' | 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  step: string;
  progress: number;
  result: Record<string, unknown> | null;
  error: Finding | null;
  log: string[];
  createdAt: string;
  finishedAt: string | null;
}

export interface Build {
  id: string;
  map: string;
  quality: string;
  ok: boolean;
  fresh: boolean;
  stages: StageReport[];
  artefacts: FileRecord[];
  createdAt: string;
}

export interface PackageEntry {
  id: string;
  sha256: string;
  bytes: number;
  manifest: ReleaseManifest;
  findings: Finding[];
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

export interface Settings {
  workshopUrl: string;
  workshopToken: string;
}
