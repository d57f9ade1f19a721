import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Inject, Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Finding } from '@violet-crate/core/finding';
import { desc, eq, inArray } from 'drizzle-orm';
import { Subject } from 'rxjs';
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

/** Workers at a time; a build leaves one core for everything else. */
const WORKERS = 2;
/** Memory of one worker in MiB: a conversion of hostile input ends here and not with the server. */
const WORKER_MEMORY = 4096;
/** A conversion that takes longer than this is stopped. Builds may take as long as they need. */
const CONVERT_LIMIT_MS = 120_000;

/** The queue of long work. Rows outlive the process; what was running when it died is marked as interrupted. */
@Injectable()
export class JobsService implements OnApplicationShutdown {
  readonly events = new Subject<Job>();
  private readonly queue: Waiting[] = [];
  private readonly running = new Map<string, Worker>();

  constructor(@Inject(DATABASE) private readonly database: Database) {
    database
      .update(jobs)
      .set({ state: 'interrupted', finishedAt: new Date().toISOString() })
      .where(inArray(jobs.state, ['queued', 'running']))
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

  add<K extends TaskKind>(
    kind: K,
    crateId: string,
    label: string,
    input: Tasks[K]['input'],
    finish: (output: Tasks[K]['output'], jobId: string) => Record<string, unknown>,
  ): Job {
    const id = randomUUID();
    const job: Job = {
      id,
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
    this.queue.push({ id, kind, input, finish: (output) => finish(output as Tasks[K]['output'], id) });
    this.events.next(job);
    this.pump();
    return job;
  }

  cancel(id: string): Job {
    const job = this.get(id);
    if (job.state !== 'queued' && job.state !== 'running') return job;
    const waiting = this.queue.findIndex((item) => item.id === id);
    if (waiting >= 0) this.queue.splice(waiting, 1);
    const worker = this.running.get(id);
    // Forgotten before it is ended, so that its exit does not count as a failure.
    this.running.delete(id);
    void worker?.terminate().then(() => this.pump());
    return this.end(id, 'cancelled', {});
  }

  async onApplicationShutdown(): Promise<void> {
    this.queue.length = 0;
    const left = [...this.running];
    this.running.clear();
    for (const [id, worker] of left) {
      await worker.terminate();
      this.end(id, 'interrupted', {});
    }
    this.events.complete();
  }

  private pump(): void {
    while (this.running.size < WORKERS && this.queue.length > 0) this.start(this.queue.shift()!);
  }

  private start({ id, kind, input, finish }: Waiting): void {
    this.change(id, { state: 'running' });
    const worker = new Worker(join(import.meta.dirname, 'worker.js'), {
      workerData: { kind, input },
      resourceLimits: { maxOldGenerationSizeMb: WORKER_MEMORY },
    });
    this.running.set(id, worker);
    const limit =
      kind === 'convert' ? setTimeout(() => fail(`It took longer than ${CONVERT_LIMIT_MS / 1000} s and was stopped.`), CONVERT_LIMIT_MS) : undefined;
    const log: string[] = [];
    const leave = () => {
      this.running.delete(id);
      void worker.terminate();
      this.pump();
    };
    const fail = (message: string, finding?: Finding) => {
      if (!this.running.has(id)) return;
      const stage = kind === 'convert' ? 'assets' : kind === 'build' ? 'build' : 'publish';
      this.end(id, 'failed', { log, error: finding ?? { code: 'job-failed', severity: 'blocker', stage, message } });
      leave();
    };
    worker.on('message', (message: WorkerMessage) => {
      if (!this.running.has(id)) return;
      if (message.type === 'progress') this.change(id, { step: message.step, progress: message.fraction });
      else if (message.type === 'log') {
        log.push(`${new Date().toISOString()} ${message.line}`);
        this.change(id, { log });
      } else if (message.type === 'failed') fail(message.finding.message, message.finding);
      else {
        try {
          this.end(id, 'done', { result: finish(message.output), progress: 1, log });
          leave();
        } catch (error) {
          fail(`The result could not be stored: ${error instanceof Error ? error.message : String(error)}`);
        }
      }
    });
    worker.on('error', (error) => fail(`The worker stopped: ${error.message}`));
    worker.on('exit', (code) => {
      clearTimeout(limit);
      if (code !== 0) fail('The worker stopped before it was done.');
      if (this.running.get(id) === worker) leave();
    });
  }

  private change(id: string, change: Partial<Job>): Job {
    this.database.update(jobs).set(change).where(eq(jobs.id, id)).run();
    const job = this.get(id);
    this.events.next(job);
    return job;
  }

  private end(id: string, state: JobState, change: Partial<Job>): Job {
    return this.change(id, { ...change, state, finishedAt: new Date().toISOString() });
  }
}
