/** Inputs of test runs for tests: a small map as if it had been built. */

import type { GameMap, MapObject, Signal, Solid } from '../document/schema.ts';
import { emptyMap } from '../profile/emptyMap.ts';
import { collisionOf, type Collision } from '../stages/pack/collisionBin.ts';
import { runtimeMap } from '../stages/pack/runtime.ts';
import type { TrialInputs } from '../trial/world.ts';
import { testProfile } from './world.ts';

const profile = testProfile();

/** @param scripts texts by path; one text is `scripts/main.lua` */
export function trialInputs(
  solids: readonly Solid[],
  objects: Record<string, MapObject>,
  signals: Record<string, Signal> = {},
  scripts: string | Record<string, string> = '',
  trial: GameMap['settings']['trial'] = [],
): TrialInputs {
  const sources = typeof scripts === 'string' ? { 'scripts/main.lua': scripts } : scripts;
  const map: GameMap = { ...emptyMap(profile), solids: Object.fromEntries(solids.map((s, i) => [`s${i + 1}`, s])), objects, signals };
  map.settings.trial = trial;
  return {
    profile,
    map: runtimeMap({ name: 'hall', map, scripts: sources, models: {} }, {}),
    collision: testCollision(map.solids),
    scripts: sources,
  };
}

/** Solids of no stated surface, as a build has them. */
export const testCollision = (solids: Record<string, Solid>): Collision =>
  collisionOf(Object.fromEntries(Object.entries(solids).map(([id, solid]) => [id, { solid, surfaces: [] }])));
