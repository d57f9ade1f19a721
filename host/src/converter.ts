/**
 * Works on files of strangers in threads that stay alive between files, as many at a time as it was told: opens
 * archives, plans batches, converts. What takes too long or too much memory is ended with its thread; the others
 * go on.
 *
 * A thread's JavaScript objects are bounded by the engine. Its buffers are not, and nobody can ask from outside
 * which thread has them, so the whole process is watched: when it has grown by more than one file may take, all
 * threads are ended and their files tried again one by one. Who makes it grow alone is the one.
 */

import { Worker } from 'node:worker_threads';
import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { ImportedAsset } from '@violet-crate/core/importing/importAsset';
import type { ImportInput } from '@violet-crate/core/importing/kind/made';
import type { ImportPlan, PlanOptions, Unpacked } from '@violet-crate/core/importing/importPlan';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { Finding } from '@violet-crate/core/finding';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { Profile } from '@violet-crate/core/profile/schema';

export interface ConverterLimits {
  /** Milliseconds that one file may take. */
  time: number;
  /** Mebibytes that one thread may hold: of JavaScript objects, and of buffers. */
  memory: number;
}

export const CONVERTER_LIMITS: ConverterLimits = { time: 120_000, memory: 3072 };

/** What a thread can be asked for, and what it answers. */
export interface ThreadTasks {
  convert: { input: { profile: Profile; input: ImportInput }; output: ImportedAsset };
  plan: { input: { profile: Profile; manifest: CrateManifest; files: FileTree; options: PlanOptions }; output: ImportPlan };
  unpack: { input: { files: FileTree }; output: Unpacked };
  open: { input: { file: string; bytes: Uint8Array }; output: FileTree };
}
export type ThreadOrder = { [K in keyof ThreadTasks]: { do: K } & ThreadTasks[K]['input'] }[keyof ThreadTasks];
export type ConverterMessage = { ok: true; output: unknown } | { ok: false; finding: Finding; bug: boolean };

interface Task {
  order: ThreadOrder;
  /** Named in findings. */
  file: string;
  started?: () => void;
  resolve(output: never): void;
  reject(error: Error): void;
  /** Whether it has to be the only one that runs, after the process had grown too large, and how often that came. */
  alone: boolean;
  relieved: number;
}

/** Milliseconds between two looks at the memory of the process. */
const WATCH_EVERY = 150;
const MIB = 1 << 20;
/** Times that a file is tried again when the process grew and ending the file freed little. */
const MOST_TRIES = 3;

export class Converter {
  private readonly queue: Task[] = [];
  private readonly idle: Worker[] = [];
  private readonly busy = new Map<Worker, { task: Task; leave(): void }>();
  private closed = false;
  private watch: NodeJS.Timeout | undefined;
  /** Bytes of the process when the present work began. */
  private before = 0;

  constructor(
    /** Threads at a time, asked whenever one could begin. */
    private readonly threads: number | (() => number) = availableParallelism,
    private readonly limits = CONVERTER_LIMITS,
  ) {}

  /**
   * Rejects with `UnreadableInput` where the file is at fault, and with `AbortError` where `signal` ended it.
   *
   * @param started called when a thread takes the file up
   */
  convert(profile: Profile, input: ImportInput, signal?: AbortSignal, started?: () => void): Promise<ImportedAsset> {
    return this.ask<'convert'>({ do: 'convert', profile, input }, input.file, signal, started);
  }

  /** Opens the archives of a batch and says what becomes of its files. */
  plan(profile: Profile, manifest: CrateManifest, files: FileTree, options: PlanOptions = {}, signal?: AbortSignal): Promise<ImportPlan> {
    return this.ask<'plan'>({ do: 'plan', profile, manifest, files, options }, nameOf(files), signal);
  }

  /** Opens the archives among files, within one budget for all of them. */
  unpack(files: FileTree): Promise<Unpacked> {
    return this.ask<'unpack'>({ do: 'unpack', files }, nameOf(files));
  }

  /** Opens one archive, and none within it. */
  open(file: string, bytes: Uint8Array): Promise<FileTree> {
    return this.ask<'open'>({ do: 'open', file, bytes }, file);
  }

