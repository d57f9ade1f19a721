/** One order to a worker of its own that is answered once: walks, or the explorer. */

import type { TrialNews, TrialOrder } from '@violet-crate/core/trial/apart';
import { TrialWatchdog, UNWATCHED } from '@violet-crate/core/trial/watchdog';
import { pageWorker, type StartWorker } from './trialRun.ts';

/** @throws Error with a sentence where it did not come back */
export function inWorker<K extends 'walked' | 'explored'>(
  order: TrialOrder,
  answer: K,
  { start = pageWorker, heartbeat = UNWATCHED, stop }: { start?: StartWorker; heartbeat?: number; stop?: AbortSignal } = {},
): Promise<Extract<TrialNews, { type: K }>> {
  return new Promise((resolve, reject) => {
    const worker = start(
      (news) => watchdog.hear(news),
      (reason) => watchdog.died(reason),
    );
    const watchdog = new TrialWatchdog(
      worker,
      {
        heard: (news) => {
          if (news.type !== answer) return;
          watchdog.end();
          resolve(news as Extract<TrialNews, { type: K }>);
        },
        stopped: (finding) => reject(new Error(finding.message)),
      },
      { heartbeat },
    );
    stop?.addEventListener('abort', () => {
      watchdog.end();
      reject(new Error('Stopped.'));
    });
    watchdog.say(order);
  });
}
