import { useEffect, useRef, useState } from 'react';
import type { Mesh } from 'three';
import {
  AmbientLight,
  AnimationMixer,
  AxesHelper,
  Color,
  DirectionalLight,
  GridHelper,
  Group,
  MeshBasicMaterial,
  MeshNormalMaterial,
  MeshStandardMaterial,
  Raycaster,
  Timer,
  Vector2,
  type AnimationAction,
  type Object3D,
} from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import type { GLTF } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { AssetRecord } from '@violet-crate/core/crate/manifest';
import type { Profile } from '@violet-crate/core/profile/schema';
import { themeColour } from '../theme/theme.ts';
import { playerFigure } from '../three/playerFigure.ts';
import { dressSlots, loadGltf } from '../three/assets3d.ts';
import type { AssetSource } from '../api/assetUrl.ts';
import { Stage3d } from '../three/stage3d.ts';
import { densityRange, highlightTriangles, paintDensity, testPattern } from './modelOverlays.ts';

const LOOKS = [
  ['shaded', 'Shaded'],
  ['wires', 'Wireframe'],
  ['normals', 'Normals'],
  ['pattern', 'Texture layout'],
  ['density', 'Texel density'],
] as const;
type Look = (typeof LOOKS)[number][0];

interface Props {
  source: AssetSource;
  profile: Profile;
  path: string;
  record: AssetRecord;
  /** Triangles to point out, numbered through all parts. */
  highlight: readonly number[] | null;
  /** Called with the point picked as pivot: game units about the present pivot, z up. */
  onPick?(point: [number, number, number]): void;
}

interface Shown {
  stage: Stage3d;
  gltf: GLTF;
  overlay: Group;
}

