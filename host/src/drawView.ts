import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { ViewOrder } from './viewThread.ts';

/** A view of a built map as PNG, drawn in a thread of its own. */
export function drawView(order: ViewOrder): Promise<Uint8Array> {
  return new Promise((done, fail) => {
    const worker = new Worker(fileURLToPath(import.meta.resolve('@violet-crate/host/viewThread')), { workerData: order });
    worker.once('message', done);
    worker.once('error', fail);
    worker.once('exit', (code) => fail(new Error(`The thread that draws ended with code ${code}.`)));
  });
}
