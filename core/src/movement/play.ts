/**
 * A movement sequence as it is played: one step of time after the other, the same on the plan, in the checks and in the
 * test run. Map space, units, seconds, degrees about z.
 */

import { PLAYER, type SequenceStep } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';

/** Whoever is moved. */
export interface Mover {
  position: Vec3;
  turn: number;
  /** Units per second. */
  walk: number;
  run: number;
  hidden: boolean;
  /** Upward speed while in the air; null on the ground. */
  rising: number | null;
}

export interface MovementWorld {
  readonly gravity: number;
  readonly jumpSpeed: number;
  /** Height of what one stands on at a place, looked for from a step above it; null where there is nothing. */
  floor(at: Vec3): number | null;
  /** Whether somebody may go to a place from where they are; what is in the way makes them wait. */
  free?(who: string, from: Vec3, to: Vec3): boolean;
  sound?(who: string, sound: string): void;
}

/** Degrees per second. */
const TURN_SPEED = 270;
/** Within so much of a place one is there, in units of the way of a step. */
const THERE = 1e-6;

interface Act {
  step: SequenceStep;
  since: number;
  done: boolean;
}

export class SequencePlayer {
  private cursor = 0;
  private readonly acts = new Map<string, Act>();
  private awaited: Act | null = null;
  time = 0;
  /** Seconds for which nobody has moved although somebody should. */
  stalled = 0;

  /** @param movers by id; those that are not there do their steps at once */
  constructor(
    private readonly steps: readonly SequenceStep[],
    private readonly movers: ReadonlyMap<string, Mover>,
    private readonly world: MovementWorld,
  ) {}

  /** All steps are done but for following, which ends with the sequence unless it is taken over. */
  get over(): boolean {
    return (
      this.cursor >= this.steps.length && this.awaited === null && [...this.acts.values()].every(({ done, step }) => done || step.do === 'follow')
    );
  }

  /** Number of the step that it waits at; past the last when all have begun. */
  get at(): number {
    return this.awaited ? this.cursor - 1 : this.cursor;
  }

  /** Who follows whom at the end: it goes on after the sequence. */
  following(): { who: string; whom: string; gap: number }[] {
    return [...this.acts.values()].flatMap(({ step }) => (step.do === 'follow' ? [{ who: step.who, whom: step.whom, gap: step.gap }] : []));
  }

  step(seconds: number): void {
    this.time += seconds;
    this.begin();
    let moved = false;
    for (const act of this.acts.values()) if (!act.done && this.carryOn(act, seconds)) moved = true;
    if (this.awaited?.done) this.awaited = null;
    this.begin();
    this.stalled = moved || this.over ? 0 : this.stalled + seconds;
  }

  /** Begins all that need not wait. */
  private begin(): void {
    while (this.awaited === null && this.cursor < this.steps.length) {
      const step = this.steps[this.cursor];
      const before = this.acts.get(step.who);
      // One does one thing at a time; following is left for anything else.
      if (before && !before.done && before.step.do !== 'follow') return;
      const act: Act = { step, since: 0, done: false };
      this.acts.set(step.who, act);
      this.cursor++;
      this.enter(act);
      if (step.wait && !act.done) this.awaited = act;
    }
  }

  private enter(act: Act): void {
    const { step } = act;
    const mover = this.movers.get(step.who);
    if (!mover && step.do !== 'pause') act.done = true;
    if (!mover) return;
    if (step.do === 'show' || step.do === 'hide') {
      mover.hidden = step.do === 'hide';
      act.done = true;
    } else if (step.do === 'sound') {
      this.world.sound?.(step.who, step.sound);
      act.done = true;
    } else if (step.do === 'jump') mover.rising = this.world.jumpSpeed;
  }