/** A model on the floor plane beside a player-sized figure; drag to turn, wheel to come nearer. */
export function ModelViewer({ source, profile, path, record, highlight, onPick }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const [shown, setShown] = useState<Shown | null>(null);
  const [failed, setFailed] = useState(false);
  const [look, setLook] = useState<Look>('shaded');
  const [level, setLevel] = useState(0);
  const [bodies, setBodies] = useState(false);
  const [clip, setClip] = useState('');
  const [picking, setPicking] = useState(false);
  const [density, setDensity] = useState('');
  const bounds = record.bounds!;
  const boundsKey = JSON.stringify(bounds);

  useEffect(() => {
    const box = JSON.parse(boundsKey) as typeof bounds;
    const stage = new Stage3d(host.current!, themeColour('--vc-sunken'));
    const m = profile.unit.metres;
    const size = Math.max(...[0, 1, 2].map((axis) => box.max[axis] - box.min[axis]), profile.player.height) * m;
    const key = new DirectionalLight('#fff1dd', 2.2);
    key.position.set(2, 4, 3);
    const rim = new DirectionalLight('#b79cf0', 1.1);
    rim.position.set(-3, 2, -3);
    stage.scene.add(new AmbientLight('#ffffff', 0.7), key, rim);
    stage.scene.add(new GridHelper(Math.ceil(size * 4), Math.ceil(size * 4), themeColour('--vc-violet'), themeColour('--vc-line')));
    stage.scene.add(new AxesHelper(size * 0.15));
    const figure = playerFigure(profile);
    figure.position.set((box.max[0] + profile.player.radius * 2.5) * m, 0, 0);
    stage.scene.add(figure);
    const overlay = new Group();
    stage.scene.add(overlay);
    const middle = ((box.min[2] + box.max[2]) / 2) * m;
    // Aimed between model and figure, so that both are seen.
    const aim = figure.position.x / 2;
    stage.camera.position.set(aim + size * 0.65, middle + size * 0.5, size * 1.35);
    stage.camera.near = size / 500;
    stage.camera.far = size * 60;
    const controls = new OrbitControls(stage.camera, stage.renderer.domElement);
    controls.target.set(aim, middle, 0);
    controls.update();
    controls.addEventListener('change', () => stage.draw());
    let gone = false;
    loadGltf(source, path)
      .then((gltf) => {
        if (gone) return;
        stage.scene.add(...gltf.scenes);
        dressSlots(gltf.scene, source, () => stage.draw());
        setShown({ stage, gltf, overlay });
        stage.draw();
      })
      .catch(() => gone || setFailed(true));
    stage.draw();
    return () => {
      gone = true;
      setShown(null);
      controls.dispose();
      stage.dispose();
    };
  }, [source, profile, path, boundsKey]);

  // What is drawn of the model, and how.
  useEffect(() => {
    if (!shown) return;
    const { stage, gltf, overlay } = shown;
    const active = level === 0 ? gltf.scene : (gltf.scenes.find((scene) => scene.name === `lod${level}`) ?? gltf.scene);
    for (const scene of gltf.scenes) scene.visible = scene === active || (bodies && scene.name === 'collision');
    const wires = new MeshBasicMaterial({ color: themeColour('--vc-violet'), wireframe: true });
    const normals = new MeshNormalMaterial();
    const pattern = new MeshStandardMaterial({ map: testPattern(), roughness: 1 });
    const painted = new MeshBasicMaterial({ vertexColors: true });
    const replacement = { wires, normals, pattern, density: painted } as const;
    let range: [number, number] | null = null;
    active.traverse((child) => {
      const mesh = child as Mesh;
      if (!mesh.isMesh) return;
      mesh.userData.own ??= mesh.material;
      if (look === 'density') range = densityRange(range, paintDensity(mesh, profile.unit.metres));
      mesh.material = look === 'shaded' ? (mesh.userData.own as Mesh['material']) : replacement[look];
    });
    setDensity(look === 'density' && range ? `${Math.round(range[0])} to ${Math.round(range[1])} texels per 100 ${profile.unit.plural}` : '');
    gltf.scenes
      .find((scene) => scene.name === 'collision')
      ?.traverse((child) => {
        const mesh = child as Mesh;
        if (mesh.isMesh) mesh.material = new MeshBasicMaterial({ color: new Color(themeColour('--vc-warm')), wireframe: true });
      });
    overlay.clear();
    if (highlight && highlight.length > 0) overlay.add(highlightTriangles(gltf.scene, highlight, themeColour('--vc-warm')));
    stage.draw();
  }, [shown, look, level, bodies, highlight, profile]);

  useEffect(() => {
    if (!shown || clip === '') return;
    const { stage, gltf } = shown;
    const wanted = gltf.animations.find((animation) => animation.name === clip);
    if (!wanted) return;
    const mixer = new AnimationMixer(gltf.scene);
    const action: AnimationAction = mixer.clipAction(wanted).play();
    const timer = new Timer();
    let frame = requestAnimationFrame(function tick() {
      timer.update();
      mixer.update(timer.getDelta());
      stage.draw();
      frame = requestAnimationFrame(tick);
    });
    return () => {
      cancelAnimationFrame(frame);
      action.stop();
      mixer.uncacheRoot(gltf.scene);
      stage.draw();
    };
  }, [shown, clip]);

  const pick = (event: React.PointerEvent) => {
    if (!picking || !shown || !onPick) return;
    const { stage, gltf } = shown;
    const rect = stage.renderer.domElement.getBoundingClientRect();
    const ray = new Raycaster();
    ray.setFromCamera(
      new Vector2(((event.clientX - rect.left) / rect.width) * 2 - 1, 1 - ((event.clientY - rect.top) / rect.height) * 2),
      stage.camera,
    );
    const [hit] = ray.intersectObject(gltf.scene as Object3D, true);
    if (!hit) return;
    const { x, y, z } = hit.point.divideScalar(profile.unit.metres);
    setPicking(false);
    onPick([x, -z, y]);
  };

  return (
    <div className="viewer panel">
      <div
        ref={host}
        className="stage"
        role="img"
        aria-label={`${path} beside a player-sized figure`}
        data-loaded={shown !== null}
        style={{ cursor: picking ? 'crosshair' : 'grab' }}
        onPointerDown={pick}
      />
      {failed && <div className="viewer-note severity blocker">The model cannot be shown.</div>}
      {picking && <div className="viewer-note">Click the point of the model that becomes its pivot.</div>}
      {density && <div className="viewer-note">{density}; light is dense</div>}
      <div className="viewer-bar">
        <div className="btn-group btn-group-sm" role="group" aria-label="How it is drawn">
          {LOOKS.map(([id, word]) => (
            <button key={id} className="btn btn-quiet" aria-pressed={look === id} onClick={() => setLook(id)}>
              {word}
            </button>
          ))}
        </div>
        {record.collision && (
          <button className="btn btn-quiet btn-sm" aria-pressed={bodies} onClick={() => setBodies(!bodies)}>
            Collision shape
          </button>
        )}
        {(record.lods?.length ?? 0) > 0 && (
          <>
            <label className="visually-hidden" htmlFor="viewer-level">
              Level of detail
            </label>
            <select
              id="viewer-level"
              className="form-select form-select-sm w-auto"
              value={level}
              onChange={(event) => setLevel(Number(event.target.value))}
            >
              <option value={0}>Full detail</option>
              {record.lods!.map((_, i) => (
                <option key={i} value={i + 1}>
                  Level {i + 1}
                </option>
              ))}
            </select>
          </>
        )}
        {(record.clips?.length ?? 0) > 0 && (
          <>
            <label className="visually-hidden" htmlFor="viewer-clip">
              Clip
            </label>
            <select id="viewer-clip" className="form-select form-select-sm w-auto" value={clip} onChange={(event) => setClip(event.target.value)}>
              <option value="">At rest</option>
              {record.clips!.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </>
        )}
        {onPick && (
          <button className="btn btn-quiet btn-sm" aria-pressed={picking} onClick={() => setPicking(!picking)}>
            Pick the pivot
          </button>
        )}
      </div>
    </div>
  );
}
