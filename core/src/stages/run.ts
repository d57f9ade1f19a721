/** One build as it goes: each stage from the cache or computed, and reported. */

import { hasBlocker, type Finding } from '../finding.ts';
import { sha256Hex } from '../hash.ts';
import type { BuildOptions } from './pipeline.ts';
import type { BuildPlan } from './plan.ts';
import { Cancelled, STAGE_NEEDS, type BuildStage, type StageCache, type StageReport } from './contract/stage.ts';

/** Ends a build early, with the reports so far. */
export class Stopped extends Error {}

export interface Codec<T> {
  encode(value: T): Uint8Array;
  decode(bytes: Uint8Array): T;
}

export const jsonCodec = <T>(): Codec<T> => ({
  encode: (value) => new TextEncoder().encode(JSON.stringify(value)),
  decode: (bytes) => JSON.parse(new TextDecoder().decode(bytes)) as T,
});

interface Told<T> {
  summary: (value: T) => string;
  counts?: (value: T) => Record<string, number>;
  findings?: (value: T) => Finding[];
}

/** What was asked for, and what has been reported. */
export class BuildRun {
  readonly reports = new Map<BuildStage, StageReport>();
  private readonly wanted: Set<BuildStage> | null;
  private readonly now: () => number;
  private most = 0;

  constructor(
    private readonly options: BuildOptions,
    private readonly plan: BuildPlan,
  ) {
    this.now = options.now ?? (() => performance.now());
    this.wanted = options.only ? needsOf(options.only) : null;
  }

  get crew(): BuildOptions['crew'] {
    return this.options.crew;
  }

  get readFile(): BuildOptions['readFile'] {
    return this.options.readFile;
  }

  get draughtsman(): BuildOptions['draughtsman'] {
    return this.options.draughtsman;
  }

  get runProgram(): BuildOptions['runProgram'] {
    return this.options.runProgram;
  }

  get picture(): BuildOptions['picture'] {
    return this.options.picture;
  }

  get cache(): StageCache | undefined {
    return this.options.cache;
  }

  progress =
    (stage: BuildStage) =>
    (fraction: number): void => {
      this.most = Math.max(this.most, this.options.memory?.() ?? 0);
      this.options.onProgress?.(stage, fraction);
    };

  skip(stage: BuildStage, summary: string): StageReport {
    return this.report({ stage, state: 'skipped', milliseconds: 0, memory: 0, summary, counts: {}, findings: [] });
  }

  private report(report: StageReport): StageReport {
    this.reports.set(report.stage, report);
    this.options.onStage?.(report);
    return report;
  }

  /** What the key of a stage is, with what else its result depends on beside its inputs. */
  keyOf(stage: BuildStage, also = ''): string {
    return also ? sha256Hex(`${this.plan.keys[stage]}\n${also}`) : this.plan.keys[stage];
  }

  /**
   * Takes a stage's result from the cache or computes and stores it, and reports it. Null where only other stages
   * were asked for and the cache does not have it.
   *
   * @throws Stopped where its findings do not let the build go on, or it failed
   */
  async stage<T>(stage: BuildStage, key: string | null, codec: Codec<T>, compute: () => T | Promise<T>, told: Told<T>): Promise<T | null> {
    const started = this.now();
    this.most = 0;
    this.progress(stage)(0);
    const stored = key ? await this.cache?.get(key) : null;
    if (!stored && this.wanted && !this.wanted.has(stage)) {
      this.skip(stage, 'Out of date, and not asked for.');
      return null;
    }
    let value: T;
    try {
      value = stored ? codec.decode(stored) : await compute();
    } catch (error) {
      if (error instanceof Cancelled || error instanceof Stopped || !isOutOfMemory(error)) throw error;
      this.report({
        stage,
        state: 'failed',
        milliseconds: Math.round(this.now() - started),
        memory: this.most,
        summary: 'Ran out of memory.',
        counts: {},
        findings: [
          {
            code: 'out-of-memory',
            severity: 'blocker',
            stage: 'build',
            message: `The stage ${stage} ran out of memory.`,
            hint: 'Build at a lower quality or with larger luxels, or split the map.',
          },
        ],
      });
      throw new Stopped();
    }
    if (!stored && key) await this.cache?.put(key, codec.encode(value));
    const findings = told.findings?.(value) ?? [];
    const stops = hasBlocker(findings) && !this.options.anyway;
    this.progress(stage)(1);
    this.report({
      stage,
      state: stops ? 'failed' : stored ? 'fresh' : 'ran',
      milliseconds: Math.round(this.now() - started),
      memory: this.most,
      summary: told.summary(value),
      counts: told.counts?.(value) ?? {},
      findings,
    });
    if (stops) throw new Stopped();
    return value;
  }
}

/** A stage with all that it needs, and the check, the packing and the game's programs, which are moments' work. */
function needsOf(stage: BuildStage): Set<BuildStage> {
  const all = new Set<BuildStage>(['check', stage, 'packing', 'programs']);
  const visit = (one: BuildStage) =>
    STAGE_NEEDS[one].forEach((need) => {
      all.add(need);
      visit(need);
    });
  visit(stage);
  return all;
}

const isOutOfMemory = (error: unknown): boolean =>
  // A thread that was ended for it says so by this code.
  (error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY' ||
  (error instanceof RangeError && /allocation|array length|buffer length|Array buffer|string length/i.test(error.message));
