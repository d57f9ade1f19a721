import { useEffect, useRef, useState, type PointerEvent, type RefObject } from 'react';
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments, Points, PointsMaterial, Vector3, type Camera } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { copyOf } from '@violet-crate/core/map/prefab';
import type { GameMap, Solid } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { skeletonOf } from '@violet-crate/core/solid/reshape';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { useAppDispatch } from '../../state/store.ts';
import { groupDistance, handleGroups, holds } from '../editing/handleGroups.ts';
import { edited } from '../../state/mapSlice.ts';
import { dragged, draggedEdit, middleOf, type Grab } from './perspectiveDrag.ts';
import { refill, type PerspectiveScene } from './perspectiveScene.ts';
import { showGhost } from '../editing/ghost.ts';
import { ghostOf } from '../member/ghostOf.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { isEmpty, selected } from '../../state/viewSlice.ts';

/** Size of a picture's element, and where a point of the map lies in it. */
function onPicture(camera: Camera, element: HTMLElement, metres: number): (p: Vec3) => Point2 {
  const [width, height] = [element.clientWidth, element.clientHeight];
  return (p) => {
    const at = new Vector3(...toGltf(p, metres)).project(camera);
    // Behind the eye nothing can be taken hold of.
    return at.z > 1 ? [NaN, NaN] : [((at.x + 1) / 2) * width, ((1 - at.y) / 2) * height];
  };
}

/** Dragging of members, faces, edges and corners in the perspective; hands out the handlers of its element. */
export function usePerspectiveDrag(scene: PerspectiveScene | null, host: RefObject<HTMLElement | null>) {
  const dispatch = useAppDispatch();
  const { map, profile, view, snap } = useDocument();
  const colours = useSheetColours();
  const held = useRef<Grab | null>(null);
  const [refusal, setRefusal] = useState('');
  const { selection, mode } = view;
  const m = profile.unit.metres;
  const handles = mode === 'corners' || mode === 'edges' ? mode : null;

  useEffect(() => {
    if (!scene) return;
    refill(scene.draft);
    if (handles) scene.draft.add(...handleMarks(map, selection.solids, handles, m, colours.warm));
    scene.draw();
  }, [scene, map, selection.solids, handles, m, colours]);

  /** What a press here would take hold of. */
  const grabAt = (event: PointerEvent): { grab: Grab; corners?: { solid: string; corner: number }[] } | null => {
    if (!scene || event.button > 0 || view.tool !== 'select' || view.picking || view.fly || isEmpty(selection)) return null;
    if (handles) {
      const box = host.current!.getBoundingClientRect();
      const at: Point2 = [event.clientX - box.left, event.clientY - box.top];
      const nearest = handleGroups(map, selection.solids, handles, onPicture(scene.camera, host.current!, m))
        .map((group) => ({ group, away: groupDistance(group, at) }))
        .filter(({ away }) => away <= 9)
        .sort((a, b) => a.away - b.away)[0]?.group;
      if (!nearest) return null;
      const corners = holds(selection, nearest)
        ? [...selection.corners]
        : event.shiftKey
          ? [...selection.corners, ...nearest.corners]
          : nearest.corners;
      return { grab: { what: 'corners', at: middleOf(map, nearest) }, corners };
    }
    const [hit] = scene.pick(event);
    // Decals are dragged over surfaces: `usePerspectiveDecal`.
    if (!hit || hit.decal || hit.overlay) return null;
    if (mode === 'faces') {
      const face = selection.faces.find((f) => f.solid === hit.solid && f.face === hit.face && map.solids[f.solid]);
      return face ? { grab: { what: face, at: hit.point } } : null;
    }
    const id = hit.solid ?? hit.object!;
    const copy = copyOf(map, id);
    const known = copy ? selection.copies.includes(copy) : hit.solid ? selection.solids.includes(id) : selection.objects.includes(id);
    return known ? { grab: { what: 'members', at: hit.point } } : null;
  };

  const byOf = (event: PointerEvent): Vec3 | null => held.current && dragged(held.current, map, scene!.rayAt(event), event.shiftKey, snap);

  const show = (edit: ReturnType<typeof draftOf>) => {
    refill(scene!.draft);
    if (typeof edit === 'string') return setRefusal(edit);
    setRefusal('');
    scene!.draft.add(solidLines(edit, m, colours.warm));
  };
  const draftOf = (by: Vec3, split: boolean): Solid[] | string => {
    const edit = draggedEdit(held.current!, map, selection, by, split);
    if (typeof edit === 'string') return edit;
    return (edit?.changes ?? []).flatMap((c) => (c.of === 'solids' && c.to ? [c.to] : []));
  };

  const release = () => {
    held.current = null;
    showGhost(null);
    if (!scene) return;
    scene.hold(false);
    scene.marks.position.set(0, 0, 0);
    refill(scene.draft);
    if (handles) scene.draft.add(...handleMarks(map, selection.solids, handles, m, colours.warm));
    scene.draw();
  };

  return {
    refusal,
    /** Before the view's own controls see the press. */
    onPointerDownCapture: (event: PointerEvent) => {
      setRefusal('');
      const found = grabAt(event);
      if (!found) return;
      held.current = found.grab;
      if (found.corners) dispatch(selected({ ...selection, corners: found.corners }));
      scene!.hold(true);
      host.current!.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent) => {
      if (!scene) return;
      if (!held.current) {
        if (event.buttons === 0) host.current!.style.cursor = grabAt(event) ? 'move' : '';
        return;
      }
      const by = byOf(event);
      if (!by) return;
      const edit = draggedEdit(held.current, map, selection, by, true);
      showGhost(typeof edit === 'string' ? null : ghostOf(edit, { map, profile }));
      if (held.current.what === 'members') scene.marks.position.set(...toGltf(by, m));
      else show(draftOf(by, true));
      scene.draw();
    },
    /** Whether the release ended a drag. */
    onPointerUp: (event: PointerEvent): boolean => {
      const grab = held.current;
      const by = grab && byOf(event);
      const edit = by ? draggedEdit(grab, map, selection, by, event.altKey) : null;
      if (grab) release();
      if (edit === null) return false;
      if (typeof edit === 'string') setRefusal(`${edit}${edit.includes('concave') ? ' (Hold Alt to split it.)' : ''}`);
      else {
        dispatch(edited(edit));
        if (grab!.what === 'corners') dispatch(selected({ ...selection, corners: [] }));
      }
      return true;
    },
    onPointerCancel: release,
  };
}

const lines = (points: number[], colour: string): LineSegments =>
  new LineSegments(
    new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3)),
    new LineBasicMaterial({ color: colour, depthTest: false }),
  );

function solidLines(solids: readonly Solid[], metres: number, colour: string): LineSegments {
  const points = solids.flatMap((solid) => {
    const { corners, edges } = skeletonOf(solid);
    return edges.flatMap(([a, b]) => [...toGltf(corners[a], metres), ...toGltf(corners[b], metres)]);
  });
  return lines(points, colour);
}

/** Points and lines that can be taken hold of. */
function handleMarks(map: GameMap, solids: readonly string[], mode: 'corners' | 'edges', metres: number, colour: string): (Points | LineSegments)[] {
  const known = solids.filter((id) => map.solids[id]).map((id) => map.solids[id]);
  if (mode === 'edges') return [solidLines(known, metres, colour)];
  const at = known.flatMap((solid) => skeletonOf(solid).corners.flatMap((p) => toGltf(p, metres)));
  const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(at), 3));
  return [new Points(geometry, new PointsMaterial({ color: colour, size: 9, sizeAttenuation: false, depthTest: false }))];
}
