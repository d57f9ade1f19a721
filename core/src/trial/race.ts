/** A race of a running world: which stops come next, laps and times, and where whoever is lost comes back to. */

import type { Route } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';

/** How a race stands for one player. */
export interface RaceState {
  /** Ids of what may be passed next: several where the way branches. */
  next: string[];
  /** Stops passed in this lap, of all. */
  passed: number;
  stops: number;
  lap: number;
  laps: number;
  /** Seconds since the start, null before it. */
  time: number | null;
  /** Seconds at every stop and at the finish, in order. */
  splits: { id: string; at: number }[];
  lapTimes: number[];
  finished: boolean;
}

/** A place in the way: on the main line, or on a branch by its number; after how many of its stops. */
interface Place {
  branch: number;
  index: number;
}

export class Race {
  private place: Place = { branch: -1, index: 0 };
  private since: number | null = null;
  private lapBegun = 0;
  private lap = 1;
  private passed = 0;
  private readonly splits: RaceState['splits'] = [];
  private readonly lapTimes: number[] = [];
  private last: string | null = null;
  finished = false;

  constructor(readonly route: Route) {}

  /** Ids of what may be passed next. */
  get next(): string[] {
    const { stops, finish, branches } = this.route;
    const { branch, index } = this.place;
    if (this.finished) return [];
    const main = (at: number): string => stops[at] ?? finish;
    if (branch >= 0) {
      const own = branches[branch];
      return [own.stops[index] ?? main(own.until - 1)];
    }
    return [main(index), ...branches.flatMap((one) => (one.after === index && one.stops.length > 0 ? [one.stops[0]] : []))];
  }

  /** The clock runs from the first move on. */
  start(time: number): void {
    if (this.since !== null) return;
    this.since = time;
    this.lapBegun = time;
  }

  /** Whether the clock has begun to run. */
  get begun(): boolean {
    return this.since !== null;
  }

  get running(): boolean {
    return this.begun && !this.finished;
  }

  /** Something of the route was passed. Answers what became of it. */
  pass(id: string, time: number): 'stop' | 'lap' | 'finish' | 'wrong' | null {
    const { stops, finish, branches, laps } = this.route;
    if (this.finished || !this.isOfRoute(id)) return null;
    if (!this.next.includes(id)) {
      // To come by what was passed just before is no mistake.
      return id === this.last ? null : 'wrong';
    }
    this.start(time);
    const after = time - this.since!;
    this.splits.push({ id, at: after });
    this.last = id;
    if (id === finish && !stops.includes(id)) {
      this.lapTimes.push(time - this.lapBegun);
      this.lapBegun = time;
      this.passed = 0;
      this.place = { branch: -1, index: 0 };
      if (this.lap >= laps) {
        this.finished = true;
        return 'finish';
      }
      this.lap++;
      return 'lap';
    }
    this.passed++;
    const { branch, index } = this.place;
    const joins = branch >= 0 && id === (stops[branches[branch].until - 1] ?? finish);
    if (joins) this.place = { branch: -1, index: branches[branch].until };
    else if (branch >= 0) this.place = { branch, index: index + 1 };
    else if (id === stops[index]) this.place = { branch: -1, index: index + 1 };
    else this.place = { branch: branches.findIndex((one) => one.after === index && one.stops[0] === id), index: 1 };
    return 'stop';
  }

  isOfRoute(id: string): boolean {
    const { stops, finish, branches } = this.route;
    return id === finish || stops.includes(id) || branches.some((branch) => branch.stops.includes(id));
  }

  /** Id of what was passed last; the start before that. */
  get lastPassed(): string {
    return this.last ?? this.route.start;
  }

  state(time: number): RaceState {
    return {
      next: this.next,
      passed: this.passed,
      stops: this.route.stops.length,
      lap: this.lap,
      laps: this.route.laps,
      time: this.since === null ? null : this.finished ? (this.splits.at(-1)?.at ?? 0) : time - this.since,
      splits: [...this.splits],
      lapTimes: [...this.lapTimes],
      finished: this.finished,
    };
  }
}

/** The point of a line that is nearest to a place, seen from above, with the heading of the line there in radians. */
export function onLine(line: readonly Vec3[], [x, y]: Vec3): { at: Vec3; heading: number; along: number } {
  let best = { at: line[0], heading: 0, along: 0 };
  let nearest = Infinity;
  let along = 0;
  for (let n = 0; n + 1 < line.length; n++) {
    const [a, b] = [line[n], line[n + 1]];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const far = Math.hypot(dx, dy);
    const t = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (far * far || 1)));
    const at: Vec3 = [a[0] + dx * t, a[1] + dy * t, a[2] + (b[2] - a[2]) * t];
    const away = Math.hypot(at[0] - x, at[1] - y);
    if (away < nearest) {
      nearest = away;
      best = { at, heading: Math.atan2(dy, dx), along: along + far * t };
    }
    along += far;
  }
  return best;
}
