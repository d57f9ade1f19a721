/** The whole test run in a thread of its own, which is ended when it does not come back. */

import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { TrialNews } from '@violet-crate/core/trial/apart';
import type { TrialReport } from '@violet-crate/core/trial/headless';
import { HEARTBEAT, TrialWatchdog } from '@violet-crate/core/trial/watchdog';
import type { TrialInputs } from '@violet-crate/core/trial/world';

/** Mebibytes of JavaScript objects that a run may hold; Lua's memory is bounded by itself. */
const MEMORY = 512;

/** @param heartbeat milliseconds without a sign of life after which it is ended */
export function runTrialApart(inputs: TrialInputs, heartbeat = HEARTBEAT): Promise<TrialReport> {
  return new Promise((resolve) => {
    const worker = new Worker(fileURLToPath(import.meta.resolve('@violet-crate/host/trialThread')), {
      resourceLimits: { maxOldGenerationSizeMb: MEMORY },
    });
    const watchdog = new TrialWatchdog(
      { post: (order) => worker.postMessage(order), end: () => void worker.terminate() },
      {
        heard: (news) => {
          if (news.type !== 'report') return;
          resolve(news.report);
          watchdog.end();
        },
        stopped: (finding) => resolve({ ok: false, ended: 'stopped', seconds: 0, steps: [], console: [], findings: [finding], position: [0, 0, 0] }),
      },
      heartbeat,
    );
    worker.on('message', (news: TrialNews) => watchdog.hear(news));
    worker.on('error', (error: NodeJS.ErrnoException) =>
      watchdog.died(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? `it took more than ${MEMORY} MB of memory` : 'its thread broke off'),
    );
    worker.on('exit', () => watchdog.died('its thread ended'));
    watchdog.say({ type: 'whole', inputs });
  });
}
