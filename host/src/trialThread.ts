/** A thread that holds one test run. */

import { parentPort } from 'node:worker_threads';
import { TrialSession, type TrialOrder } from '@violet-crate/core/trial/apart';

const session = new TrialSession((news) => parentPort!.postMessage(news), console.error);
parentPort!.on('message', (order: TrialOrder) => void session.take(order));
