/**
 * The owner's side of a test run apart: it passes orders on, and sees when the worker gives no sign of life while it owes an answer.
 * Nothing inside Lua can bound a C function that does not come back; this does.
 *
 * A busy machine is no fault of a script. Where the processor time of the run's thread is known, that alone counts, and the run is ended;
 * in a page, which knows only what time it is, whoever tests is asked, and what comes back after all goes on.
 */

import type { Finding } from '../finding.ts';
import type { ScriptPlace } from '../script/run.ts';
import type { TrialNews, TrialOrder } from './apart.ts';

/** A worker of a page or of Node.js. */
export interface TrialWorker {
  post(order: TrialOrder): void;
  end(): void;
  /** False where it keeps no recording. */
  records?: boolean;
}

export interface TrialOwner {
  /** News of the run itself: states, reports, and what was recorded. */
  heard(news: Extract<TrialNews, { type: 'state' | 'report' | 'walked' | 'recorded' | 'explored' | 'raced' | 'coverage' }>): void;
  /** The run is over for good: it did not come back, or it failed. */
  stopped(finding: Finding): void;
  /** It has not come back for a while, which may be a busy machine; null once it has. Only where the owner is asked. */
  hangs?(finding: Finding | null): void;
}

/** Milliseconds of processor time without a sign of life after which a run has not come back. */
export const HEARTBEAT = 1000;
/** The same for an explorer, which makes the ground of a whole map in one go. */
export const EXPLORE_HEARTBEAT = 20_000;
/** Milliseconds of the clock after which whoever tests is asked; and for work without a screen in a page, which can be stopped there. */
export const ASK_AFTER = 5000;
export const UNWATCHED = 60_000;
/** What the start may take before scripts run. */
const START = 60_000;
/** Milliseconds of the clock without any sign, and hardly any processor time, after which a thread is taken for dead. */
const DEAD = 600_000;
/** Heartbeats within which a step has to end, whatever is heard of its scripts meanwhile: they are busy, but for ever. */
const STEP = 5;
/** Looks at the worker within a heartbeat. A look that is late counts as if it had come in time: who looks was kept waiting as well. */
const LOOKS = 8;

export interface Judging {
  /** Milliseconds without a sign of life that are too many. */
  heartbeat: number;
  /** Milliseconds that the run's thread has worked so far; the owner's own looks are counted without it. */
  worked?(): number;
  /** Whether the owner is asked (`hangs`) instead of the run being ended. */
  ask?: boolean;
}

export class TrialWatchdog {
  private timer: ReturnType<typeof setInterval> | undefined;
  private owed = 0;
  /** Work and clock when the worker was heard of last, and work when its last step ended. */
  private heardAt = 0;
  private heardTime = 0;
  private stepAt = 0;
  /** Milliseconds of looks that came in time. */
  private looked = 0;
  private lastLook = 0;
  private scripts = false;
  private place: ScriptPlace | null = null;
  private asked = false;
  private over = false;

  constructor(
    private readonly worker: TrialWorker,
    private readonly owner: TrialOwner,
    private readonly judging: Judging = { heartbeat: HEARTBEAT },
    private readonly now = Date.now,
  ) {}

  /** Answers still to come; a page sends its next steps when there are none. */
  get waiting(): boolean {
    return this.owed > 0;
  }

  say(order: TrialOrder): void {
    if (this.over) return;
    if (order.type !== 'demonstrate') this.owed++;
    this.worker.post(order);
    if (this.owed !== 1) return;
    this.stepAt = this.worked();
    this.sign();
    this.look();
  }

  /** Every message of the worker goes through here. */
  hear(news: TrialNews): void {
    if (this.over) return;
    this.sign();
    if (news.type !== 'at') this.stepAt = this.worked();
    if (news.type === 'at') this.place = news.place;
    else if (news.type === 'beat') this.scripts = true;
    else if (news.type === 'failed') return this.stop(failed(news.message));
    else {
      this.owed = Math.max(0, this.owed - 1);
      // What ran has come back; what takes long from here on is something else.
      this.place = null;
      this.owner.heard(news);
    }
  }

  /** The worker ended by itself. */
  died(reason: string): void {
    if (!this.over) this.stop(failed(reason));
  }

  /** Whoever was asked waits: it is asked again after as long. */
  wait(): void {
    this.stepAt = this.worked();
    this.sign();
  }

  /** Whoever was asked wants no more of it. */
  giveUp(): void {
    if (!this.over) this.stop(stuck(this.place, this.judging.heartbeat));
  }

  end(): void {
    this.over = true;
    clearInterval(this.timer);
    this.worker.end();
  }

  private worked(): number {
    return this.judging.worked?.() ?? this.looked;
  }

  private sign(): void {
    this.heardAt = this.worked();
    this.heardTime = this.now();
    if (!this.asked) return;
    this.asked = false;
    this.owner.hangs?.(null);
  }

  private look(): void {
    if (this.timer !== undefined) return;
    const every = this.judging.heartbeat / LOOKS;
    this.lastLook = this.now();
    this.timer = setInterval(() => {
      this.looked += Math.min(this.now() - this.lastLook, every);
      this.lastLook = this.now();
      if (this.owed === 0 || this.over) {
        clearInterval(this.timer);
        this.timer = undefined;
      } else this.judge();
    }, every);
  }

  private judge(): void {
    const { heartbeat, ask } = this.judging;
    const worked = this.worked();
    if (this.now() - this.heardTime > DEAD && worked - this.heardAt < heartbeat) return this.stop(failed('nothing was heard of it any more'));
    if (!this.scripts) {
      if (worked - this.heardAt > START) this.stop(failed('it did not begin'));
      return;
    }
    const step = ask ? heartbeat : STEP * heartbeat;
    const silent = worked - this.heardAt >= heartbeat;
    if (!silent && worked - this.stepAt < step) return;
    const finding = stuck(this.place, silent ? heartbeat : step);
    if (!ask) return this.stop(finding);
    if (!this.asked) this.owner.hangs?.(finding);
    this.asked = true;
  }

  private stop(finding: Finding): void {
    this.end();
    this.owner.stopped(finding);
  }
}

function stuck(place: ScriptPlace | null, after: number): Finding {
  const where = place ? `${place.name ? `${place.name} ` : ''}(${place.file}:${place.line})` : 'the simulation';
  return {
    code: 'script-stuck',
    severity: 'blocker',
    stage: 'trial',
    message: `The test run was ended: ${where} did not come back within ${after / 1000} ${after === 1000 ? 'second' : 'seconds'}.`,
    hint: 'Look there for a search in a long text, or for work on a very large table.',
    place: place ? { file: place.file, line: place.line } : undefined,
  };
}

const failed = (reason: string): Finding => ({
  code: 'trial-failed',
  severity: 'blocker',
  stage: 'trial',
  message: `The test run stopped unexpectedly: ${reason.replace(/\.$/, '')}.`,
  hint: 'Start it again; if it stays so, build the map anew.',
});