  /** Whether anything came of it. */
  private carryOn(act: Act, seconds: number): boolean {
    const { step } = act;
    act.since += seconds;
    const mover = this.movers.get(step.who);
    if (step.do === 'pause') {
      act.done = act.since >= step.seconds;
      return true;
    }
    if (!mover) return false;
    switch (step.do) {
      case 'walk': {
        const went = this.towards(step.who, mover, step.to, (step.run ? mover.run : mover.walk) * seconds, 0, seconds);
        act.done = went === 'there';
        return went !== 'blocked';
      }
      case 'turn':
        act.done = turnTo(mover, step.to, TURN_SPEED * seconds);
        return true;
      case 'jump': {
        const { world } = this;
        const up = mover.rising! * seconds - (world.gravity * seconds * seconds) / 2;
        mover.rising! -= world.gravity * seconds;
        const floor = world.floor(mover.position) ?? mover.position[2];
        const z = mover.position[2] + up;
        mover.position = [mover.position[0], mover.position[1], mover.rising! < 0 ? Math.max(floor, z) : z];
        if (mover.rising! < 0 && z <= floor) {
          mover.rising = null;
          act.done = true;
        }
        return true;
      }
      case 'follow': {
        const whom = this.movers.get(step.whom);
        return whom ? this.towards(step.who, mover, whom.position, mover.run * seconds, step.gap, seconds) === 'went' : false;
      }
      default:
        return true;
    }
  }

  /** So far towards a place and no nearer than a gap, on the floor. */
  private towards(who: string, mover: Mover, to: Vec3, way: number, gap: number, seconds: number): 'there' | 'went' | 'blocked' {
    const [dx, dy] = [to[0] - mover.position[0], to[1] - mover.position[1]];
    const away = Math.hypot(dx, dy) - gap;
    if (away <= THERE) return 'there';
    const share = Math.min(way, away) / (away + gap);
    const flat: Vec3 = [mover.position[0] + dx * share, mover.position[1] + dy * share, mover.position[2]];
    const next: Vec3 = [flat[0], flat[1], this.world.floor(flat) ?? mover.position[2]];
    turnTo(mover, (Math.atan2(dy, dx) * 180) / Math.PI, TURN_SPEED * seconds);
    if (who !== PLAYER && this.world.free && !this.world.free(who, mover.position, next)) return 'blocked';
    mover.position = next;
    return away <= way + THERE ? 'there' : 'went';
  }
}

/** Turns by the shorter way, so far at most. Answers whether it looks there now. */
export function turnTo(mover: { turn: number }, to: number, most: number): boolean {
  const by = ((((to - mover.turn) % 360) + 540) % 360) - 180;
  if (Math.abs(by) <= most) {
    mover.turn = ((to % 360) + 360) % 360;
    return true;
  }
  mover.turn = (((mover.turn + Math.sign(by) * most) % 360) + 360) % 360;
  return false;
}

/** Seconds between two moments of a timeline, and after which a sequence counts as never ending. */
export const MOMENT = 1 / 20;
export const LONGEST = 600;
/** Seconds without any move after which somebody waits for ever. */
const PATIENCE = 5;

export interface Moment {
  time: number;
  /** Number of the step that is waited for. */
  step: number;
  at: ReadonlyMap<string, { position: Vec3; turn: number; hidden: boolean }>;
}

export interface Timeline {
  moments: Moment[];
  /** Why it does not end by itself, and the step it stays at; null where it does. */
  endless: { step: number; why: 'stalled' | 'long' } | null;
}

/** All of a sequence as it would be seen, from beginning to end. */
export function timelineOf(steps: readonly SequenceStep[], movers: ReadonlyMap<string, Mover>, world: MovementWorld): Timeline {
  const own = new Map([...movers].map(([id, mover]) => [id, { ...mover }]));
  const player = new SequencePlayer(steps, own, world);
  const moments: Moment[] = [];
  const note = () =>
    moments.push({
      time: player.time,
      step: player.at,
      at: new Map([...own].map(([id, { position, turn, hidden }]) => [id, { position, turn, hidden }])),
    });
  note();
  while (!player.over) {
    if (player.time >= LONGEST || player.stalled > PATIENCE)
      return { moments, endless: { step: player.at, why: player.time >= LONGEST ? 'long' : 'stalled' } };
    player.step(MOMENT);
    note();
  }
  return { moments, endless: null };
}
