import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { UnreadableInput, type Finding } from '@violet-crate/core/finding';
import { desc, eq, inArray } from 'drizzle-orm';
import { Subject } from 'rxjs';
import { CONFIG, type Config } from '../config.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { jobs, type JobState } from '../database/schema.ts';
import { notFound } from '../http/problem.ts';
import type { TaskKind, Tasks } from './tasks.ts';
import type { WorkerMessage } from './worker.ts';

export type Job = typeof jobs.$inferSelect;

interface Waiting {
  id: string;
  kind: TaskKind;
  input: unknown;
  /** Stores the output; its answer becomes the job's result. */
  finish(output: unknown): Record<string, unknown>;
}

/** What a running build looks like so far; `version` counts its pictures. */
export interface JobPicture {
  jobId: string;
  crateId: string | null;
  map: string;
  version: number;
}

export interface JobControl {
  signal: AbortSignal;
  /** `result` may show what is done so far. */
  progress(step: string, fraction: number, result?: Record<string, unknown>): void;
}

/** Workers at a time; a build leaves one core for everything else. */
const WORKERS = 2;
/** Milliseconds without a word after which a worker counts as stuck. The longest silent piece of work takes seconds. */
const STALLED = 600_000;

const stalled = (kind: TaskKind, step: string): Finding => ({
  code: 'stalled',
  severity: 'blocker',
  stage: kind === 'build' ? 'build' : 'publish',
  message: `The work was ended: ${step ? `the stage ${step}` : 'it'} said nothing for ${STALLED / 60_000} minutes.`,
  hint: 'Look at the findings of the map for solids of enormous size, then try a lower quality.',
});

const outOfMemory = (kind: TaskKind, step: string, mib: number): Finding => ({
  code: 'out-of-memory',
  severity: 'blocker',
  stage: kind === 'build' ? 'build' : 'publish',
  message: `${step ? `The stage ${step}` : 'The work'} took more than the ${mib} MiB of memory that it may.`,
  hint: 'Build at a lower quality or with larger luxels, or split the map. VIOLET_CRATE_WORKER_MEMORY allows more.',
});

