import { useEffect, useMemo, useRef, useState } from 'react';
import { Color, Group, Plane, Raycaster, Vector2, Vector3, type Mesh } from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';
import { toGltf } from '@violet-crate/core/build/pack/mapGlb';
import { boxOfPoints } from '@violet-crate/core/math/box3';
import { hasPart } from '@violet-crate/core/profile/schema';
import { crateWorld } from '../checks/background.ts';
import { store, useAppDispatch, useAppSelector } from '../store.ts';
import type { AssetSource } from '../three/assets3d.ts';
import { freeTree, Stage3d } from '../three/stage3d.ts';
import { paint } from './edits.ts';
import { edited } from './mapSlice.ts';
import { editingLights, objectGroup, selectionGroup, solidsGroup, trailGroup, type FaceOwner } from './mapScene.ts';
import { storePicture } from './picture.ts';
import { ASSET_DRAG, draggedAsset } from './Shelf.tsx';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { useDocument, useSheetColours } from './useDocument.ts';
import { selected, viewChanged } from './viewSlice.ts';

interface Parts {
  stage: Stage3d;
  controls: OrbitControls;
  solids: Group;
  objects: Group;
  marks: Group;
}

/** Replaces what a group holds and frees the old. */
function refill(group: Group, next: Group): void {
  freeTree(group);
  group.clear();
  group.add(next);
}

