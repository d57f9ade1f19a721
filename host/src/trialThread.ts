/** A thread that holds one test run. */

import { readlinkSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';
import { TrialSession, type TrialOrder } from '@violet-crate/core/trial/apart';

// The system's number of this thread: its processor time can be asked for by it from outside.
if (process.platform === 'linux') parentPort!.postMessage({ type: 'thread', id: Number(readlinkSync('/proc/thread-self').split('/').at(-1)) });

const session = new TrialSession((news) => parentPort!.postMessage(news), console.error);
parentPort!.on('message', (order: TrialOrder) => void session.take(order));
