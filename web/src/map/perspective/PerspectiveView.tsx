import { useEffect, useMemo, useRef, useState } from 'react';
import { AmbientLight, Color, Group, Plane, Vector3, type Object3D } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { copyOf, expandMap } from '@violet-crate/core/map/prefab';
import { membersBox } from '@violet-crate/core/map/member/members';
import { boxCentre, boxOfPoints } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { lookOf } from '../../part/looks.ts';
import { selectWorld } from '../../state/world.ts';
import { store, useAppDispatch, useAppSelector } from '../../state/store.ts';
import type { AssetSource } from '../../api/assetUrl.ts';
import { freeTree, Stage3d } from '../../three/stage3d.ts';
import { provideCamera } from '../editing/camera.ts';
import { paint } from '../editing/edits.ts';
import { FlyCamera } from './fly.ts';
import { edited } from '../../state/mapSlice.ts';
import {
  editingLights,
  ghostGroup,
  linksGroup,
  objectGroup,
  ObjectsScene,
  playerFigure,
  previewLights,
  selectionGroup,
  SolidsScene,
  trailGroup,
} from './mapScene.ts';
import { pickPerspective, pointerRay, type Hit, type Ray } from './perspectivePick.ts';
import { storePicture } from '../editing/picture.ts';
import { ASSET_DRAG, draggedAsset } from '../../common/assetDrag.ts';
import { currentGhost, onGhost } from '../editing/ghost.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { lightByProbes } from '../../three/probeLit.ts';
import { useBuiltLight } from './useBuiltLight.ts';
import { usePerspectiveDrag, type DragScene } from './usePerspectiveDrag.ts';
import { emptySelection, isEmpty, isShown, selected, viewChanged } from '../../state/viewSlice.ts';

interface Parts {
  stage: Stage3d;
  controls: OrbitControls;
  solids: SolidsScene;
  objects: ObjectsScene;
  marks: Group;
  links: Group;
  lights: Group;
  figure: Group;
  draft: Group;
  ghost: Group;
  built: Group;
}

/** Replaces what a group holds and frees the old. */
function refill(group: Group, ...next: Group[]): void {
  freeTree(group);
  group.clear();
  if (next.length > 0) group.add(...next);
}

/**
 * The map in perspective: drag to turn, right-drag to move, wheel to come nearer, click to select a face; what is
 * selected can be dragged (`usePerspectiveDrag`).
 */
