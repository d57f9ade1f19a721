import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Inject, Injectable, Logger, type OnApplicationShutdown } from '@nestjs/common';
import { unreadableFinding, type Finding, type Stage } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { diskFull } from '@violet-crate/host/diskFull';
import { killGroup } from '@violet-crate/host/setup/runProgram';
import { RunningPrograms } from '@violet-crate/host/setup/runningPrograms';
import { desc, eq, inArray } from 'drizzle-orm';
import { Subject } from 'rxjs';
import { CONFIG, type Config } from '../config.ts';
import { SettingsService } from '../settings/settings.service.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { HeldRows } from '../database/heldRows.ts';
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

/** Milliseconds in which a worker takes note of programs of its that were ended; nobody else can. */
const REAP = 200;

/** Ends a worker with the programs that it runs: those are processes of their own, and would go on. */
async function endWorker({ worker, groups }: { worker: Worker; groups: ReadonlySet<number> }): Promise<unknown> {
  for (const group of groups) killGroup(group);
  if (groups.size > 0) await new Promise((done) => setTimeout(done, REAP));
  return worker.terminate();
}

/** Jobs that have not ended. */
const ACTIVE: readonly JobState[] = ['queued', 'running', 'paused'];

const stalled = (kind: TaskKind, step: string): Finding => ({
  code: 'stalled',
  severity: 'blocker',
  stage: stageOf(kind),
  message: `The work was ended: ${step ? `the stage ${step}` : 'it'} said nothing for ${STALLED / 60_000} minutes.`,
  hint: 'Look at the findings of the map for solids of enormous size, then try a lower quality.',
});

const outOfMemory = (kind: TaskKind, step: string, mib: number): Finding => ({
  code: 'out-of-memory',
  severity: 'blocker',
  stage: stageOf(kind),
  message: `${step ? `The stage ${step}` : 'The work'} took more than the ${mib} MiB of memory that it may.`,
  hint: 'Build at a lower quality or with larger luxels, or split the map. The preferences allow more memory.',
});

/** The stage of the work that a kind of job belongs to. */
const stageOf = (kind: string): Stage => (kind === 'build' ? 'build' : kind === 'pack' ? 'publish' : 'assets');

