/** Carries out a map's trial steps tick by tick: the headless run and the browser's demonstration share it. */

import type { TrialStep } from '../document/schema.ts';
import { normalise, sub, type Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';
import { STILL, type Intent } from './move.ts';
import type { Recorder } from './record.ts';
import { TIME_STEP, type TrialWorld } from './world.ts';

export interface StepResult {
  step: TrialStep;
  ok: boolean;
  detail: string;
}

/** Seconds that one walk may take, and after which getting nowhere counts as blocked. */
const WALK_LIMIT = 60;
const BLOCKED_AFTER = 2;

/** Why a step fails once the player is lost. */
const LOST = { fell: 'the player fell out of the world.', died: 'the player lost all health.' };

export class TrialDriver {
  readonly results: StepResult[] = [];
  private index = 0;
  private since = 0;
  private best = Infinity;
  private bestAt = 0;

  /** @param mustReach whether operating an object needs the player within reach of it */
  constructor(
    private readonly profile: Profile,
    private readonly steps: readonly TrialStep[],
    private readonly mustReach: boolean,
  ) {}

  get done(): boolean {
    return this.index >= this.steps.length || this.results.some((result) => !result.ok);
  }

  /** What the player does in this tick. Steps that need no time are carried out at once. */
  tick(world: TrialWorld, recorder?: Recorder): Intent {
    while (!this.done) {
      const step = this.steps[this.index];
      if (world.ended === 'fell' || world.ended === 'died') return this.fail(step, LOST[world.ended]);
      if (world.ended === 'won' && !('expect' in step)) {
        this.pass(step, 'The run was already won.');
        continue;
      }
      if ('wait' in step) {
        if (this.since >= step.wait) this.pass(step);
        else return this.spend(STILL);
      } else if ('walkTo' in step) {
        const intent = this.walk(world, step.walkTo);
        if (intent === 'arrived') this.pass(step);
        else if (typeof intent === 'string') return this.fail(step, intent);
        else return this.spend(intent);
      } else if ('answer' in step) {
        const said = this.answer(world, step.answer, recorder);
        if (said === 'waits') return this.since > WALK_LIMIT ? this.fail(step, `"${step.answer}" was not asked for.`) : this.spend(STILL);
        if (said !== null) return this.fail(step, said);
        this.pass(step);
        return STILL;
      } else {
        const problem = 'use' in step ? this.use(world, step.use, recorder) : expectation(world, step.expect);
        if (problem) return this.fail(step, problem);
        this.pass(step);
        // The world moves on by a tick after every operation, as it would after a key press.
        if ('use' in step) return STILL;
      }
    }
    return STILL;
  }

  private pass(step: TrialStep, detail = ''): void {
    this.results.push({ step, ok: true, detail });
    this.index++;
    this.since = 0;
    this.best = Infinity;
    this.bestAt = 0;
  }

  private fail(step: TrialStep, detail: string): Intent {
    this.results.push({ step, ok: false, detail });
    return STILL;
  }

  private spend(intent: Intent): Intent {
    this.since += TIME_STEP;
    return intent;
  }

  private use(world: TrialWorld, name: string, recorder: Recorder | undefined): string | null {
    const item = world.objects.named(name);
    if (!item) return `there is no object ${name}.`;
    if (this.mustReach) {
      const box = world.objects.boxOf(item);
      const middle: Vec3 = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, (box.min[2] + box.max[2]) / 2];
      const look = sub(middle, world.eye());
      const reached = world.usable(look);
      if (reached === item && recorder) {
        recorder.act({ act: 'operate', look: normalise(look) });
        return null;
      }
      if (reached !== item) return `${name} is out of reach from ${where(world)}${reached ? ` (${reached.object.name} is in the way)` : ''}.`;
    }
    world.use(item);
    return null;
  }

  /** Goes on in a conversation until an answer can be given. */
  private answer(world: TrialWorld, words: string, recorder: Recorder | undefined): string | 'waits' | null {
    const give = (choice: number) => (recorder ? recorder.act({ act: 'answer', choice }) : world.answer(choice));
    for (let n = 0; n < 1000; n++) {
      const { now, under } = world.talking;
      if (!under) return `nobody asks for "${words}": there is no conversation.`;
      if (!now) return 'waits';
      const wanted = { won: 'Let it be won', lost: 'Let it be lost' }[words] ?? words;
      const choice = now.answers.indexOf(wanted);
      if (choice >= 0) {
        give(choice);
        return null;
      }
      if (now.answers.length > 1) return `"${words}" is none of ${now.answers.map((answer) => `"${answer}"`).join(', ')}.`;
      give(0);
    }
    return `the conversation goes on without "${words}".`;
  }

  /** Straight towards a point, slower near it. */
  private walk(world: TrialWorld, to: Vec3): Intent | string {
    const { radius } = this.profile.player;
    const [dx, dy] = [to[0] - world.walker.feet[0], to[1] - world.walker.feet[1]];
    const away = Math.hypot(dx, dy);
    if (away < radius * 0.6) return 'arrived';
    if (away < this.best - 0.05) {
      this.best = away;
      this.bestAt = this.since;
    }
    const target = to.map((v) => Math.round(v)).join(', ');
    if (this.since - this.bestAt > BLOCKED_AFTER) return `the way to ${target} is blocked at ${where(world)}.`;
    if (this.since > WALK_LIMIT) return `${target} was not reached within ${WALK_LIMIT} s.`;
    const slow = Math.min(1, away / radius);
    return { move: [(dx / away) * slow, (dy / away) * slow, 0], run: false, jump: false };
  }
}

const where = (world: TrialWorld): string => world.walker.feet.map((v) => Math.round(v)).join(', ');

/** What is wrong with an expectation, as a sentence, or null. */
function expectation(world: TrialWorld, expected: { object: string; property: string; equals: unknown }): string | null {
  const item = world.objects.named(expected.object);
  if (!item) return `there is no object ${expected.object}.`;
  const value = world.objects.value(item, expected.property);
  const same =
    typeof value === 'number' && typeof expected.equals === 'number' ? Math.abs(value - expected.equals) < 1e-6 : value === expected.equals;
  return same ? null : `${expected.object}.${expected.property} is ${JSON.stringify(value)}, not ${JSON.stringify(expected.equals)}.`;
}
