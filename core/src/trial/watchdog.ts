/**
 * The owner's side of a test run apart: it passes orders on, and ends the worker when it gives no sign of life for a
 * second while it owes an answer. Nothing inside Lua can bound a C function that does not come back; this does.
 */

import type { Finding } from '../finding.ts';
import type { ScriptPlace } from '../script/run.ts';
import type { TrialNews, TrialOrder } from './apart.ts';

/** A worker of a page or of Node.js. */
export interface TrialWorker {
  post(order: TrialOrder): void;
  end(): void;
}

export interface TrialOwner {
  /** News of the run itself: states, reports, and what was recorded. */
  heard(news: Extract<TrialNews, { type: 'state' | 'report' | 'walked' | 'recorded' | 'explored' | 'raced' | 'coverage' }>): void;
  /** The run is over for good: it did not come back, or it failed. */
  stopped(finding: Finding): void;
}

/** Milliseconds without a sign of life after which a run is ended, and that its start may take before scripts run. */
export const HEARTBEAT = 1000;
/** The same for an explorer, which makes the ground of a whole map in one go. */
export const EXPLORE_HEARTBEAT = 20_000;
const START = 60_000;
/** Heartbeats within which a step has to end, whatever is heard of its scripts meanwhile: they are busy, but for ever. */
const STEP = 5;
/** An owner that was busy itself looks once more, after what has come in has been read. */
const GRACE = 200;
/** Milliseconds that the owner's own clock may be late before the machine counts as too busy to blame a script. */
const LATE = 60;

export class TrialWatchdog {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private owed = 0;
  private signs = 0;
  /** When the last step ended. */
  private progress = 0;
  private scripts = false;
  private place: ScriptPlace | null = null;
  private over = false;

  constructor(
    private readonly worker: TrialWorker,
    private readonly owner: TrialOwner,
    private readonly heartbeat = HEARTBEAT,
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
    if (this.owed > 1) return;
    this.progress = this.now();
    this.arm();
  }

  /** Every message of the worker goes through here. */
  hear(news: TrialNews): void {
    if (this.over) return;
    this.signs++;
    if (news.type !== 'at') this.progress = this.now();
    if (news.type === 'at') this.place = news.place;
    else if (news.type === 'beat') this.scripts = true;
    else if (news.type === 'failed') return this.stop(failed(news.message));
    else {
      this.owed = Math.max(0, this.owed - 1);
      // What ran has come back; what takes long from here on is something else.
      this.place = null;
      this.owner.heard(news);
    }
    this.arm();
  }

  /** The worker ended by itself. */
  died(reason: string): void {
    if (!this.over) this.stop(failed(reason));
  }

  end(): void {
    this.over = true;
    clearTimeout(this.timer);
    this.worker.end();
  }

  private arm(): void {
    clearTimeout(this.timer);
    if (this.owed === 0 || this.over) return;
    const late = STEP * this.heartbeat;
    if (this.scripts && this.now() - this.progress > late) return this.stop(stuck(this.place, late));
    const wait = this.scripts ? this.heartbeat : START;
    const due = this.now() + wait;
    this.timer = setTimeout(() => {
      const { signs } = this;
      // A machine that is late with this itself is late with the worker too; a step as a whole has its bound all the same.
      if (this.now() - due > LATE) return this.arm();
      this.timer = setTimeout(() => {
        if (signs === this.signs) this.stop(this.scripts ? stuck(this.place, this.heartbeat) : failed('it did not begin'));
        else this.arm();
      }, GRACE);
    }, wait);
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