/** The queue of long work. Rows outlive the process; what was running when it died is marked as interrupted. */
@Injectable()
export class JobsService implements OnApplicationShutdown {
  readonly events = new Subject<Job>();
  readonly pictured = new Subject<JobPicture>();
  /** Pictures of running builds; they are held in memory only and go with the job. */
  private readonly pictures = new Map<string, { about: JobPicture; files: Map<string, Uint8Array> }>();
  private readonly queue: Waiting[] = [];
  private readonly running = new Map<string, { worker: Worker; waiting: Waiting }>();
  private readonly paused = new Map<string, Waiting>();
  private readonly driven = new Map<string, AbortController>();

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
  ) {
    database
      .update(jobs)
      .set({ state: 'interrupted', finishedAt: new Date().toISOString() })
      .where(inArray(jobs.state, ['queued', 'running', 'paused']))
      .run();
  }

  list(): Job[] {
    return this.database.select().from(jobs).orderBy(desc(jobs.createdAt)).limit(100).all();
  }

  get(id: string): Job {
    const job = this.database.select().from(jobs).where(eq(jobs.id, id)).get();
    if (!job) throw notFound('such job');
    return job;
  }

  /** A file of a running build's latest picture. */
  picture(id: string, name: string): Uint8Array {
    const file = this.pictures.get(id)?.files.get(name);
    if (!file) throw notFound('such picture; the build has not come so far, or has ended');
    return file;
  }

  add<K extends TaskKind>(
    kind: K,
    crateId: string,
    label: string,
    input: Tasks[K]['input'],
    finish: (output: Tasks[K]['output'], jobId: string) => Record<string, unknown>,
  ): Job {
    const job = this.insert(kind, crateId, label);
    const { id } = job;
    this.queue.push({ id, kind, input, finish: (output) => finish(output as Tasks[K]['output'], id) });
    this.pump();
    return job;
  }

  /**
   * Work that is driven from here and not by one worker: a batch of conversions. It reports through its
   * control and is told by `signal` when it was cancelled.
   */
  drive(kind: string, crateId: string, label: string, work: (control: JobControl) => Promise<Record<string, unknown>>): Job {
    const job = this.insert(kind, crateId, label);
    const abort = new AbortController();
    this.driven.set(job.id, abort);
    this.change(job.id, { state: 'running' });
    const alive = () => this.driven.has(job.id);
    void work({
      signal: abort.signal,
      progress: (step, progress, result) => void (alive() && this.change(job.id, { step, progress, ...(result ? { result } : {}) })),
    })
      .then(
        (result) => void (alive() && this.end(job.id, 'done', { result, progress: 1 })),
        (error: unknown) => {
          const message = error instanceof Error ? error.message : String(error);
          const finding: Finding =
            error instanceof UnreadableInput ? error.toFinding('assets') : { code: 'job-failed', severity: 'blocker', stage: 'assets', message };
          if (alive()) this.end(job.id, 'failed', { error: finding });
        },
      )
      .finally(() => this.driven.delete(job.id));
    return this.get(job.id);
  }

  cancel(id: string): Job {
    const job = this.get(id);
    if (job.state !== 'queued' && job.state !== 'running' && job.state !== 'paused') return job;
    this.paused.delete(id);
    const driven = this.driven.get(id);
    if (driven) {
      this.driven.delete(id);
      driven.abort();
      return this.end(id, 'cancelled', {});
    }
    this.takeBack(id);
    return this.end(id, 'cancelled', {});
  }

  /** Sets a job aside. What it is in the middle of is lost; stages of a build that are done come from the cache later. */
  pause(id: string): Job {
    const job = this.get(id);
    const waiting = this.takeBack(id);
    if (!waiting) return job;
    this.paused.set(id, waiting);
    return this.change(id, { state: 'paused' });
  }

  resume(id: string): Job {
    const waiting = this.paused.get(id);
    if (!waiting) return this.get(id);
    this.paused.delete(id);
    this.queue.push(waiting);
    const job = this.change(id, { state: 'queued' });
    this.pump();
    return job;
  }

  /** Takes a job out of the queue or off its worker. */
  private takeBack(id: string): Waiting | null {
    const at = this.queue.findIndex((item) => item.id === id);
    if (at >= 0) return this.queue.splice(at, 1)[0];
    const active = this.running.get(id);
    if (!active) return null;
    // Forgotten before it is ended, so that its exit does not count as a failure.
    this.running.delete(id);
    void active.worker.terminate().then(() => this.pump());
    return active.waiting;
  }

  async onApplicationShutdown(): Promise<void> {
    this.queue.length = 0;
    for (const [id, abort] of [...this.driven]) {
      this.driven.delete(id);
      abort.abort();
      this.end(id, 'interrupted', {});
    }
    const left = [...this.running];
    this.running.clear();
    for (const id of this.paused.keys()) this.end(id, 'interrupted', {});
    for (const [id, { worker }] of left) {
      await worker.terminate();
      this.end(id, 'interrupted', {});
    }
    this.events.complete();
  }

  private insert(kind: string, crateId: string, label: string): Job {
    const job: Job = {
      id: randomUUID(),
      kind,
      crateId,
      label,
      state: 'queued',
      step: '',
      progress: 0,
      result: null,
      error: null,
      log: [],
      createdAt: new Date().toISOString(),
      finishedAt: null,
    };
    this.database.insert(jobs).values(job).run();
    this.events.next(job);
    return job;
  }

  private pump(): void {
    while (this.running.size < WORKERS && this.queue.length > 0) this.start(this.queue.shift()!);
  }

  private start(waiting: Waiting): void {
    const { id, kind, input, finish } = waiting;
    this.change(id, { state: 'running' });
    const worker = new Worker(join(import.meta.dirname, 'worker.js'), {
      workerData: { kind, input },
      resourceLimits: { maxOldGenerationSizeMb: this.config.workerMemory },
    });
    this.running.set(id, { worker, waiting });
    // What a paused job did before stays in its log.
    const log: string[] = [...this.get(id).log];
    let step = '';
    let watchdog: NodeJS.Timeout | undefined;
    const watch = () => {
      clearTimeout(watchdog);
      watchdog = setTimeout(() => fail('', stalled(kind, step)), STALLED);
    };
    const leave = () => {
      clearTimeout(watchdog);
      this.running.delete(id);
      void worker.terminate();
      this.pump();
    };
    const fail = (message: string, finding?: Finding) => {
      if (this.running.get(id)?.worker !== worker) return;
      const stage = kind === 'build' ? 'build' : 'publish';
      this.end(id, 'failed', { log, error: finding ?? { code: 'job-failed', severity: 'blocker', stage, message } });
      leave();
    };
    worker.on('message', (message: WorkerMessage) => {
      if (this.running.get(id)?.worker !== worker) return clearTimeout(watchdog);
      watch();
      if (message.type === 'progress') {
        step = message.step;
        this.change(id, { step, progress: message.fraction });
      } else if (message.type === 'log') {
        log.push(`${new Date().toISOString()} ${message.line}`);
        this.change(id, { log });
      } else if (message.type === 'picture') this.keepPicture(id, message.map, message.files);
      else if (message.type === 'failed') fail(message.finding.message, message.finding);
      else {
        try {
          this.end(id, 'done', { result: finish(message.output), progress: 1, log });
          leave();
        } catch (error) {
          fail(`The result could not be stored: ${error instanceof Error ? error.message : String(error)}`);
        }
      }
    });
    worker.on('error', (error: NodeJS.ErrnoException) => {
      if (error.code === 'ERR_WORKER_OUT_OF_MEMORY') fail('', outOfMemory(kind, step, this.config.workerMemory));
      else fail(`The worker stopped: ${error.message}`);
    });
    worker.on('exit', (code) => {
      if (code !== 0) fail('The worker stopped before it was done.');
      if (this.running.get(id)?.worker === worker) leave();
    });
    watch();
  }

  private keepPicture(id: string, map: string, files: [string, Uint8Array][]): void {
    const before = this.pictures.get(id);
    const about: JobPicture = { jobId: id, crateId: this.get(id).crateId, map, version: (before?.about.version ?? 0) + 1 };
    // Later pictures bring their light only: the map stays as it was.
    this.pictures.set(id, { about, files: new Map([...(before?.files ?? []), ...files]) });
    this.pictured.next(about);
  }

  private change(id: string, change: Partial<Job>): Job {
    this.database.update(jobs).set(change).where(eq(jobs.id, id)).run();
    const job = this.get(id);
    this.events.next(job);
    return job;
  }

  private end(id: string, state: JobState, change: Partial<Job>): Job {
    this.pictures.delete(id);
    return this.change(id, { ...change, state, finishedAt: new Date().toISOString() });
  }
}
