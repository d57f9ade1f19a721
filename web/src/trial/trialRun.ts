/** A test run as a page holds it: the simulation is in a worker, and this is what the page knows of it. */

import type { Finding } from '@violet-crate/core/finding';
import type { TrialStep } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { LogPoint } from '@violet-crate/core/script/run';
import type { CoverageData } from '@violet-crate/core/trial/coverage';
import type { ShownObject, TrialCommand, TrialNews, TrialState } from '@violet-crate/core/trial/apart';
import type { LiveEdit } from '@violet-crate/core/trial/liveMap';
import type { Intent } from '@violet-crate/core/trial/move';
import type { Delivery } from '@violet-crate/core/trial/signals';
import type { Walk } from '@violet-crate/core/trial/walk';
import { ASK_AFTER, TrialWatchdog, type TrialOwner, type TrialWorker } from '@violet-crate/core/trial/watchdog';
import type { TrialInputs } from '@violet-crate/core/trial/world';
import type { ConsoleLine } from '@violet-crate/core/trial/console';

export type Recorded = Pick<Extract<TrialNews, { type: 'recorded' }>, 'walk' | 'touched'>;

/** Signals that are kept, and lines of the console. */
const DELIVERIES = 2000;
const LINES = 2000;

/** Steps after which what was recorded is asked for again. */
const KEEP_EVERY = 120;

/** Seconds of the game between two samples of what is watched, and samples that are kept. */
const SAMPLE_EVERY = 0.1;
const SAMPLES = 300;

export interface Sample {
  time: number;
  /** Level speed, height, then the watched expressions; NaN for what is no number. */
  values: number[];
}

/** Starts a worker whose news go to `hear`, and whose end to `died`. */
export type StartWorker = (hear: (news: TrialNews) => void, died: (reason: string) => void) => TrialWorker;

