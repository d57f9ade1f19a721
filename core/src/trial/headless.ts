/** The automatic test run: the same simulation without a screen, driven by the map's own trial steps. */

import type { Finding } from '../finding.ts';
import type { TrialStep } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { ConsoleLine } from './console.ts';
import { TrialDriver, type StepResult } from './driver.ts';
import { STILL, type Intent } from './move.ts';
import type { TrialWatcher } from './scripts.ts';
import { TIME_STEP, TrialWorld, type TrialInputs } from './world.ts';

export interface TrialReport {
  ok: boolean;
  /** `stopped` where it was ended from outside. */
  ended: 'won' | 'fell' | 'died' | 'finished' | 'stopped';
  seconds: number;
  steps: StepResult[];
  console: ConsoleLine[];
  findings: Finding[];
  position: Vec3;
}

/** Seconds that the player is left to settle before the first step, and after the last. */
const SETTLE = 2;
const LINGER = 1;

/**
 * Runs the map's trial steps in order and stops at the first that fails. A map without steps gets the
 * basic ones: settle, then operate every usable object once.
 *
 * @param beat called after every step
 */
export async function runTrial(inputs: TrialInputs, watcher: TrialWatcher = {}, beat: () => void = () => {}): Promise<TrialReport> {
  const world = await TrialWorld.begin(inputs, watcher);
  const step = (intent: Intent) => {
    world.step(intent);
    beat();
  };
  const rest = (seconds: number) => {
    for (let i = 0; i < seconds / TIME_STEP && !world.ended; i++) step(STILL);
  };
  rest(SETTLE);
  const own = inputs.map.settings.trial;
  const basic: TrialStep[] = [...world.objects]
    .filter(({ parts }) => parts.some(({ part }) => part.objective === 'operate'))
    .map((o) => ({ use: o.object.name }));
  const driver = new TrialDriver(inputs.profile, own.length > 0 ? own : basic, own.length > 0);
  if (world.ended !== 'fell' && world.ended !== 'died') while (!driver.done) step(driver.tick(world));
  const failed = driver.results.findIndex((result) => !result.ok);
  if (failed >= 0) {
    world.findings.push({
      code: 'trial-step',
      severity: 'blocker',
      stage: 'trial',
      message: `Step ${failed + 1} of the test run failed: ${driver.results[failed].detail}`,
      place: { map: inputs.map.name, point: [...world.walker.feet] },
    });
  }
  rest(LINGER);
  const report: TrialReport = {
    ok: !world.findings.some((f) => f.severity === 'blocker'),
    ended: world.ended ?? 'finished',
    seconds: Math.round(world.time * 100) / 100,
    steps: driver.results,
    console: world.console.lines,
    findings: world.findings,
    position: world.walker.feet.map((v) => Math.round(v * 100) / 100) as Vec3,
  };
  world.stop();
  return report;
}
