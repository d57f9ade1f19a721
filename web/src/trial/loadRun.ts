/** Fetches a built map and begins a run of it. */

import type { WebGLRenderer } from 'three';
import wasmUri from 'wasmoon/dist/glue.wasm?url';
import { decodeCollision, type Collision } from '@violet-crate/core/stages/pack/collisionBin';
import type { Navmesh } from '@violet-crate/core/stages/navigation/navmesh';
import { decodeNavigation } from '@violet-crate/core/stages/pack/navBin';
import { decodeProbes } from '@violet-crate/core/stages/pack/probesBin';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { decodeVisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import { Fields } from '@violet-crate/core/trial/fields';
import { LiveMap } from '@violet-crate/core/trial/liveMap';
import type { Walk } from '@violet-crate/core/trial/walk';
import type { SoundCells } from '@violet-crate/core/bed/space';
import { soundCells, type SoundFile } from '@violet-crate/core/stages/pack/soundFile';
import { expandMap } from '@violet-crate/core/map/prefab';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import { factOf } from '@violet-crate/core/profile/parts';
import { request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { sharedWorker } from './sharedRun.ts';
import { TrialOverlays } from './overlays.ts';
import { TrialRun, type Hang } from './trialRun.ts';
import { TrialScene } from './trialScene.ts';

export interface LoadedRun {
  run: TrialRun;
  scene: TrialScene;
  /** What the run has of the map. */
  live: LiveMap;
  /** The ground of the run. */
  fields: Fields;
  /** Where players walk; null where the build left that out. */
  navigation: Navmesh | null;
  /** What lies behind the picture; nothing of it is shown at first. */
  overlays: TrialOverlays;
  /** How sound goes through the map; null where the build has no sound areas. */
  sound: SoundCells | null;
  /** Where the player looks at first, radians. */
  yaw: number;
}

/**
 * @param shared number of a run on the server that is joined instead of beginning one
 * @param walk played back instead of being walked
 * @param alive false once the page has gone elsewhere; then what was begun is ended and null comes back
 */
export async function loadRun(
  world: CrateWorld,
  build: Build,
  source: AssetSource,
  renderer: WebGLRenderer,
  { walk, shared, hangs }: { walk?: Walk; shared?: string; hangs(hang: Hang | null): void },
  alive: () => boolean,
): Promise<LoadedRun | null> {
  const file = async (name: string) => request(`/api/crates/${source.view.id}/builds/${build.id}/files/maps/${build.map}/${name}`);
  const binary = async (name: string) => new Uint8Array(await (await file(name)).arrayBuffer());
  const has = (name: string) => build.artefacts.some((artefact) => artefact.path.endsWith(`/${name}`));
  if (!has('collision.bin')) throw new Error(OLD_BUILD);
  const [glb, light, map, collision, visibility, probes, navigation, sound] = await Promise.all([
    file('map.glb').then((r) => r.arrayBuffer()),
    has('lightmap.ktx2') ? file('lightmap.ktx2').then((r) => r.arrayBuffer()) : undefined,
    file('map.json').then((r) => r.json() as Promise<RuntimeMap>),
    binary('collision.bin').then(collisionOrOld),
    binary('visibility.bin').then(decodeVisibilityFile),
    has('probes.bin') ? binary('probes.bin').then(decodeProbes) : null,
    has('nav.bin') ? binary('nav.bin').then(decodeNavigation) : null,
    has('sound.json') ? file('sound.json').then(async (r) => soundCells((await r.json()) as SoundFile)) : null,
  ]);
  if (!alive()) return null;
  const run: TrialRun = new TrialRun(shared === undefined ? undefined : sharedWorker(shared), (finding) =>
    hangs(finding && { finding, wait: () => run.wait(), end: () => run.giveUp() }),
  );
  try {
    await run.begin({ profile: world.profile, map, collision, scripts: world.crate.scripts, data: world.crate.data, wasmUri }, walk);
    const whole = expandMap(world.crate.maps[build.map], world.profile);
    const scene = new TrialScene(world, run.objects, source, renderer, { visibility, probes }, collision.grounds.length > 0, whole);
    scene.litMood = build.parameters?.mood ?? 1;
    await scene.load(glb, light, map.settings, async (name) => (has(name) ? (await file(name)).arrayBuffer() : undefined));
    if (!alive()) {
      scene.dispose();
      run.end();
      return null;
    }
    // Who comes into a run of others has stood there for some steps already.
    const [x, y] = run.state!.feet;
    const start = [...run.objects.values()].find(
      ({ object: { class: id, position } }) => factOf(world.profile, id, 'start') && Math.hypot(position[0] - x, position[1] - y) < 1,
    );
    const overlays = new TrialOverlays({ profile: world.profile, collision, probes, navigation, objects: run.objects });
    scene.scene.add(overlays.group);
    const fields = new Fields(collision.grounds, world.profile.player.height);
    return { run, scene, sound, fields, overlays, navigation, live: new LiveMap(map, collision), yaw: ((start?.object.turn ?? 0) * Math.PI) / 180 };
  } catch (error) {
    run.end();
    throw Object.assign(error as Error, { findings: run.findings });
  }
}

const OLD_BUILD = 'This build was made by an earlier version. Build the map again.';

function collisionOrOld(bytes: Uint8Array): Collision {
  try {
    return decodeCollision(bytes);
  } catch {
    throw new Error(OLD_BUILD);
  }
}