export function PerspectiveView() {
  const dispatch = useAppDispatch();
  const { map, whole, profile, view, band } = useDocument();
  const mapName = useAppSelector((s) => s.map.name);
  const opened = useAppSelector((s) => s.map.opened);
  const real = useAppSelector((s) => s.map.map)!;
  // Around an opened prefab stands the rest of its map, to be seen but not touched.
  const shownSolids = useMemo(() => {
    if (!opened) return whole.solids;
    const { [opened]: _own, ...copies } = real.copies;
    const around = expandMap({ ...real, copies }, profile).solids;
    return { ...Object.fromEntries(Object.entries(around).map(([id, solid]) => [`around_${id}`, solid])), ...whole.solids };
  }, [opened, real, whole, profile]);
  const crate = useAppSelector((s) => s.crate.view);
  const base = useAppSelector((s) => s.crate.base);
  const colours = useSheetColours();
  const host = useRef<HTMLDivElement>(null);
  const [parts, setParts] = useState<Parts | null>(null);
  const [exposure, setExposure] = useState(1.5);
  const [taken, setTaken] = useState(false);
  const [speed, setSpeed] = useState('');
  const m = profile.unit.metres;
  const source = useMemo((): AssetSource | null => crate && { view: crate, profileId: profile.id }, [crate, profile]);
  const files = crate?.files;
  const materials = crate?.manifest.materials;
  const game = view.look === 'game';
  const lit = game || view.lit;

  useEffect(() => {
    const stage = new Stage3d(host.current!, '#17101d');
    const controls = new OrbitControls(stage.camera, stage.renderer.domElement);
    const [marks, links, lights, figure, draft, ghost, built] = Array.from({ length: 7 }, () => new Group());
    const [solids, objects] = [new SolidsScene(), new ObjectsScene()];
    stage.scene.add(solids.group, objects.group, marks, links, lights, figure, draft, ghost, built);
    controls.addEventListener('change', () => stage.draw());
    setParts({ stage, controls, solids, objects, marks, links, lights, figure, draft, ghost, built });
    return () => {
      controls.dispose();
      stage.dispose();
    };
  }, []);

  useEffect(() => {
    if (!parts) return;
    const back = (p: Vector3): Vec3 => [p.x / m, -p.z / m, p.y / m];
    provideCamera({
      get: () => ({ position: back(parts.stage.camera.position), target: back(parts.controls.target) }),
      set: ({ position, target }) => {
        parts.stage.camera.position.set(...toGltf(position, m));
        parts.controls.target.set(...toGltf(target, m));
        parts.controls.update();
        parts.stage.draw();
      },
    });
    return () => provideCamera(null);
  }, [parts, m]);

  // Where the camera first stands: above a corner, looking over everything.
  const framed = useRef('');
  useEffect(() => {
    if (!parts || !crate || framed.current === crate.id) return;
    framed.current = crate.id;
    const boxes = Object.values(whole.solids).map((s) => shapeOf(s).box);
    const all = boxes.length > 0 ? boxOfPoints(boxes.flatMap((b) => [b.min, b.max])) : { min: [-256, -256, 0], max: [256, 256, 128] };
    const size = Math.max(all.max[0] - all.min[0], all.max[1] - all.min[1]);
    const middle = [(all.min[0] + all.max[0]) / 2, (all.min[1] + all.max[1]) / 2, band.bottom] as [number, number, number];
    parts.controls.target.set(...toGltf(middle, m));
    parts.stage.camera.position.set(...toGltf([middle[0] - size * 0.35, middle[1] - size * 0.75, middle[2] + size * 0.75], m));
    parts.controls.update();
  }, [parts, crate, whole, band, m]);

  useEffect(() => {
    if (!parts) return;
    parts.stage.scene.background = new Color(game ? map.settings.skyColour : colours.sunken);
    parts.stage.draw();
  }, [parts, colours, game, map.settings.skyColour]);

  useEffect(() => {
    if (!parts) return;
    parts.stage.camera.fov = view.fieldOfView;
    parts.stage.camera.far = view.far * m;
    parts.stage.camera.updateProjectionMatrix();
    parts.stage.draw();
  }, [parts, view.fieldOfView, view.far, m]);

  // Flying and turning about share the camera; the target stays ahead so that one can go on from there.
  useEffect(() => {
    if (!parts) return;
    parts.controls.enabled = !view.fly;
    if (!view.fly) return;
    const fly = new FlyCamera(parts.stage.camera, host.current!, (metres) => {
      const ahead = new Vector3(0, 0, -6).applyQuaternion(parts.stage.camera.quaternion);
      parts.controls.target.copy(parts.stage.camera.position).add(ahead);
      setSpeed(`${metres} m/s`);
      parts.stage.draw();
    });
    setSpeed(`${fly.speed} m/s`);
    host.current!.focus();
    return () => {
      setSpeed('');
      fly.dispose();
    };
  }, [parts, view.fly]);

  const builtScene = useMemo(
    () => parts && { renderer: parts.stage.renderer, built: parts.built, solids: parts.solids.group, draw: () => parts.stage.draw() },
    [parts],
  );
  const { stands, probes, ...built } = useBuiltLight(builtScene, view.builtLight, exposure, source);

  useEffect(() => {
    const world = selectWorld(store.getState());
    if (!parts || !world || !source) return;
    const look = { shown: (id: string) => isShown(view, 'solids', id, shownSolids[id].layer), undrawn: !view.hideUnseen && !game };
    parts.solids.update(world, shownSolids, source, look, [mapName, source, base, materials, look.undrawn], () => parts.stage.draw());
    parts.stage.draw();
    // Only what hides things matters of the view.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [parts, shownSolids, mapName, source, base, materials, view.hidden, view.hiddenLayers, view.hideUnseen, game]);

  useEffect(() => {
    const world = selectWorld(store.getState());
    if (!parts || !world || !source) return;
    const shown = (id: string) => {
      const object = whole.objects[id];
      // As in the game, only what has a body or gives light is there.
      return isShown(view, 'objects', id, object.layer) && (!game || lookOf(profile, object.class, 'inGame') === true);
    };
    const onLoad = (model: Object3D) => {
      if (probes) lightByProbes(model, probes, m);
      parts.stage.draw();
    };
    parts.objects.update(whole.objects, shown, (object) => objectGroup(world, object, source, colours, onLoad), [source, colours, files, probes]);
    parts.stage.draw();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [parts, whole.objects, source, colours, files, probes, m, view.hidden, view.hiddenLayers, game]);

  useEffect(() => {
    const world = selectWorld(store.getState());
    if (!parts || !world) return;
    refill(
      parts.marks,
      selectionGroup(world, map, whole, view.selection, colours.warm),
      ...(view.trail ? [trailGroup(view.trail, m, colours.warm)] : []),
    );
    parts.marks.visible = !game;
    parts.stage.draw();
  }, [parts, map, whole, view.selection, view.trail, colours, m, game]);

  useEffect(() => {
    if (!parts) return;
    refill(parts.links, ...(view.showSignals && !game ? [linksGroup(whole, m, colours)] : []));
    parts.stage.draw();
  }, [parts, whole.signals, whole.objects, whole.paths, whole, view.showSignals, game, colours, m]);

  useEffect(() => {
    if (!parts) return;
    const target = parts.controls.target;
    const near: Vec3 = [target.x / m, -target.z / m, target.y / m];
    const plain = new Group();
    plain.add(...editingLights());
    // What was built has its light in it.
    const dim = new Group();
    dim.add(new AmbientLight('#fff', 0.12));
    refill(parts.lights, stands ? dim : lit ? previewLights(profile, whole, near, view.hour) : plain);
    parts.stage.draw();
  }, [parts, lit, stands, whole.objects, whole, map.settings, profile, view.hour, m]);

  useEffect(() => {
    if (!parts) return;
    parts.stage.renderer.clippingPlanes = view.cutAway && !game ? [new Plane(new Vector3(0, -1, 0), (band.top - 0.5) * m)] : [];
    parts.stage.draw();
  }, [parts, view.cutAway, band.top, m, game]);

  useEffect(() => {
    if (!parts) return;
    refill(parts.figure, ...(view.figure ? [playerFigure(profile, colours.clear)] : []));
    parts.stage.draw();
  }, [parts, view.figure, profile, colours]);

  useEffect(() => {
    if (!parts || !view.focus) return;
    const target = new Vector3(...toGltf([...view.focus.point], m));
    const offset = parts.stage.camera.position.clone().sub(parts.controls.target);
    offset.setLength(Math.min(offset.length(), view.focus.frame ? Math.max(view.focus.frame * 1.6, 48) * m : 320 * m));
    parts.controls.target.copy(target);
    parts.stage.camera.position.copy(target).add(offset);
    parts.controls.update();
    parts.stage.draw();
    // Only a new request moves the camera.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [parts, view.focus?.count]);

  // Following keeps the selection where it was in the picture while it moves.
  useEffect(() => {
    if (!parts || !view.follow || isEmpty(view.selection)) return;
    const box = membersBox(map, profile, view.selection);
    if (!box) return;
    const to = new Vector3(...toGltf(boxCentre(box), m));
    parts.stage.camera.position.add(to.clone().sub(parts.controls.target));
    parts.controls.target.copy(to);
    parts.controls.update();
    parts.stage.draw();
  }, [parts, map, profile, view.follow, view.selection, m]);

  // What is being drawn or dragged on a sheet.
  useEffect(() => {
    if (!parts) return;
    const show = () => {
      const ghost = currentGhost();
      refill(parts.ghost, ...(ghost ? [ghostGroup(ghost, m, colours.warm)] : []));
      parts.stage.draw();
    };
    show();
    return onGhost(show);
  }, [parts, m, colours]);

  const press = useRef<[number, number]>([0, 0]);

  const rayAt = (event: { clientX: number; clientY: number }, { stage }: Parts): Ray => pointerRay(event, host.current!, stage.camera, m);
  const pick = (event: { clientX: number; clientY: number }, shownParts: Parts): Hit[] =>
    pickPerspective(rayAt(event, shownParts), { world: selectWorld(store.getState())!, whole, view, band });

  /** A material dropped here covers the face under the pointer. */
  const drop = (event: React.DragEvent) => {
    const id = draggedAsset(event);
    if (!id?.startsWith('material:') || !parts) return;
    event.preventDefault();
    const hit = pick(event, parts).find((h) => h.solid && map.solids[h.solid]);
    if (!hit) return;
    const edit = paint(map, { solids: [], faces: [{ solid: hit.solid!, face: hit.face! }] }, id.slice('material:'.length));
    if (edit) dispatch(edited(edit));
  };

  const dragScene = useMemo(
    (): DragScene | null =>
      parts && {
        camera: parts.stage.camera,
        draft: parts.draft,
        marks: parts.marks,
        draw: () => parts.stage.draw(),
        hold: (held) => (parts.controls.enabled = !held),
      },
    [parts],
  );
  const drag = usePerspectiveDrag(
    dragScene,
    () => host.current!,
    (event) => rayAt(event, parts!),
    (event) => pick(event, parts!),
  );

  const cycle = useRef<{ key: string; index: number }>({ key: '', index: 0 });
  const click = (event: React.PointerEvent) => {
    if (!parts || event.button !== 0 || Math.hypot(event.clientX - press.current[0], event.clientY - press.current[1]) > 4) return;
    const hits = pick(event, parts);
    const { selection } = view;
    const add = event.shiftKey;
    if (hits.length === 0) return add ? undefined : void dispatch(selected(null));
    if (view.picking) {
      const target = hits.find(
        (h) => h.object && map.objects[h.object] && (!view.picking!.of || view.picking!.of.includes(map.objects[h.object].class)),
      );
      const [id] = selection.objects;
      if (target && map.objects[id]) {
        const properties = { ...map.objects[id].properties, [view.picking.property]: target.object! };
        dispatch(edited({ name: `set ${view.picking.property}`, changes: [{ of: 'objects', id, to: { ...map.objects[id], properties } }] }));
        dispatch(viewChanged({ picking: null }));
      }
      return;
    }
    // A click at the same place takes what lies behind.
    const key = hits.map((h) => `${h.solid ?? h.object}/${h.face ?? ''}`).join();
    cycle.current = { key, index: cycle.current.key === key && !add ? (cycle.current.index + 1) % hits.length : 0 };
    const hit = hits[cycle.current.index];
    const copy = copyOf(map, hit.solid ?? hit.object!);
    if (copy)
      return void dispatch(selected(add ? { ...selection, copies: [...new Set([...selection.copies, copy])] } : { kind: 'copies', ids: [copy] }));
    if (hit.object)
      return void dispatch(
        selected(add ? { ...selection, objects: [...new Set([...selection.objects, hit.object])] } : { kind: 'objects', ids: [hit.object] }),
      );
    const face = { solid: hit.solid!, face: hit.face! };
    const faces = add ? [...selection.faces.filter((f) => f.solid !== face.solid || f.face !== face.face), face] : [face];
    dispatch(selected({ ...emptySelection, solids: [...new Set(faces.map((f) => f.solid))], faces }));
  };

  const hoverAt = (event: React.PointerEvent) => {
    if (!parts || !view.figure || event.buttons !== 0) return;
    const hit = pick(event, parts).find((h) => h.solid);
    parts.figure.visible = Boolean(hit);
    if (hit) parts.figure.position.set(...toGltf(hit.point, m));
    parts.stage.draw();
  };

  const takePicture = () => {
    if (!parts || !crate) return;
    for (const marks of [parts.marks, parts.links, parts.figure, parts.draft]) marks.visible = false;
    storePicture(crate.id, parts.stage.picture(profile.package.thumbnailWidth, profile.package.thumbnailHeight));
    for (const marks of [parts.marks, parts.links, parts.figure, parts.draft]) marks.visible = true;
    parts.stage.draw();
    setTaken(true);
    setTimeout(() => setTaken(false), 2500);
  };

  const said = [game && 'as the game shows it', speed && `flying at ${speed}`, built.caption].filter(Boolean).join(', ');
  const trouble = [built.problem, drag.refusal].filter(Boolean).join(' ');
  return (
    <div className="sheet w-100 h-100">
      <div
        ref={host}
        className="w-100 h-100"
        data-testid="perspective"
        role="application"
        aria-label="Perspective view"
        tabIndex={0}
        onPointerDown={(e) => {
          press.current = [e.clientX, e.clientY];
          host.current!.focus();
        }}
        onPointerDownCapture={drag.onPointerDownCapture}
        onPointerUp={(event) => drag.onPointerUp(event) || click(event)}
        onPointerCancel={drag.onPointerCancel}
        onPointerMove={(event) => {
          drag.onPointerMove(event);
          hoverAt(event);
        }}
        onDragOver={(event) => event.dataTransfer.types.includes(ASSET_DRAG) && event.preventDefault()}
        onDrop={drop}
      />
      {view.frame169 && <div className="frame-169" aria-hidden="true" />}
      <div className={`caption ${said || trouble ? '' : 'name-only'}`}>
        <span className="view-name">Perspective{said ? ', ' : ''}</span>
        {said}
        {trouble && <span className="text-warm">: {trouble}</span>}
      </div>
      {stands && (
        <label className="exposure small">
          Exposure
          <input type="range" min={0.2} max={6} step={0.1} value={exposure} onChange={(e) => setExposure(Number(e.target.value))} />
        </label>
      )}
      <div className="controls">
        <button
          className={`btn btn-quiet ${view.builtLight && built.offered ? 'active' : ''}`}
          aria-pressed={view.builtLight}
          disabled={!built.offered}
          onClick={() => dispatch(viewChanged({ builtLight: !view.builtLight }))}
          title={
            built.offered ? 'Show the last build, or the running one, with its light instead of the solids' : 'Build the map to see its light here'
          }
        >
          Built light
        </button>
        <button
          className={`btn btn-quiet ${view.cutAway ? 'active' : ''}`}
          aria-pressed={view.cutAway}
          onClick={() => dispatch(viewChanged({ cutAway: !view.cutAway }))}
          title="Leave out what lies above the active band"
        >
          Cut at {band.top}
        </button>
        <button className="btn btn-quiet" onClick={takePicture} title="Keep this view as the package’s picture">
          {taken ? 'Picture taken' : 'Take picture'}
        </button>
      </div>
    </div>
  );
}
