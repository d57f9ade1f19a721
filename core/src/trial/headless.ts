/** The automatic test run: the same simulation without a screen, driven by the map's own trial steps. */

import type { Finding } from '../finding.ts';
import type { Vec3 } from '../math/vec3.ts';
import { sub } from '../math/vec3.ts';
import type { TrialStep } from '../map/schema.ts';
import { hasPart } from '../profile/schema.ts';
import { TIME_STEP, TrialWorld, type ConsoleLine, type TrialInputs } from './world.ts';
import type { Intent } from './move.ts';

export interface TrialReport {
  ok: boolean;
  ended: 'won' | 'fell' | 'finished';
  seconds: number;
  steps: { step: TrialStep; ok: boolean; detail: string }[];
  console: ConsoleLine[];
  findings: Finding[];
  position: Vec3;
}

const STILL: Intent = { move: [0, 0, 0], run: false, jump: false };
/** Seconds that the player is left to settle, and that a walk may take at most per call. */
const SETTLE = 2;
const WALK_LIMIT = 60;

/**
 * Runs the map's trial steps in order and stops at the first that fails. A map without steps gets the
 * basic ones: settle, then operate every usable object once.
 */
export async function runTrial(inputs: TrialInputs): Promise<TrialReport> {
  const world = await TrialWorld.begin(inputs);
  const results: TrialReport['steps'] = [];
  const fail = (step: TrialStep, detail: string, index: number) => {
    results.push({ step, ok: false, detail });
    world.findings.push({ code: 'trial-step', severity: 'blocker', stage: 'trial', message: `Step ${index + 1} of the test run failed: ${detail}`, place: { map: inputs.map.name, point: [...world.walker.feet] } });
  };
  pass(world, SETTLE);
  const own = inputs.map.settings.trial;
  const steps: TrialStep[] = own.length > 0 ? own : world.objects.filter((o) => hasPart(inputs.profile, o.object.class, 'use')).map((o) => ({ use: o.object.name }));
  for (const [index, step] of steps.entries()) {
    if (world.ended === 'fell') break;
    // Winning may come before the last expectation has been looked at.
    if (world.ended === 'won' && !('expect' in step)) {
      results.push({ step, ok: true, detail: 'The run was already won.' });
      continue;
    }
    const problem = perform(world, step, inputs, own.length > 0);
    if (problem) {
      fail(step, problem, index);
      break;
    }
    results.push({ step, ok: true, detail: '' });
  }
  if (!world.ended) pass(world, 1);
  const report: TrialReport = {
    ok: !world.findings.some((f) => f.severity === 'blocker'),
    ended: world.ended ?? 'finished',
    seconds: Math.round(world.time * 100) / 100,
    steps: results,
    console: world.console,
    findings: world.findings,
    position: world.walker.feet.map((v) => Math.round(v * 100) / 100) as Vec3,
  };
  world.stop();
  return report;
}

function pass(world: TrialWorld, seconds: number): void {
  for (let i = 0; i < seconds / TIME_STEP && !world.ended; i++) world.step(STILL);
}

/** What went wrong, as a sentence, or null. */
function perform(world: TrialWorld, step: TrialStep, inputs: TrialInputs, inReach: boolean): string | null {
  if ('wait' in step) {
    pass(world, step.wait);
    return null;
  }
  if ('walkTo' in step) return walk(world, step.walkTo, inputs.profile.player.radius);
  if ('use' in step) {
    const item = world.named(step.use);
    if (!item) return `there is no object ${step.use}.`;
    if (inReach) {
      const box = world.boxOf(item);
      const middle: Vec3 = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, (box.min[2] + box.max[2]) / 2];
      const reached = world.usable(sub(middle, world.eye()));
      if (reached !== item) return `${step.use} is out of reach from ${where(world)}${reached ? ` (${reached.object.name} is in the way)` : ''}.`;
    }
    world.use(item);
    world.step(STILL);
    return null;
  }
  const item = world.named(step.expect.object);
  if (!item) return `there is no object ${step.expect.object}.`;
  const value = world.value(item, step.expect.property);
  const same = typeof value === 'number' && typeof step.expect.equals === 'number' ? Math.abs(value - step.expect.equals) < 1e-6 : value === step.expect.equals;
  return same ? null : `${step.expect.object}.${step.expect.property} is ${JSON.stringify(value)}, not ${JSON.stringify(step.expect.equals)}.`;
}

const where = (world: TrialWorld): string => world.walker.feet.map((v) => Math.round(v)).join(', ');

/** Walks straight towards a point; getting nowhere for two seconds counts as blocked. */
function walk(world: TrialWorld, to: Vec3, radius: number): string | null {
  let best = Infinity;
  let since = 0;
  for (let t = 0; t < WALK_LIMIT; t += TIME_STEP) {
    const [dx, dy] = [to[0] - world.walker.feet[0], to[1] - world.walker.feet[1]];
    const away = Math.hypot(dx, dy);
    if (away < radius * 0.6) return null;
    const slow = Math.min(1, away / radius);
    world.step({ move: [(dx / away) * slow, (dy / away) * slow, 0], run: false, jump: false });
    if (world.ended) return world.ended === 'fell' ? 'the player fell out of the world.' : null;
    if (away < best - 0.05) {
      best = away;
      since = t;
    } else if (t - since > 2) return `the way to ${to.map((v) => Math.round(v)).join(', ')} is blocked at ${where(world)}.`;
  }
  return `${to.map((v) => Math.round(v)).join(', ')} was not reached within ${WALK_LIMIT} s.`;
}
