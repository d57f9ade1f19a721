/**
 * Converts files in worker threads that stay alive between files, as many at a time as it was told. A
 * conversion that takes too long or too much memory is ended with its thread; the others go on.
 */

import { Worker } from 'node:worker_threads';
import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import type { ImportedAsset, ImportInput } from '@violet-crate/core/crate/importAsset';
import { UnreadableInput, type Finding } from '@violet-crate/core/finding';
import type { Profile } from '@violet-crate/core/profile/schema';

export interface ConverterLimits {
  /** Milliseconds that one file may take. */
  time: number;
  /** Mebibytes of JavaScript objects that one thread may hold. */
  memory: number;
}

export const CONVERTER_LIMITS: ConverterLimits = { time: 120_000, memory: 3072 };

export type ConverterMessage = { ok: true; asset: ImportedAsset } | { ok: false; finding: Finding; bug: boolean };

interface Task {
  profile: Profile;
  input: ImportInput;
  started?: () => void;
  resolve(asset: ImportedAsset): void;
  reject(error: Error): void;
}

export class Converter {
  private readonly queue: Task[] = [];
  private readonly idle: Worker[] = [];
  private readonly busy = new Map<Worker, Task>();
  private closed = false;

  constructor(
    /** Threads at a time. */
    private readonly threads = Math.max(1, availableParallelism()),
    private readonly limits = CONVERTER_LIMITS,
  ) {}

  /**
   * Rejects with `UnreadableInput` where the file is at fault, and with `AbortError` where `signal` ended it.
   *
   * @param started called when a thread takes the file up
   */
  convert(profile: Profile, input: ImportInput, signal?: AbortSignal, started?: () => void): Promise<ImportedAsset> {
    return new Promise<ImportedAsset>((resolve, reject) => {
      const task: Task = { profile, input, started, resolve, reject };
      const abort = () => {
        const at = this.queue.indexOf(task);
        if (at >= 0) this.queue.splice(at, 1);
        for (const [worker, running] of this.busy) if (running === task) this.drop(worker);
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
    this.busy.clear();
    await Promise.all(workers.map((worker) => worker.terminate()));
  }

  private pump(): void {
    while (!this.closed && this.queue.length > 0 && this.busy.size < this.threads) this.run(this.idle.pop() ?? this.start(), this.queue.shift()!);
  }

  private start(): Worker {
    // The compiled file, also where this one runs from its source in tests.
    const worker = new Worker(fileURLToPath(import.meta.resolve('@violet-crate/host/converterThread')), {
      resourceLimits: { maxOldGenerationSizeMb: this.limits.memory },
    });
    worker.unref();
    return worker;
  }

  private drop(worker: Worker): void {
    this.busy.delete(worker);
    void worker.terminate();
  }

  private run(worker: Worker, task: Task): void {
    this.busy.set(worker, task);
    // A waiting thread must not keep the process alive, a working one must.
    worker.ref();
    task.started?.();
    const end = (keep: boolean, settle: () => void) => {
      clearTimeout(timer);
      // One by one: taking all listeners away would cut the worker's own wiring too.
      worker.off('message', onMessage).off('error', onError).off('exit', onExit);
      if (this.busy.get(worker) === task) {
        if (keep) {
          this.busy.delete(worker);
          worker.unref();
          this.idle.push(worker);
        } else this.drop(worker);
      }
      settle();
      this.pump();
    };
    const refuse = (code: string, message: string) =>
      end(false, () =>
        task.reject(new UnreadableInput(code, `${task.input.file}: ${message}`, { file: task.input.file }, 'Simplify the file, or split it.')),
      );
    const onMessage = (message: ConverterMessage) =>
      end(true, () => {
        if (message.ok) task.resolve(message.asset);
        else if (message.bug) task.reject(new Error(message.finding.message));
        else task.reject(new UnreadableInput(message.finding.code, message.finding.message, message.finding.place, message.finding.hint));
      });
    const onError = (error: Error & { code?: string }) =>
      refuse(
        'convert-failed',
        error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? 'converting took more memory than one file may.' : `converting stopped: ${error.message}`,
      );
    const onExit = () => refuse('convert-failed', 'converting stopped unexpectedly.');
    const timer = setTimeout(
      () => refuse('convert-time', `converting took longer than ${Math.round(this.limits.time / 1000)} seconds and was stopped.`),
      this.limits.time,
    );
    worker.on('message', onMessage).on('error', onError).on('exit', onExit);
    worker.postMessage({ profile: task.profile, input: task.input });
  }
}