/** The queue of long work. Rows outlive the process; what was running when it died is marked as interrupted. */
@Injectable()
export class JobsService implements OnApplicationShutdown {
  readonly events = new Subject<Job>();
  readonly pictured = new Subject<JobPicture>();
  /** Pictures of running builds; they are held in memory only and go with the job. */
  private readonly pictures = new Map<string, { about: JobPicture; files: Map<string, Uint8Array> }>();
  private readonly queue: Waiting[] = [];
  private readonly running = new Map<string, { worker: Worker; waiting: Waiting; groups: Set<number> }>();
  private readonly paused = new Map<string, Waiting>();
  private readonly driven = new Map<string, AbortController>();
  /** What has to come to an end before a crate may go: threads that are being ended, work that was told to stop. */
  private readonly ending = new Map<string, Set<Promise<unknown>>>();
  /** Rows as they should be, where the database did not take them: the disk is full. */
  private readonly held: HeldRows<Job>;
  private readonly programs: RunningPrograms;
  private readonly logger = new Logger('jobs');

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    @Inject(CONFIG) private readonly config: Config,
    @Inject(SettingsService) private readonly settings: SettingsService,
    @Inject(CratesService) crates: CratesService,
  ) {
    this.held = new HeldRows(({ id, ...row }) => database.update(jobs).set(row).where(eq(jobs.id, id)).run(), config.data);
    this.programs = new RunningPrograms(join(config.data, 'running-programs.json'));
    this.programs.endLeft();
    crates.beforeRemoval.push((crateId) => this.letGo(crateId));
    database
      .update(jobs)
      .set({ state: 'interrupted', finishedAt: new Date().toISOString() })
      .where(inArray(jobs.state, [...ACTIVE]))
      .run();
  }

  list(): Job[] {
    const rows = this.database.select().from(jobs).orderBy(desc(jobs.createdAt)).limit(100).all();
    return rows.map((row) => this.held.get(row.id) ?? row);
  }

  get(id: string): Job {
    const job = this.find(id);
    if (!job) throw notFound('such job');
    return job;
  }

  /** Whether any work is waiting or under way. */
  get busy(): boolean {
    return this.queue.length + this.running.size + this.paused.size + this.driven.size > 0;
  }

  /** Cancels all of a crate's jobs and waits until nothing works on it any more. */
  async letGo(crateId: string): Promise<void> {
    const own = () =>
      this.database
        .select({ id: jobs.id, state: jobs.state })
        .from(jobs)
        .where(eq(jobs.crateId, crateId))
        .all()
        .filter((job) => ACTIVE.includes(this.held.get(job.id)?.state ?? job.state));
    for (let active = own(); active.length > 0 || this.ending.has(crateId); active = own()) {
      for (const { id } of active) this.cancel(id);
      await Promise.allSettled(this.ending.get(crateId) ?? []);
    }
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
    const control: JobControl = {
      signal: abort.signal,
      progress: (step, progress, result) => void (alive() && this.change(job.id, { step, progress, ...(result ? { result } : {}) })),
    };
    const done = (async () => work(control))()
      .then((result) => this.guard(job.id, () => void (alive() && this.end(job.id, 'done', { result, progress: 1 }))))
      .catch((error: unknown) => this.failWith(job, error, alive()))
      .finally(() => this.driven.delete(job.id));
    this.awaitEnd(crateId, done);
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
    const ended = endWorker(active).then(() => this.pump());
    this.awaitEnd(this.find(id)?.crateId ?? null, ended);
    return active.waiting;
  }

  /** Keeps the end of some work in sight until it has come. */
  private awaitEnd(crateId: string | null, end: Promise<unknown>): void {
    const seen = end.catch((error: unknown) => this.logger.error(String(error)));
    if (crateId === null) return;
    const all = this.ending.get(crateId) ?? new Set();
    this.ending.set(crateId, all.add(seen));
    void seen.then(() => {
      all.delete(seen);
      if (all.size === 0 && this.ending.get(crateId) === all) this.ending.delete(crateId);
    });
  }

  /** Everything that runs on its own goes through here: what goes wrong in it fails its job and nothing else. */
  private guard(id: string, work: () => void): void {
    try {
      work();
    } catch (error) {
      this.takeBack(id);
      try {
        const job = this.find(id);
        if (job) this.failWith(job, error, true);
      } catch (second) {
        this.logger.error(String(second));
      }
    }
  }

  private failWith(job: Job, error: unknown, alive: boolean): void {
    if (alive) this.end(job.id, 'failed', { error: this.finding(job.kind, error) });
  }

  /** What a user is told of an error. A fault of ours is logged whole: nobody can do anything with its text. */
  private finding(kind: string, error: unknown): Finding {
    const known = error instanceof UnreadableInput ? error : diskFull(error, this.config.data, 1);
    if (known) return unreadableFinding(known, stageOf(kind));
    this.logger.error(error instanceof Error ? error.stack : String(error));
    const message = 'The work stopped unexpectedly; the server’s log says why.';
    return { code: 'job-failed', severity: 'blocker', stage: stageOf(kind), message, hint: 'Try again. What was done before stays.' };
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
    for (const [id, running] of left) {
      await endWorker(running);
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
    while (this.running.size < WORKERS && this.queue.length > 0) {
      const next = this.queue.shift()!;
      this.guard(next.id, () => this.start(next));
    }
  }

  private start(waiting: Waiting): void {
    const { id, kind, input, finish } = waiting;
    this.change(id, { state: 'running' });
    const memory = this.settings.memory();
    const worker = new Worker(join(import.meta.dirname, 'worker.js'), {
      workerData: { kind, input },
      resourceLimits: { maxOldGenerationSizeMb: memory },
    });
    const groups = new Set<number>();
    this.running.set(id, { worker, waiting, groups });
    // What a paused job did before stays in its log.
    const log: string[] = [...(this.find(id)?.log ?? [])];
    let step = '';
    let watchdog: NodeJS.Timeout | undefined;
    const watch = () => {
      clearTimeout(watchdog);
      watchdog = setTimeout(() => this.guard(id, () => fail(stalled(kind, step))), STALLED);
    };
    const leave = () => {
      clearTimeout(watchdog);
      this.running.delete(id);
      void endWorker({ worker, groups });
      this.pump();
    };
    // No more once its job was cancelled, paused or ended: whatever it still says then is of no concern.
    const current = () => this.running.get(id)?.worker === worker;
    const fail = (finding: Finding) => {
      if (!current()) return;
      this.end(id, 'failed', { log, error: finding });
      leave();
    };
    const heard = (message: WorkerMessage) => {
      if (!current()) return clearTimeout(watchdog);
      watch();
      if (message.type === 'progress') {
        step = message.step;
        this.change(id, { step, progress: message.fraction });
      } else if (message.type === 'log') {
        log.push(`${new Date().toISOString()} ${message.line}`);
        this.change(id, { log });
      } else if (message.type === 'program') {
        this.programs.note(message.group, message.running);
        if (message.running) groups.add(message.group);
        else groups.delete(message.group);
      } else if (message.type === 'picture') this.keepPicture(id, message.map, message.files);
      else if (message.type === 'failed') fail(message.finding);
      else {
        try {
          this.end(id, 'done', { result: finish(message.output), progress: 1, log });
          leave();
        } catch (error) {
          fail(this.finding(kind, error));
        }
      }
    };
    const broken = (error: NodeJS.ErrnoException) => {
      if (!current()) return;
      if (error.code === 'ERR_WORKER_OUT_OF_MEMORY') fail(outOfMemory(kind, step, memory));
      else fail(this.finding(kind, error));
    };
    worker.on('message', (message: WorkerMessage) => this.guard(id, () => heard(message)));
    worker.on('error', (error: NodeJS.ErrnoException) => this.guard(id, () => broken(error)));
    worker.on('exit', (code) =>
      this.guard(id, () => {
        clearTimeout(watchdog);
        if (current()) fail(this.finding(kind, new Error(`the worker ended with code ${code} and no result`)));
      }),
    );
    watch();
  }

  private keepPicture(id: string, map: string, files: [string, Uint8Array][]): void {
    const before = this.pictures.get(id);
    const about: JobPicture = { jobId: id, crateId: this.find(id)?.crateId ?? null, map, version: (before?.about.version ?? 0) + 1 };
    // Later pictures bring their light only: the map stays as it was.
    this.pictures.set(id, { about, files: new Map([...(before?.files ?? []), ...files]) });
    this.pictured.next(about);
  }

  private find(id: string): Job | undefined {
    return this.held.get(id) ?? this.database.select().from(jobs).where(eq(jobs.id, id)).get();
  }

  /** A job with a change. Where the disk is full the change holds in memory, and is written as soon as there is room. */
  private change(id: string, change: Partial<Job>): Job {
    const job = { ...this.get(id), ...change };
    this.held.keep(job);
    this.events.next(job);
    return job;
  }

  private end(id: string, state: JobState, change: Partial<Job>): Job {
    this.pictures.delete(id);
    return this.change(id, { ...change, state, finishedAt: new Date().toISOString() });
  }
}
