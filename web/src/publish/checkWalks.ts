/** Plays all walks of the main map on its last build, without a picture: for the check before publishing. */

import wasmUri from 'wasmoon/dist/glue.wasm?url';
import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { walksAmong } from '@violet-crate/core/trial/walkFiles';
import type { Finding } from '@violet-crate/core/finding';
import type { TrialInputs } from '@violet-crate/core/trial/world';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { exploreMap, loadWalk, playWalks } from '../trial/walks.ts';

export interface WalksPlayed {
  passed: string[];
  failed: string[];
}

export interface Explored {
  complete: boolean;
  findings: Finding[];
}

/** Seconds that the explorer takes at most. */
const TRIES = 20;

async function inputsOf(world: CrateWorld, build: Build, source: AssetSource): Promise<TrialInputs> {
  const file = (name: string) => request(`/api/crates/${source.view.id}/builds/${build.id}/files/maps/${build.map}/${name}`);
  const [map, collision] = await Promise.all([
    file('map.json').then((answer) => answer.json() as Promise<RuntimeMap>),
    file('collision.bin').then(async (answer) => decodeCollision(new Uint8Array(await answer.arrayBuffer()))),
  ]);
  return { profile: world.profile, map, collision, scripts: world.crate.scripts, data: world.crate.data, wasmUri };
}

/** Lets the explorer try everything in the built map. @throws Error with a sentence where it did not come back */
export async function checkByExploring(world: CrateWorld, build: Build, source: AssetSource): Promise<Explored> {
  const stop = new AbortController().signal;
  const { complete, findings } = await exploreMap(await inputsOf(world, build, source), world, { seconds: TRIES, seed: 1, stop });
  return { complete, findings };
}

/** @throws Error with a sentence where a run did not come back */
export async function checkWalks(world: CrateWorld, build: Build, source: AssetSource): Promise<WalksPlayed> {
  const names = walksAmong(
    source.view.files.map(({ path }) => path),
    build.map,
  );
  const walks = Object.fromEntries(await Promise.all(names.map(async (name) => [name, await loadWalk(source, build.map, name)] as const)));
  const { reports } = await playWalks(await inputsOf(world, build, source), world, walks);
  const failed = reports.filter(({ ok }) => !ok).map(({ name }) => name);
  return { failed, passed: names.filter((name) => !failed.includes(name)) };
}