/** The map in perspective: drag to turn, right-drag to move, wheel to come nearer, click to select a face. */
export function PerspectiveView() {
  const dispatch = useAppDispatch();
  const { map, profile, view, band } = useDocument();
  const mapName = useAppSelector((s) => s.map.name);
  const crate = useAppSelector((s) => s.crate.view);
  const base = useAppSelector((s) => s.crate.base);
  const colours = useSheetColours();
  const host = useRef<HTMLDivElement>(null);
  const [parts, setParts] = useState<Parts | null>(null);
  const [taken, setTaken] = useState(false);
  const m = profile.unit.metres;
  const source = useMemo((): AssetSource | null => crate && { view: crate, profileId: profile.id }, [crate, profile]);
  const files = crate?.files;
  const materials = crate?.manifest.materials;

  useEffect(() => {
    const stage = new Stage3d(host.current!, '#17101d');
    const controls = new OrbitControls(stage.camera, stage.renderer.domElement);
    const [solids, objects, marks] = [new Group(), new Group(), new Group()];
    stage.scene.add(...editingLights(), solids, objects, marks);
    controls.addEventListener('change', () => stage.draw());
    setParts({ stage, controls, solids, objects, marks });
    return () => {
      controls.dispose();
      stage.dispose();
    };
  }, []);

  // Where the camera first stands: above a corner, looking over everything.
  const framed = useRef('');
  useEffect(() => {
    if (!parts || !crate || framed.current === crate.id) return;
    framed.current = crate.id;
    const boxes = Object.values(map.solids).map((s) => shapeOf(s).box);
    const all = boxes.length > 0 ? boxOfPoints(boxes.flatMap((b) => [b.min, b.max])) : { min: [-256, -256, 0], max: [256, 256, 128] };
    const size = Math.max(all.max[0] - all.min[0], all.max[1] - all.min[1]);
    const middle = [(all.min[0] + all.max[0]) / 2, (all.min[1] + all.max[1]) / 2, band.bottom] as [number, number, number];
    parts.controls.target.set(...toGltf(middle, m));
    parts.stage.camera.position.set(...toGltf([middle[0] - size * 0.35, middle[1] - size * 0.75, middle[2] + size * 0.75], m));
    parts.controls.update();
  }, [parts, crate, map, band, m]);

  useEffect(() => {
    if (!parts) return;
    parts.stage.scene.background = new Color(colours.sunken);
    parts.stage.draw();
  }, [parts, colours]);

  useEffect(() => {
    const world = crateWorld(store.getState());
    if (!parts || !world || !source) return;
    refill(
      parts.solids,
      solidsGroup(world, mapName, source, () => parts.stage.draw()),
    );
    parts.stage.draw();
  }, [parts, map.solids, mapName, source, base, materials]);

  useEffect(() => {
    const world = crateWorld(store.getState());
    if (!parts || !world || !source) return;
    const all = new Group();
    for (const [id, object] of Object.entries(map.objects)) {
      const group = objectGroup(world, object, source, colours, () => parts.stage.draw());
      group.userData.object = id;
      all.add(group);
    }
    refill(parts.objects, all);
    parts.stage.draw();
  }, [parts, map.objects, source, colours, files]);

  useEffect(() => {
    const world = crateWorld(store.getState());
    if (!parts || !world) return;
    const marks = new Group();
    marks.add(selectionGroup(world, mapName, view.selection, colours.warm));
    if (view.trail) marks.add(trailGroup(view.trail, m, colours.warm));
    refill(parts.marks, marks);
    parts.stage.draw();
  }, [parts, map, mapName, view.selection, view.trail, colours, m]);

  useEffect(() => {
    if (!parts) return;
    parts.stage.renderer.clippingPlanes = view.cutAway ? [new Plane(new Vector3(0, -1, 0), (band.top - 0.5) * m)] : [];
    parts.stage.draw();
  }, [parts, view.cutAway, band.top, m]);

  useEffect(() => {
    if (!parts || !view.focus) return;
    const target = new Vector3(...toGltf([...view.focus.point], m));
    const offset = parts.stage.camera.position.clone().sub(parts.controls.target);
    offset.setLength(Math.min(offset.length(), 320 * m));
    parts.controls.target.copy(target);
    parts.stage.camera.position.copy(target).add(offset);
    parts.controls.update();
    parts.stage.draw();
    // Only a new request moves the camera.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [parts, view.focus?.count]);

  const press = useRef<[number, number]>([0, 0]);
  const hitsAt = (event: { clientX: number; clientY: number }, shown: NonNullable<typeof parts>) => {
    const box = host.current!.getBoundingClientRect();
    const caster = new Raycaster();
    caster.setFromCamera(
      new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2),
      shown.stage.camera,
    );
    const limit = view.cutAway ? (band.top - 0.5) * m : Infinity;
    return caster.intersectObjects([shown.solids, shown.objects], true).filter((hit) => hit.point.y <= limit && (hit.object as Mesh).isMesh);
  };
  /** A material dropped here covers the face under the pointer. */
  const drop = (event: React.DragEvent) => {
    const id = draggedAsset(event);
    if (!id?.startsWith('material:') || !parts) return;
    event.preventDefault();
    for (const hit of hitsAt(event, parts)) {
      const owner = (hit.object.userData.owners as FaceOwner[] | undefined)?.[hit.faceIndex ?? -1];
      if (owner) return void dispatch(edited(paint(map, [owner.solid], owner.face, id.slice('material:'.length))));
    }
  };
  const click = (event: React.PointerEvent) => {
    if (!parts || Math.hypot(event.clientX - press.current[0], event.clientY - press.current[1]) > 4) return;
    const hits = hitsAt(event, parts);
    for (const hit of hits) {
      const owner = (hit.object.userData.owners as FaceOwner[] | undefined)?.[hit.faceIndex ?? -1];
      if (owner) {
        dispatch(selected({ kind: 'solids', ids: [owner.solid], face: owner.face }));
        return;
      }
      for (let at = hit.object.parent; at; at = at.parent) {
        const id = at.userData.object as string | undefined;
        if (!id) continue;
        // Volumes and water fill rooms; clicking through them is what people mean.
        if (hasPart(profile, map.objects[id]?.class ?? '', 'water')) break;
        dispatch(selected({ kind: 'objects', ids: [id] }));
        return;
      }
    }
    dispatch(selected(null));
  };

  const takePicture = () => {
    if (!parts || !crate) return;
    parts.marks.visible = false;
    storePicture(crate.id, parts.stage.picture(profile.package.thumbnailWidth, profile.package.thumbnailHeight));
    parts.marks.visible = true;
    parts.stage.draw();
    setTaken(true);
    setTimeout(() => setTaken(false), 2500);
  };

  return (
    <div className="sheet w-100 h-100">
      <div
        ref={host}
        className="w-100 h-100"
        data-testid="perspective"
        role="application"
        aria-label="Perspective view"
        onPointerDown={(e) => (press.current = [e.clientX, e.clientY])}
        onPointerUp={click}
        onDragOver={(event) => event.dataTransfer.types.includes(ASSET_DRAG) && event.preventDefault()}
        onDrop={drop}
      />
      <div className="caption">Perspective</div>
      <div className="controls">
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
