import { useEffect, useRef, useState } from 'react';
import { NoToneMapping, ReinhardToneMapping, type Object3D } from 'three';
import type { ProbeGrid } from '@violet-crate/core/stages/lighting/probes';
import { expandMap } from '@violet-crate/core/map/prefab';
import { decodeProbes } from '@violet-crate/core/stages/pack/probesBin';
import { message, request } from '../../api/http.ts';
import { selectWorld } from '../../state/world.ts';
import { store, useAppSelector } from '../../state/store.ts';
import type { AssetSource } from '../../api/assetUrl.ts';
import { groundInDaylight, type BuiltGround } from '../../three/builtGround.ts';
import { BuiltMap } from '../../three/builtMap.ts';
import { freeTree } from '../../three/stage3d.ts';
import type { PerspectiveScene } from './perspectiveScene.ts';

interface BuiltLight {
  /** There is a build to show, done or running. */
  offered: boolean;
  /** The built map stands in the solids' place. */
  stands: boolean;
  /** What is shown, or what went wrong; nothing where it is not asked for. */
  caption: string;
  problem: string;
  /** Light for props; null while there is none. */
  probes: ProbeGrid | null;
}

const bytesOf = async (url: string): Promise<ArrayBuffer> => (await request(url)).arrayBuffer();

/**
 * Shows the open map as it was built, with its lightmap, instead of the solids: the last build, or the one that is running
 * with its light as far as it is known.
 *
 * @param exposure what the light is multiplied by before it is fitted to the screen
 */
export function useBuiltLight(scene: PerspectiveScene | null, wanted: boolean, exposure: number, source: AssetSource | null): BuiltLight {
  const crateId = useAppSelector((s) => s.crate.view?.id ?? '');
  const mapName = useAppSelector((s) => s.map.name);
  const build = useAppSelector((s) => s.crate.builds?.find((one) => one.ok && one.map === mapName));
  const running = useAppSelector((s) => Object.values(s.jobs.pictures).find((picture) => picture.crateId === crateId && picture.map === mapName));
  const offered = Boolean(build ?? running);
  const shown = wanted && offered;
  const [problem, setProblem] = useState('');
  const [probes, setProbes] = useState<ProbeGrid | null>(null);
  const [stands, setStands] = useState(false);
  const current = useRef<{ map: BuiltMap; version: number } | null>(null);
  // The light of a map with moods is that of one of them.
  const mood = useAppSelector((s) => s.map.map?.settings.moods?.[(build?.parameters?.mood ?? 1) - 1]?.name);
  const runningId = running?.jobId;
  const version = running?.version ?? 0;

  useEffect(() => {
    if (!scene || !shown || !source || !(runningId ?? build)) return;
    let gone = false;
    let map: BuiltMap | null = null;
    let root: Object3D | null = null;
    let ground: BuiltGround | null = null;
    const load = async () => {
      const world = selectWorld(store.getState());
      if (!world) return;
      const folder = runningId ? `/api/jobs/${runningId}/picture` : `/api/crates/${crateId}/builds/${build!.id}/files/maps/${build!.map}`;
      const has = (name: string) => (runningId ? name !== 'probes.bin' : build!.artefacts.some((artefact) => artefact.path.endsWith(`/${name}`)));
      const [glb, light, grid] = await Promise.all(
        ['map.glb', 'lightmap.ktx2', 'probes.bin'].map((name) => (has(name) ? bytesOf(`${folder}/${name}`) : undefined)),
      );
      const open = !runningId && has('terrain.bin');
      map = new BuiltMap(world, source, scene.picture.renderer, open);
      root = await map.load(glb!, light);
      // What is computed still has no ground: the one that is edited stays in its place.
      if (open) {
        const whole = expandMap(world.crate.maps[mapName], world.profile);
        const read = async (name: string) => (has(name) ? bytesOf(`${folder}/${name}`) : undefined);
        ground = await groundInDaylight(world, source, scene.picture.renderer, map, whole, read);
      }
      if (gone) {
        ground?.dispose();
        return freeTree(root);
      }
      if (ground) scene.stand(ground);
      current.current = { map, version: 0 };
      scene.built.add(root);
      scene.showEdited(false);
      setStands(true);
      setProbes(grid ? decodeProbes(new Uint8Array(grid)) : null);
      scene.draw();
    };
    load().catch((error: unknown) => !gone && setProblem(message(error)));
    return () => {
      gone = true;
      current.current = null;
      scene.stand(null);
      ground?.dispose();
      if (root) {
        scene.built.remove(root);
        freeTree(root);
      }
      map?.dispose();
      scene.showEdited(true);
      setStands(false);
      setProblem('');
      setProbes(null);
      scene.draw();
    };
  }, [scene, crateId, mapName, build, runningId, shown, source]);

  // Later pictures of the same build bring their light only.
  useEffect(() => {
    const held = current.current;
    if (!scene || !shown || !runningId || !held || held.version >= version) return;
    held.version = version;
    bytesOf(`/api/jobs/${runningId}/picture/lightmap.ktx2`)
      .then((light) => held.map.setLight(light))
      .then(() => scene.draw())
      // The build has ended meanwhile: its result is shown in a moment.
      .catch(() => undefined);
  }, [scene, shown, runningId, version]);

  // Light is brighter and darker than a screen can show; the editing view has none that needs it.
  useEffect(() => {
    if (!scene) return;
    scene.picture.renderer.toneMapping = stands ? ReinhardToneMapping : NoToneMapping;
    scene.picture.renderer.toneMappingExposure = stands ? exposure : 1;
    scene.draw();
  }, [scene, stands, exposure]);

  const state = !stands ? 'loading …' : running ? 'light so far' : build?.fresh ? 'built' : 'built earlier';
  const told = stands && mood !== undefined ? `${state} for ${mood}` : state;
  return { offered, stands, caption: shown && !problem ? told : '', problem, probes };
}
