/**
 * Build stages are pure functions of their inputs and options. A stage's key is the hash of both and of
 * the stage's own revision, so a changed algorithm never meets an old result in the cache.
 */

import { canonicalJson, sha256Hex } from '../hash.ts';
import type { Finding } from '../finding.ts';

export const BUILD_STAGES = ['check', 'geometry', 'sealing', 'lighting', 'packing'] as const;
export type BuildStage = (typeof BUILD_STAGES)[number];

export const QUALITIES = ['draft', 'preview', 'final'] as const;
export type Quality = (typeof QUALITIES)[number];

/** Raise a stage's number when its result for equal inputs changes. */
export const STAGE_REVISION: Record<BuildStage, number> = { check: 1, geometry: 2, sealing: 2, lighting: 2, packing: 3 };

export const stageKey = (stage: BuildStage, inputs: unknown): string => sha256Hex(`${stage}/${STAGE_REVISION[stage]}\n${canonicalJson(inputs)}`);

/** Where stage results are kept: a folder, a store or nothing at all. */
export interface StageCache {
  get(key: string): Promise<Uint8Array | null>;
  put(key: string, value: Uint8Array): Promise<void>;
}

export interface StageReport {
  stage: BuildStage;
  state: 'done' | 'reused' | 'failed' | 'skipped';
  milliseconds: number;
  /** One sentence on what came out. */
  summary: string;
  findings: Finding[];
}

/** Thrown out of a progress callback to stop a build; nothing of the running stage is stored. */
export class Cancelled extends Error {
  override name = 'Cancelled';
}
