/**
 * Build stages are pure functions of their inputs (`stages/inputs.ts`). A stage's key is the hash of the value that it
 * receives, of the keys of the stages it builds on and of its own revision, so a changed algorithm never meets an old
 * result in the cache. The inputs are also listed in parts with names that people know ("lamp_3 position"): two
 * lists tell what has changed between two builds.
 */

import { canonicalJson, sha256Hex } from '../../hash.ts';
import type { Finding } from '../../finding.ts';

export const BUILD_STAGES = [
  'check',
  'geometry',
  'ground',
  'sealing',
  'visibility',
  'lighting',
  'daylight',
  'navigation',
  'overview',
  'packing',
  'programs',
] as const;
export type BuildStage = (typeof BUILD_STAGES)[number];

export const QUALITIES = ['draft', 'preview', 'final'] as const;
export type Quality = (typeof QUALITIES)[number];

/** Raise a stage's number when its result for equal inputs changes. */
export const STAGE_REVISION: Record<BuildStage, number> = {
  check: 1,
  geometry: 4,
  ground: 1,
  sealing: 4,
  visibility: 2,
  lighting: 6,
  daylight: 1,
  navigation: 4,
  overview: 1,
  packing: 10,
  programs: 1,
};

/** The stages whose results a stage reads. */
export const STAGE_NEEDS: Record<BuildStage, readonly BuildStage[]> = {
  check: [],
  geometry: [],
  ground: [],
  sealing: ['geometry'],
  visibility: ['sealing'],
  lighting: ['geometry', 'ground', 'sealing'],
  daylight: ['geometry', 'ground'],
  navigation: ['ground'],
  overview: [],
  packing: ['geometry', 'ground', 'sealing', 'visibility', 'lighting', 'daylight', 'navigation', 'overview'],
  programs: ['packing'],
};

/** Hashes of a stage's inputs by name. */
export type StageParts = Record<string, string>;

const SHORT = 12;

/** The hash by which one part of the inputs is known. */
export const partHash = (value: unknown): string => sha256Hex(canonicalJson(value)).slice(0, SHORT);

/** Where stage results are kept: a folder, a store or nothing at all. */
export interface StageCache {
  get(key: string): Promise<Uint8Array | null>;
  put(key: string, value: Uint8Array): Promise<void>;
}

export interface StageReport {
  stage: BuildStage;
  /** `fresh`: taken from the cache, since nothing that it depends on has changed. */
  state: 'ran' | 'fresh' | 'failed' | 'skipped';
  milliseconds: number;
  /** Largest memory seen while it ran, in bytes; 0 where it is not known. */
  memory: number;
  /** One sentence on what came out. */
  summary: string;
  /** The same in numbers, by name. */
  counts: Record<string, number>;
  findings: Finding[];
}

/** Thrown out of a progress callback to stop a build; nothing of the running stage is stored. */
export class Cancelled extends Error {
  override name = 'Cancelled';
}
