import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { ReleaseManifest } from '@violet-crate/core/release/manifest';
import { Refusal } from '../refusal.ts';

/** What a package is, every file of it verified. */
export interface Examined {
  manifest: ReleaseManifest;
  /** Public key of who signed it; null where nobody did, `false` where the signature is not of it. */
  key: string | null | false;
  document: string;
  signature: string;
  bytes: number;
  /** Of the whole package; empty unless it was stored. */
  sha256: string;
}

export interface Order {
  id: number;
  path: string;
  /** Whether its content goes into the store too, where nothing sees it until a row names it. */
  store: boolean;
}

export type Reply = { id: number } & ({ examined: Examined } | { failed: { message: string; code?: string; unreadable: boolean } });

/** Has packages looked at in a thread, one after the other. The thread begins with the first package. */
export class Examiner {
  private worker: Worker | null = null;
  private readonly waiting = new Map<number, (reply: Reply) => void>();
  private last = 0;

  /** @param content folder of the store */
  constructor(private readonly content: string) {}

  /** @param path of a package's file. @throws Refusal with what is wrong with it */
  async examine(path: string, store = false): Promise<Examined> {
    const id = ++this.last;
    this.worker ??= this.begin();
    const reply = await new Promise<Reply>((answer) => {
      this.waiting.set(id, answer);
      this.worker!.ref();
      this.worker!.postMessage({ id, path, store } satisfies Order);
    });
    if ('examined' in reply) return reply.examined;
    const { message, code, unreadable } = reply.failed;
    throw unreadable ? new Refusal(422, message) : Object.assign(new Error(message), { code });
  }

  async close(): Promise<void> {
    await this.worker?.terminate();
  }

  private begin(): Worker {
    const worker = new Worker(join(import.meta.dirname, 'examinerThread.js'), { workerData: this.content });
    worker.on('message', (reply: Reply) => {
      const answer = this.waiting.get(reply.id);
      this.waiting.delete(reply.id);
      if (this.waiting.size === 0) worker.unref();
      answer?.(reply);
    });
    // One that breaks, as by a package that takes more memory than there is, is begun anew with the next.
    const over = (message: string) => {
      if (this.worker !== worker) return;
      this.worker = null;
      for (const [id, answer] of this.waiting) answer({ id, failed: { message, unreadable: false } });
      this.waiting.clear();
    };
    worker.on('error', (error) => over(String(error)));
    worker.on('exit', () => over('The thread ended.'));
    return worker;
  }
}