  private ask<K extends keyof ThreadTasks>(
    order: ThreadOrder,
    file: string,
    signal?: AbortSignal,
    started?: () => void,
  ): Promise<ThreadTasks[K]['output']> {
    return new Promise((resolve, reject) => {
      const task: Task = { order, file, started, resolve, reject, alone: false, relieved: 0 };
      const abort = () => {
        const at = this.queue.indexOf(task);
        if (at >= 0) this.queue.splice(at, 1);
        for (const [worker, running] of this.busy) if (running.task === task) this.drop(worker);
        reject(new DOMException('The conversion was cancelled.', 'AbortError'));
        this.pump();
      };
      if (signal?.aborted) return abort();
      signal?.addEventListener('abort', abort, { once: true });
      this.queue.push(task);
      this.pump();
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    this.queue.length = 0;
    const workers = [...this.idle.splice(0), ...this.busy.keys()];
    for (const { leave } of this.busy.values()) leave();
    this.busy.clear();
    this.watchMemory();
    await Promise.all(workers.map((worker) => worker.terminate()));
  }

  private pump(): void {
    const free = () =>
      this.busy.size < Math.max(1, typeof this.threads === 'number' ? this.threads : this.threads()) &&
      ![...this.busy.values()].some(({ task }) => task.alone);
    while (!this.closed && this.queue.length > 0 && free()) {
      if (this.queue[0].alone && this.busy.size > 0) break;
      this.run(this.idle.pop() ?? this.start(), this.queue.shift()!);
    }
    this.watchMemory();
  }

  private start(): Worker {
    // By its package name, so that it is the compiled file, also where this one runs from its source in tests.
    const worker = new Worker(fileURLToPath(import.meta.resolve('@violet-crate/host/converterThread')), {
      resourceLimits: { maxOldGenerationSizeMb: this.limits.memory },
    });
    worker.unref();
    return worker;
  }

  private drop(worker: Worker): Promise<unknown> {
    this.busy.get(worker)?.leave();
    this.busy.delete(worker);
    return worker.terminate();
  }

  private run(worker: Worker, task: Task): void {
    const leave = () => {
      clearTimeout(timer);
      // One by one: taking all listeners away would cut the worker's own wiring too.
      worker.off('message', onMessage).off('error', onError).off('exit', onExit);
    };
    const end = (keep: boolean, settle: () => void) => {
      leave();
      if (this.busy.get(worker)?.task === task) {
        if (keep) {
          this.busy.delete(worker);
          worker.unref();
          this.idle.push(worker);
        } else void this.drop(worker);
      }
      settle();
      this.pump();
    };
    const refuse = (code: string, message: string) => end(false, () => task.reject(refusal(task, code, message)));
    const onMessage = (message: ConverterMessage) =>
      end(true, () => {
        if (message.ok) task.resolve(message.output as never);
        else if (message.bug) task.reject(new Error(message.finding.message));
        else task.reject(new UnreadableInput(message.finding.code, message.finding.message, message.finding.place, message.finding.hint));
      });
    const onError = (error: Error & { code?: string }) =>
      error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? refuse(...TOO_LARGE) : refuse('convert-failed', 'converting stopped unexpectedly.');
    const onExit = () => refuse('convert-failed', 'converting stopped unexpectedly.');
    const timer = setTimeout(
      () => refuse('convert-time', `converting took longer than ${Math.round(this.limits.time / 1000)} seconds and was stopped.`),
      this.limits.time,
    );
    this.busy.set(worker, { task, leave });
    // A waiting thread must not keep the process alive, a working one must.
    worker.ref();
    task.started?.();
    worker.on('message', onMessage).on('error', onError).on('exit', onExit);
    worker.postMessage(task.order);
  }

  /** Looks at the process while anything runs. */
  private watchMemory(): void {
    if (this.busy.size === 0) {
      clearInterval(this.watch);
      this.watch = undefined;
    } else if (!this.watch) {
      this.before = process.memoryUsage.rss();
      this.watch = setInterval(() => {
        if (process.memoryUsage.rss() - this.before > this.limits.memory * MIB) void this.relieve();
      }, WATCH_EVERY).unref();
    }
  }

  /** Ends all threads. Files that ran together are tried again one by one, before the others; one that ran alone is refused. */
  private async relieve(): Promise<void> {
    const large = process.memoryUsage.rss();
    const ended = [...this.busy].map(([worker, { task }]) => ({ task, gone: this.drop(worker) }));
    clearInterval(this.watch);
    this.watch = undefined;
    await Promise.all(ended.map(({ gone }) => gone));
    const [{ task }] = ended;
    // Other work of the same process may have grown meanwhile: then ending this file has freed little.
    const guilty = ended.length === 1 && (++task.relieved > MOST_TRIES || large - process.memoryUsage.rss() > (this.limits.memory * MIB) / 4);
    if (guilty) task.reject(refusal(task, ...TOO_LARGE));
    else this.queue.unshift(...ended.map(({ task }) => Object.assign(task, { alone: true })));
    this.pump();
  }
}

const TOO_LARGE = ['convert-failed', 'converting took more memory than one file may.'] as const;

const refusal = (task: Task, code: string, message: string): UnreadableInput =>
  new UnreadableInput(code, `${task.file}: ${message}`, { file: task.file }, 'Simplify the file, or split it.');

const nameOf = (files: FileTree): string => (files.size === 1 ? [...files.keys()][0] : `${files.size} files`);
