/** A walker without a person: it goes a way in a running world, looks at things, and operates them. */

import { boxCentre, type Box3 } from '../math/box3.ts';
import { normalise, sub, type Vec3 } from '../math/vec3.ts';
import type { Intent } from './move.ts';
import type { Recorder } from './record.ts';
import { roundLook } from './walk.ts';
import { TIME_STEP, type TrialWorld } from './world.ts';
import type { Leg } from './exploreGround.ts';

/** Seconds without getting nearer after which it tries a step aside, for which it does, and how often in one leg. */
const STUCK_AFTER = 0.7;
const ASIDE = 0.5;
const TRIES = 2;
/** How near to a corner of its way it goes, in radii: it is a box, and the way one for a round. */
const NEAR = 0.2;

/** How a way ended: there, against something, or with the end of the run. */
export type Arrival = 'there' | 'blocked' | 'over';

export class ExploreWalker {
  constructor(
    private readonly world: TrialWorld,
    private readonly recorder: Recorder,
    /** Called after every step; false ends everything. */
    private readonly goOn: () => boolean,
    private readonly random: () => number,
  ) {}

  /** One step. False where the run, or the time for it, is over. */
  step(intent: Partial<Intent> = {}): boolean {
    if (this.world.ended) return false;
    this.recorder.step({ move: [0, 0, 0], run: false, jump: false, ...intent });
    return this.goOn() && !this.world.ended;
  }

  wait(seconds: number): boolean {
    for (let i = 0; i < seconds / TIME_STEP; i++) if (!this.step()) return false;
    return true;
  }

  /** @param there whether it has got where it wanted to before the end of the way */
  go(legs: readonly Leg[], there: () => boolean = () => false): Arrival {
    for (const leg of legs) {
      const arrival = this.leg(leg, there);
      if (arrival !== 'there' || there()) return arrival;
    }
    return 'there';
  }

  /** Looks at a box and does what is offered there; false where nothing is. */
  operate(box: Box3): boolean {
    const look = this.towards(box);
    this.step({ look });
    if (!this.world.offer(look)) return false;
    this.recorder.act({ act: 'operate', look });
    return true;
  }

  /** Answers in a conversation, by number. */
  answer(choice: number): void {
    this.recorder.act({ act: 'answer', choice });
  }

  towards(box: Box3): Vec3 {
    // As it is recorded: what is just in reach must still be so when it is played back.
    return roundLook(normalise(sub(boxCentre(box), this.world.eye())));
  }

  private leg({ to, how }: Leg, there: () => boolean): Arrival {
    const { radius, stepHeight, height } = this.world.profile.player;
    let best = Infinity;
    let since = 0;
    let aside = 0;
    let side = 1;
    let tries = 0;
    let jumped = false;
    for (;;) {
      const { feet, onGround, climbing } = this.world.walker;
      const [dx, dy, dz] = sub(to, feet);
      const away = Math.hypot(dx, dy);
      const level = Math.abs(dz) < (how === 'walk' ? height : stepHeight * 2);
      if (away < radius * (how === 'walk' ? NEAR : 1) && (level || how === 'walk') && (onGround || how === 'walk')) return 'there';
      if (there()) return 'there';
      const left = away + (how === 'walk' ? 0 : Math.abs(dz));
      if (left < best - 0.05) [best, since] = [left, 0];
      else since += TIME_STEP;
      if (since > STUCK_AFTER * (how === 'climb' ? 3 : 1)) {
        if (++tries > TRIES) return 'blocked';
        [best, since, aside] = [Infinity, 0, ASIDE * (1 + tries / 2)];
        side = this.random() < 0.5 ? -1 : 1;
        jumped = false;
      }
      const unit: Vec3 = away > 1e-6 ? [dx / away, dy / away, 0] : [0, 0, 0];
      const slow = how === 'walk' ? Math.min(1, Math.max(0.25, away / radius)) : 1;
      let move: Vec3 = [unit[0] * slow, unit[1] * slow, 0];
      if (aside > 0) {
        aside -= TIME_STEP;
        move = [-unit[1] * side * 0.9 - unit[0] * 0.2, unit[0] * side * 0.9 - unit[1] * 0.2, 0];
      } else if (climbing && dz > 0) move = unit;
      const jump = how === 'jump' && onGround && !jumped && (dz > stepHeight || away > radius * 2.5);
      if (jump) jumped = true;
      if (!this.step({ move, run: how === 'jump', jump: jump || this.world.walker.swimming, look: away > 1e-6 ? unit : undefined })) return 'over';
    }
  }
}
