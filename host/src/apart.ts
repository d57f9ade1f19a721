/** One piece of work on a stranger's data, in a thread of its own with a memory and a time: whatever it takes, the process stays. */

import { Worker } from 'node:worker_threads';
import { UnreadableInput } from '@violet-crate/core/unreadable';

export interface ApartLimits {
  /** MiB of heap. */
  memory: number;
  /** Seconds until it is ended. */
  seconds: number;
}

export type ApartReply<T> =
  { done: T } | { failed: { code: string; message: string; hint?: string; place?: UnreadableInput['place'] } | { bug: string } };

/**
 * @param file of the thread, which answers one `ApartReply` (`answerApart` does)
 * @param what is worked on, for the sentence where it takes too much: "The bank ledger"
 * @throws UnreadableInput what the work threw, or that it took too much
 */
export function runApart<T>(file: string, order: unknown, what: string, { memory, seconds }: ApartLimits): Promise<T> {
  return new Promise((done, fail) => {
    const worker = new Worker(file, { workerData: order, resourceLimits: { maxOldGenerationSizeMb: memory } });
    const tooMuch = (of: string) =>
      new UnreadableInput('takes-too-much', `${what} takes ${of} to be read, and was given up.`, {}, 'It is damaged, or its layout is not of it.');
    const late = setTimeout(() => {
      fail(tooMuch(`more than ${seconds} seconds`));
      void worker.terminate();
    }, seconds * 1000);
    worker.once('message', (reply: ApartReply<T>) => {
      clearTimeout(late);
      if ('done' in reply) done(reply.done);
      else if ('bug' in reply.failed) fail(new Error(reply.failed.bug));
      else fail(new UnreadableInput(reply.failed.code, reply.failed.message, reply.failed.place, reply.failed.hint));
      void worker.terminate();
    });
    worker.once('error', (error: NodeJS.ErrnoException) => {
      clearTimeout(late);
      fail(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? tooMuch(`more than ${memory} MB of memory`) : error);
    });
    worker.once('exit', () => clearTimeout(late));
  });
}

/** The thread's side: does the work, and answers what came of it. */
export function answerApart<T>(answer: (reply: ApartReply<T>) => void, work: () => T): void {
  try {
    answer({ done: work() });
  } catch (error) {
    if (error instanceof UnreadableInput) {
      const { code, message, hint, place } = error;
      answer({ failed: { code, message, hint, place } });
    } else answer({ failed: { bug: error instanceof Error ? (error.stack ?? error.message) : String(error) } });
  }
}
