import { useEffect, useRef, useState } from 'react';
import { Box3, Color, ReinhardToneMapping, Vector3, type Object3D } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { expandMap } from '@violet-crate/core/map/prefab';
import { decodeNavigation } from '@violet-crate/core/stages/pack/navBin';
import { decodeVisibilityFile, groupsSeenFrom, sectorAt, type VisibilityFile } from '@violet-crate/core/stages/pack/visibilityBin';
import type { NavigationOutput } from '@violet-crate/core/stages/navigation/stage';
import { message, request } from '../api/http.ts';
import type { Build } from '../api/types.ts';
import { selectWorld } from '../state/world.ts';
import { store, useAppSelector } from '../state/store.ts';
import { groundInDaylight, type BuiltGround } from '../three/builtGround.ts';
import { BuiltMap } from '../three/builtMap.ts';
import { Stage3d } from '../three/stage3d.ts';
import { dressFor, LOOKS, navigationLines, type Look } from './resultLooks.ts';

interface Parts {
  stage: Stage3d;
  controls: OrbitControls;
  built: BuiltMap;
  root: Object3D;
  visibility: VisibilityFile;
  navigation: NavigationOutput | null;
  walkable: Object3D;
  /** Null where the map has none. */
  ground: BuiltGround | null;
}

/** What a build made, to be looked at from every side: its light, its sectors, what is seen from here, where one walks. */
export function ResultViewer({ build, crateId }: { build: Build; crateId: string }) {
  const host = useRef<HTMLDivElement>(null);
  const view = useAppSelector((s) => s.crate.view)!;
  const profile = useAppSelector((s) => s.crate.profile)!;
  const [parts, setParts] = useState<Parts | null>(null);
  const [look, setLook] = useState<Look>('built');
  const [exposure, setExposure] = useState(1.5);
  const [here, setHere] = useState('');
  const [problem, setProblem] = useState('');
  const m = profile.unit.metres;

  useEffect(() => {
    const stage = new Stage3d(host.current!, '#17101d');
    stage.renderer.toneMapping = ReinhardToneMapping;
    const controls = new OrbitControls(stage.camera, stage.renderer.domElement);
    let gone = false;
    let built: BuiltMap | null = null;
    let ground: BuiltGround | null = null;
    const load = async () => {
      const world = selectWorld(store.getState());
      if (!world) return;
      const file = async (name: string) =>
        new Uint8Array(await (await request(`/api/crates/${crateId}/builds/${build.id}/files/maps/${build.map}/${name}`)).arrayBuffer());
      const has = (name: string) => build.artefacts.some((artefact) => artefact.path.endsWith(`/${name}`));
      if (!has('visibility.bin')) throw new Error('This build was made by an earlier version. Build the map again.');
      const [glb, light, visibility, navigation] = await Promise.all([
        file('map.glb'),
        has('lightmap.ktx2') ? file('lightmap.ktx2') : null,
        file('visibility.bin').then(decodeVisibilityFile),
        has('nav.bin') ? file('nav.bin').then(decodeNavigation) : null,
      ]);
      const source = { view, profileId: profile.id };
      built = new BuiltMap(world, source, stage.renderer, has('terrain.bin'));
      const root = await built.load(glb.buffer, light?.buffer);
      const map = expandMap(world.crate.maps[build.map], world.profile);
      ground = await groundInDaylight(world, source, stage.renderer, built, map, async (name) => (has(name) ? (await file(name)).buffer : undefined));
      if (gone) {
        ground?.dispose();
        return built.dispose();
      }
      const walkable = navigation ? navigationLines(navigation, visibility, m) : null;
      stage.scene.add(root, ...(walkable ? [walkable] : []), ...(ground ? [ground.group] : []));
      const box = new Box3().setFromObject(ground?.group ?? root);
      const size = box.getSize(new Vector3()).length();
      box.getCenter(controls.target);
      // Wide maps reach farther than rooms; depth is told apart in shares of the nearest.
      stage.camera.far = Math.max(stage.camera.far, size * 3);
      stage.camera.near = Math.max(stage.camera.near, size / 20_000);
      stage.camera.updateProjectionMatrix();
      stage.camera.position.copy(controls.target).add(new Vector3(-0.25, 0.5, 0.42).multiplyScalar(size));
      controls.update();
      controls.addEventListener('change', () => stage.draw());
      setParts({ stage, controls, built, root, visibility, navigation, walkable: walkable ?? root.clone(false), ground });
    };
    load().catch((error) => !gone && setProblem(message(error)));
    return () => {
      gone = true;
      controls.dispose();
      ground?.dispose();
      built?.dispose();
      stage.dispose();
    };
    // A build never changes; another one is another viewer.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [build.id]);

  useEffect(() => {
    if (!parts) return;
    const { stage, controls, built, visibility, ground } = parts;
    stage.renderer.toneMappingExposure = exposure;
    stage.scene.background = new Color(look === 'overdraw' ? '#000000' : '#17101d');
    dressFor(look, built, visibility);
    parts.walkable.visible = look === 'walkable';
    if (ground) {
      // Sectors, layers and texels are of solids.
      ground.group.visible = look !== 'sectors' && look !== 'overdraw' && look !== 'texels';
      ground.showEdges(look === 'triangles');
    }
    const fromHere = () => {
      const { x, y, z } = stage.camera.position;
      const eye: [number, number, number] = [x / m, -z / m, y / m];
      ground?.update(eye);
      if (look !== 'seen') return;
      const seen = groupsSeenFrom(visibility, eye);
      built.groups.forEach((node, group) => (node.visible = seen[group]));
      const sector = sectorAt(visibility, eye);
      setHere(
        sector < 0
          ? 'The eye is in no sector: everything is drawn. Come nearer with the wheel until you are inside.'
          : `In sector ${sector}: ${seen.filter(Boolean).length} of ${seen.length} groups are drawn.`,
      );
    };
    fromHere();
    controls.addEventListener('change', fromHere);
    stage.draw();
    return () => {
      controls.removeEventListener('change', fromHere);
      built.groups.forEach((node) => (node.visible = true));
      setHere('');
    };
  }, [parts, look, exposure, m]);

  return (
    <div className="result-viewer" data-testid="result-viewer" data-look={look} data-ready={parts !== null}>
      <div className="px-3 py-2 d-flex gap-2 flex-wrap align-items-center">
        <div className="btn-group flex-wrap" role="radiogroup" aria-label="What is shown">
          {LOOKS.map(({ id, label, explains }) => (
            <button
              key={id}
              role="radio"
              aria-checked={look === id}
              className={`btn btn-quiet btn-sm ${look === id ? 'active' : ''}`}
              title={explains}
              onClick={() => setLook(id)}
            >
              {label}
            </button>
          ))}
        </div>
        <label className="small d-flex align-items-center gap-2">
          Exposure
          <input type="range" min={0.2} max={6} step={0.1} value={exposure} onChange={(e) => setExposure(Number(e.target.value))} />
        </label>
      </div>
      <div className="canvas">
        <div ref={host} className="w-100 h-100" role="application" aria-label="The built map: drag to turn, wheel to come nearer" tabIndex={0} />
        {!parts && !problem && <div className="empty position-absolute top-50 start-50 translate-middle">Loading …</div>}
        {problem && <div className="severity blocker position-absolute top-50 start-50 translate-middle">{problem}</div>}
      </div>
      <div className="px-3 py-1 small faint" role="status">
        {here || LOOKS.find(({ id }) => id === look)!.explains}
      </div>
    </div>
  );
}
