/** Walks of a map on the server, and playing all of them without a picture. */

import type { CrateWorld } from '@violet-crate/core/crate/world';
import { LiveMap } from '@violet-crate/core/trial/liveMap';
import type { CoverageData } from '@violet-crate/core/trial/coverage';
import type { Exploration } from '@violet-crate/core/trial/explore';
import type { WalkReport } from '@violet-crate/core/trial/record';
import { readWalk, walkPath } from '@violet-crate/core/trial/walkFiles';
import type { Walk } from '@violet-crate/core/trial/walk';
import type { TrialInputs } from '@violet-crate/core/trial/world';
import { remove, request, sendJson } from '../api/http.ts';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { inWorker } from './inWorker.ts';
import type { StartWorker } from './trialRun.ts';

export const saveWalk = (crateId: string, map: string, name: string, walk: Walk): Promise<unknown> =>
  sendJson('PUT', `/api/crates/${crateId}/walks/${map}/${name}`, { walk });

export const removeWalk = (crateId: string, map: string, name: string): Promise<void> =>
  remove(`/api/crates/${crateId}/files/${walkPath(map, name)}`);

export async function loadWalk(source: AssetSource, map: string, name: string): Promise<Walk> {
  const path = walkPath(map, name);
  return readWalk(await (await request(fileUrl(source, path))).text(), path, map);
}

/** A run's inputs with the scripts of the crate as they are now, and what has changed in its map since the build. */
function asNow(inputs: TrialInputs, world: CrateWorld) {
  const edit = new LiveMap(inputs.map, inputs.collision).follow(world)?.edit;
  return { inputs: { ...inputs, scripts: world.crate.scripts, data: world.crate.data }, ...(edit ? { edit } : {}) };
}

/** Plays walks back in the map as it is now, and says what they came by. @throws Error with a sentence where a run did not come back */
export async function playWalks(
  inputs: TrialInputs,
  world: CrateWorld,
  walks: Record<string, Walk>,
  start?: StartWorker,
): Promise<{ reports: WalkReport[]; coverage: CoverageData }> {
  const { reports, coverage } = await inWorker({ type: 'walks', ...asNow(inputs, world), walks, coverage: true }, 'walked', {
    start,
  });
  return { reports, coverage: coverage! };
}

/** Lets the explorer try everything in the map as it was built. @throws Error with a sentence where it did not come back */
export async function exploreMap(
  inputs: TrialInputs,
  world: CrateWorld,
  { seconds, seed, stop }: { seconds: number; seed: number; stop: AbortSignal },
  start?: StartWorker,
): Promise<Exploration> {
  const order = { type: 'explore' as const, inputs: { ...inputs, scripts: world.crate.scripts, data: world.crate.data }, seed, seconds };
  return (await inWorker(order, 'explored', { start, stop })).exploration;
}
