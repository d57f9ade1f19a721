/** Plays all walks of the main map on its last build, without a picture: for the check before publishing. */

import wasmUri from 'wasmoon/dist/glue.wasm?url';
import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { walksAmong } from '@violet-crate/core/trial/walkFiles';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { loadWalk, playWalks } from '../trial/walks.ts';

export interface WalksPlayed {
  passed: string[];
  failed: string[];
}

/** @throws Error with a sentence where a run did not come back */
export async function checkWalks(world: CrateWorld, build: Build, source: AssetSource): Promise<WalksPlayed> {
  const file = (name: string) => request(`/api/crates/${source.view.id}/builds/${build.id}/files/maps/${build.map}/${name}`);
  const [map, collision] = await Promise.all([
    file('map.json').then((answer) => answer.json() as Promise<RuntimeMap>),
    file('collision.bin').then(async (answer) => decodeCollision(new Uint8Array(await answer.arrayBuffer()))),
  ]);
  const names = walksAmong(
    source.view.files.map(({ path }) => path),
    build.map,
  );
  const walks = Object.fromEntries(await Promise.all(names.map(async (name) => [name, await loadWalk(source, build.map, name)] as const)));
  const { reports } = await playWalks({ profile: world.profile, map, collision, scripts: world.crate.scripts, wasmUri }, world, walks);
  const failed = reports.filter(({ ok }) => !ok).map(({ name }) => name);
  return { failed, passed: names.filter((name) => !failed.includes(name)) };
}
