/** Walks of a map on the server, and playing all of them without a picture. */

import type { CrateWorld } from '@violet-crate/core/crate/world';
import { LiveMap } from '@violet-crate/core/trial/liveMap';
import { TrialWatchdog } from '@violet-crate/core/trial/watchdog';
import type { WalkReport } from '@violet-crate/core/trial/record';
import { readWalk, walkPath } from '@violet-crate/core/trial/walkFiles';
import type { Walk } from '@violet-crate/core/trial/walk';
import type { TrialInputs } from '@violet-crate/core/trial/world';
import { remove, request, sendJson } from '../api/http.ts';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';
import { pageWorker, type StartWorker } from './trialRun.ts';

export const saveWalk = (crateId: string, map: string, name: string, walk: Walk): Promise<unknown> =>
  sendJson('PUT', `/api/crates/${crateId}/walks/${map}/${name}`, { walk });

export const removeWalk = (crateId: string, map: string, name: string): Promise<void> =>
  remove(`/api/crates/${crateId}/files/${walkPath(map, name)}`);

export async function loadWalk(source: AssetSource, map: string, name: string): Promise<Walk> {
  const path = walkPath(map, name);
  return readWalk(await (await request(fileUrl(source, path))).text(), path, map);
}

/** Plays walks back in a worker of their own, in the map as it is now. @throws Error with a sentence where a run did not come back */
export function playWalks(
  inputs: TrialInputs,
  world: CrateWorld,
  walks: Record<string, Walk>,
  start: StartWorker = pageWorker,
): Promise<WalkReport[]> {
  const edit = new LiveMap(inputs.map, inputs.collision).follow(world)?.edit;
  return new Promise((resolve, reject) => {
    const worker = start(
      (news) => watchdog.hear(news),
      (reason) => watchdog.died(reason),
    );
    const watchdog = new TrialWatchdog(worker, {
      heard: (news) => {
        if (news.type !== 'walked') return;
        watchdog.end();
        resolve(news.reports);
      },
      stopped: (finding) => reject(new Error(finding.message)),
    });
    watchdog.say({ type: 'walks', inputs: { ...inputs, scripts: world.crate.scripts }, walks, ...(edit ? { edit } : {}) });
  });
}
