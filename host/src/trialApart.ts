/** Test runs from start to end in a thread of their own, which is ended when it does not come back. */

import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import type { Finding } from '@violet-crate/core/finding';
import type { TrialNews, TrialOrder } from '@violet-crate/core/trial/apart';
import type { CoverageData } from '@violet-crate/core/trial/coverage';
import type { Exploration } from '@violet-crate/core/trial/explore';
import type { TrialReport } from '@violet-crate/core/trial/headless';
import type { Rider } from '@violet-crate/core/trial/riders';
import type { RaceReport } from '@violet-crate/core/trial/raceTrial';
import type { WalkReport } from '@violet-crate/core/trial/record';
import type { Walk } from '@violet-crate/core/trial/walk';
import { EXPLORE_HEARTBEAT, HEARTBEAT, TrialWatchdog, type TrialOwner } from '@violet-crate/core/trial/watchdog';
import type { WindSetting } from '@violet-crate/core/trial/wind';
import type { TrialInputs } from '@violet-crate/core/trial/world';

/** Mebibytes of JavaScript objects that a run may hold; Lua's memory is bounded by itself. */
const MEMORY = 512;

/**
 * The map's own trial steps.
 *
 * @param heartbeat milliseconds of processor time without a sign of life after which it is ended
 */
export async function runTrialApart(inputs: TrialInputs, heartbeat = HEARTBEAT): Promise<TrialReport> {
  const news = await apart({ type: 'whole', inputs }, 'report', heartbeat);
  return 'report' in news
    ? news.report
    : { ok: false, ended: 'stopped', seconds: 0, steps: [], console: [], findings: [news.stopped], position: [0, 0, 0] };
}

/** Walks by name, played back; or why that came to no end. */
export async function playWalksApart(
  inputs: TrialInputs,
  walks: Record<string, Walk>,
  { coverage = false, heartbeat = coverage ? EXPLORE_HEARTBEAT : HEARTBEAT }: { coverage?: boolean; heartbeat?: number } = {},
): Promise<{ reports: WalkReport[]; coverage?: CoverageData } | { stopped: Finding }> {
  return apart({ type: 'walks', inputs, walks, coverage }, 'walked', heartbeat);
}

/** A search for all that can happen, within so many seconds; or why that came to no end. */
export async function exploreApart(
  inputs: TrialInputs,
  seconds: number,
  seed = 1,
  heartbeat = EXPLORE_HEARTBEAT,
): Promise<{ exploration: Exploration } | { stopped: Finding }> {
  return apart({ type: 'explore', inputs, seed, seconds }, 'explored', heartbeat);
}

/** Races that a driver, or each of the riders, rides in each wind; or why that came to no end. */
export async function raceApart(
  inputs: TrialInputs,
  winds: WindSetting[],
  heartbeat = HEARTBEAT,
  riders?: Rider[],
): Promise<{ reports: RaceReport[] } | { stopped: Finding }> {
  return apart({ type: 'race', inputs, winds, ...(riders ? { riders } : {}) }, 'raced', heartbeat);
}

/** Gives an order to a thread of its own, and waits for the one answer. */
function apart<K extends 'report' | 'walked' | 'explored' | 'raced'>(
  order: TrialOrder,
  answer: K,
  heartbeat: number,
): Promise<Extract<TrialNews, { type: K }> | { stopped: Finding }> {
  return new Promise((resolve) => {
    const watchdog = openTrial(
      {
        heard: (news) => {
          if (news.type !== answer) return;
          resolve(news as Extract<TrialNews, { type: K }>);
          watchdog.end();
        },
        stopped: (stopped) => resolve({ stopped }),
      },
      heartbeat,
    );
    watchdog.say(order);
  });
}

/** A run in a thread of its own, which ends with its watchdog. @param heartbeat milliseconds of the thread's processor time */
export function openTrial(owner: TrialOwner, heartbeat = HEARTBEAT): TrialWatchdog {
  const worker = new Worker(fileURLToPath(import.meta.resolve('@violet-crate/host/trialThread')), {
    resourceLimits: { maxOldGenerationSizeMb: MEMORY },
  });
  let thread: number | null = null;
  const judging = {
    heartbeat: process.platform === 'linux' ? heartbeat : heartbeat * ELSEWHERE,
    worked: () => (thread === null ? worker.performance.eventLoopUtilization().active : threadTime(thread)),
  };
  const watchdog = new TrialWatchdog({ post: (order) => worker.postMessage(order), end: () => void worker.terminate() }, owner, judging);
  worker.on('message', (news: TrialNews | { type: 'thread'; id: number }) => {
    if (news.type === 'thread') thread = news.id;
    else watchdog.hear(news);
  });
  worker.on('error', (error: NodeJS.ErrnoException) =>
    watchdog.died(error.code === 'ERR_WORKER_OUT_OF_MEMORY' ? `it took more than ${MEMORY} MB of memory` : 'its thread broke off'),
  );
  worker.on('exit', () => watchdog.died('its thread ended'));
  return watchdog;
}

/** Where the system does not tell a thread's processor time, the time in which it was not idle counts, which a busy machine makes longer. */
const ELSEWHERE = 10;
/** Milliseconds of a clock tick (`getconf CLK_TCK` is 100 on Linux, whatever the machine). */
const TICK = 10;

/** Milliseconds of processor time that a thread of this process has had: `utime` and `stime` of proc(5). */
function threadTime(thread: number): number {
  try {
    const stat = readFileSync(`/proc/self/task/${thread}/stat`, 'utf8');
    // Behind the name, which may hold anything: fields 14 and 15 are the twelfth and thirteenth from there.
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return (Number(fields[11]) + Number(fields[12])) * TICK;
  } catch {
    // It has just ended.
    return 0;
  }
}