export const pageWorker: StartWorker = (hear, died) => {
  const worker = new Worker(new URL('./trialWorker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = (event: MessageEvent<TrialNews>) => hear(event.data);
  worker.onerror = (event) => died(event.message || 'its worker could not be started');
  return { post: (order) => worker.postMessage(order), end: () => worker.terminate() };
};

/** A run that has not come back for a while, and what can be done about it. */
export interface Hang {
  finding: Finding;
  wait(): void;
  end(): void;
}

export class TrialRun {
  readonly objects = new Map<string, ShownObject>();
  readonly lines: ConsoleLine[] = [];
  /** Signals that were sent, oldest first. */
  readonly deliveries: Delivery[] = [];
  /** What it was begun with. */
  inputs: TrialInputs | null = null;
  /** Null until the run has begun. */
  state: TrialState | null = null;
  /** Why the run was ended from outside. */
  stopped: Finding | null = null;
  private readonly watchdog: TrialWatchdog;
  private sounds: TrialState['sounds'] = [];
  private readonly asked: ((recorded: Recorded) => void)[] = [];
  private readonly wanted: ((coverage: CoverageData) => void)[] = [];
  /** What was watched, a few times a second, oldest first. */
  readonly history: Sample[] = [];
  private started: { resolve(): void; reject(error: Error): void } | null = null;

  /** What was recorded until a moment ago: whatever becomes of the run, that is left of it. */
  private kept: Recorded | null = null;
  private readonly keeps: boolean;
  private steps = 0;
  private nextKept = KEEP_EVERY;

  /** @param hangs told when the run has not come back for a while, and when it has (null) */
  constructor(start: StartWorker = pageWorker, hangs: (finding: Finding | null) => void = () => {}) {
    const worker = start(
      (news) => this.watchdog.hear(news),
      (reason) => this.watchdog.died(reason),
    );
    this.keeps = worker.records !== false;
    const owner: TrialOwner = {
      heard: (news) => {
        if (news.type === 'state') this.show(news.state);
        if (news.type === 'coverage') this.wanted.splice(0).forEach((answer) => answer(news.coverage));
        if (news.type === 'recorded') {
          this.kept = news;
          this.asked.splice(0).forEach((answer) => answer(news));
        }
      },
      stopped: (finding) => {
        this.stopped = finding;
        hangs(null);
        this.print('error', finding.message);
        this.started?.reject(new Error(finding.message));
        const { kept } = this;
        if (kept) this.asked.splice(0).forEach((answer) => answer(kept));
      },
      hangs,
    };
    this.watchdog = new TrialWatchdog(worker, owner, { heartbeat: ASK_AFTER, ask: true });
  }

  /** It hangs, and is waited for. */
  wait(): void {
    this.watchdog.wait();
  }

  /** It hangs, and is ended; what was recorded stays. */
  giveUp(): void {
    this.watchdog.giveUp();
  }

  /** Begins, or plays a walk back; resolves when the start-up function has run, and rejects where it never came back. */
  begin(inputs: TrialInputs, walk?: Walk): Promise<void> {
    return new Promise((resolve, reject) => {
      this.started = { resolve, reject };
      this.inputs = inputs;
      this.watchdog.say({ type: 'begin', inputs, ...(walk ? { walk } : {}) });
    });
  }

  /** Whether the worker is still at the steps that it was given last. */
  get waiting(): boolean {
    return this.watchdog.waiting;
  }

  get findings(): Finding[] {
    return [...(this.state?.findings ?? []), ...(this.stopped ? [this.stopped] : [])];
  }

  get ended(): 'won' | 'fell' | 'died' | 'stopped' | null {
    return this.stopped ? 'stopped' : (this.state?.ended ?? null);
  }

  advance(intents: Intent[], look: Vec3): void {
    this.watchdog.say({ type: 'advance', intents, look });
    this.steps += intents.length;
    if (!this.keeps || this.steps < this.nextKept) return;
    // The longer it is, the longer it takes to be told.
    this.nextKept = this.steps + Math.max(KEEP_EVERY, this.steps / 20);
    this.watchdog.say({ type: 'recorded' });
  }

  operate(look: Vec3): void {
    this.watchdog.say({ type: 'operate', look });
  }

  /** Throws what is carried. */
  fling(look: Vec3): void {
    this.watchdog.say({ type: 'fling', look });
  }

  /** Answers in a conversation, by number. */
  answer(choice: number): void {
    this.watchdog.say({ type: 'answer', choice });
  }

  glide(): void {
    this.watchdog.say({ type: 'glide' });
  }

  /** Has a driver ride the race, or gives the reins back. */
  drive(on: boolean): void {
    this.watchdog.say({ type: 'drive', on });
  }

  /** What was recorded so far. */
  recorded(): Promise<Recorded> {
    if (this.stopped && this.kept) return Promise.resolve(this.kept);
    return new Promise((resolve) => {
      this.asked.push(resolve);
      this.watchdog.say({ type: 'recorded' });
    });
  }

  /** Takes what was edited in the map into the running world. */
  edit(edit: LiveEdit): void {
    this.watchdog.say({ type: 'edit', edit });
  }

  /** Takes changed scripts into the running world. */
  reload(scripts: Record<string, string>): void {
    this.watchdog.say({ type: 'scripts', scripts });
  }

  /** Runs a line of Lua in the running world. */
  evaluate(text: string): void {
    this.watchdog.say({ type: 'evaluate', text });
  }

  /** What a player may not do: going elsewhere, having an object send an event. */
  command(command: TrialCommand): void {
    this.watchdog.say({ type: 'command', command });
  }

  /** Looks at other expressions from now on, each state. */
  watch(expressions: readonly string[]): void {
    this.history.splice(0);
    this.watchdog.say({ type: 'watch', expressions: [...expressions] });
  }

  logAt(points: readonly LogPoint[]): void {
    this.watchdog.say({ type: 'logs', points: [...points] });
  }

  /** Counts lines and calls of scripts from now on, or no longer. */
  measure(on: boolean): void {
    this.watchdog.say({ type: 'measure', on });
  }

  /** What the run has come by so far. */
  coverage(): Promise<CoverageData> {
    return new Promise((resolve) => {
      this.wanted.push(resolve);
      this.watchdog.say({ type: 'coverage' });
    });
  }

  demonstrate(steps: TrialStep[]): void {
    this.watchdog.say({ type: 'demonstrate', steps });
  }

  /** Sounds asked for since the last time. */
  takeSounds(): TrialState['sounds'] {
    return this.sounds.splice(0);
  }

  end(): void {
    this.watchdog.end();
  }

  private show(state: TrialState): void {
    this.state = state;
    for (const item of state.objects) this.objects.set(item.id, item);
    for (const id of state.removed) this.objects.delete(id);
    for (const { id, ...change } of state.changed) Object.assign(this.objects.get(id)!, change);
    this.lines.push(...state.lines);
    this.sample(state);
    this.sounds.push(...state.sounds);
    this.deliveries.push(...state.deliveries);
    if (this.deliveries.length > DELIVERIES) this.deliveries.splice(0, this.deliveries.length - DELIVERIES);
    if (this.lines.length > LINES) this.lines.splice(0, this.lines.length - LINES);
    this.started?.resolve();
    this.started = null;
  }

  private sample({ time, velocity, feet, watched }: TrialState): void {
    const last = this.history.at(-1);
    if (last && time - last.time < SAMPLE_EVERY && time >= last.time) return;
    this.history.push({ time, values: [Math.hypot(velocity[0], velocity[1]), feet[2], ...watched.map(Number)] });
    if (this.history.length > SAMPLES) this.history.shift();
  }

  private print(kind: ConsoleLine['kind'], text: string): void {
    this.lines.push({ time: this.state?.time ?? 0, kind, text });
  }
}
