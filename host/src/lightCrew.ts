/** Lights charts in threads that each hold the whole scene; what one asks of them is handed to whichever is free. */

import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { LightCrew, LightScene, LightTask, LitCharts } from '@violet-crate/core/stages/lighting/light';
import { crewOfOne } from '@violet-crate/core/stages/lighting/stage';

interface Waiting {
  task: LightTask;
  resolve(lit: LitCharts): void;
  reject(error: Error): void;
}

/** Below so many luxels a thread takes longer to start than it saves. */
const WORTH_A_THREAD = 20_000;

/** @param threads how many at most; by default one per core. The crew is told how many luxels there are to light. */
export const lightCrew =
  (threads = availableParallelism()) =>
  (scene: LightScene, luxels: number): LightCrew => {
    const count = Math.min(threads, Math.ceil(luxels / WORTH_A_THREAD));
    return count <= 1 ? crewOfOne(scene) : new Threads(scene, count);
  };

class Threads implements LightCrew {
  private readonly queue: Waiting[] = [];
  private readonly idle: Worker[] = [];
  private readonly all: Worker[] = [];
  private readonly busy = new Map<Worker, Waiting>();
  private closed = false;

  constructor(scene: LightScene, count: number) {
    for (let i = 0; i < count; i++) {
      const worker = new Worker(fileURLToPath(import.meta.resolve('@violet-crate/host/lightThread')), { workerData: scene });
      worker.on('message', (lit: LitCharts) => this.finish(worker, (waiting) => waiting.resolve(lit)));
      worker.on('error', (error) => this.fail(worker, error));
      worker.on('exit', (code) => this.fail(worker, new Error(`A lighting thread stopped with code ${code}.`)));
      this.all.push(worker);
      this.idle.push(worker);
    }
  }

  run(task: LightTask): Promise<LitCharts> {
    return new Promise((resolve, reject) => {
      this.queue.push({ task, resolve, reject });
      this.pump();
    });
  }

  async close(): Promise<void> {
    this.closed = true;
    await Promise.all(this.all.map((worker) => worker.terminate()));
  }

  private pump(): void {
    while (this.queue.length > 0 && this.idle.length > 0) {
      const [worker, waiting] = [this.idle.pop()!, this.queue.shift()!];
      this.busy.set(worker, waiting);
      worker.postMessage(waiting.task);
    }
  }

  private finish(worker: Worker, end: (waiting: Waiting) => void): void {
    const waiting = this.busy.get(worker);
    this.busy.delete(worker);
    if (waiting) end(waiting);
    this.idle.push(worker);
    this.pump();
  }

  /** A thread that ends takes its task along; the build ends with it, and with the build the other threads. */
  private fail(worker: Worker, error: Error): void {
    if (this.closed) return;
    this.busy.get(worker)?.reject(error);
    this.busy.delete(worker);
    for (const waiting of this.queue.splice(0)) waiting.reject(error);
  }
}
