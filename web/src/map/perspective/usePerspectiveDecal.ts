import { useRef, type PointerEvent } from 'react';
import { cornersOf } from '@violet-crate/core/decal/frame';
import { byHand, movedTo } from '@violet-crate/core/decal/place';
import { lyingOf } from '@violet-crate/core/decal/throwing';
import type { Decal } from '@violet-crate/core/document/schema';
import { length, sub, type Vec3 } from '@violet-crate/core/math/vec3';
import { groundPoint, surfacePoint } from '@violet-crate/core/map/surfaceAt';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { showGhost } from '../editing/ghost.ts';
import { laid } from '../decal/laying.ts';
import { useDocument } from '../editing/useDocument.ts';
import type { PerspectiveScene } from './perspectiveScene.ts';

/** Decals in the perspective: put with a click, dragged over surfaces and corners. Handlers answer whether they took the event. */
export function usePerspectiveDecal(scene: PerspectiveScene | null) {
  const dispatch = useAppDispatch();
  const { map, whole, view } = useDocument();
  const held = useRef<{ id: string; to: Decal } | null>(null);

  const surfaceUnder = (event: PointerEvent) => {
    if (!scene) return null;
    const hit = scene.pick(event).find(({ solid }) => solid);
    const { origin, direction } = scene.rayAt(event);
    const ground = groundPoint(map, origin, direction);
    // Seen from within a cut, the ray of what was picked begins at the cut: distances are from the eye.
    const away = (point: Vec3) => length(sub(point, origin));
    if (ground && (!hit || away(ground.point) < away(hit.point))) return ground;
    return hit ? surfacePoint(map, whole, { solid: hit.solid!, face: hit.face! }, hit.point) : null;
  };
  const end = () => {
    held.current = null;
    showGhost(null);
    scene?.hold(false);
    scene?.showDecals(lyingOf(map));
  };
  return {
    onPointerDownCapture(event: PointerEvent): boolean {
      if (!scene || event.button !== 0 || view.fly || view.picking || view.tool !== 'select') return false;
      const decal = scene.pick(event)[0]?.decal;
      if (decal === undefined || !view.selection.decals.includes(decal)) return false;
      held.current = { id: decal, to: map.decals[decal] };
      scene.hold(true);
      (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
      return true;
    },
    onPointerMove(event: PointerEvent): boolean {
      if (!held.current) return false;
      const surface = surfaceUnder(event);
      if (!surface) return true;
      const { id } = held.current;
      const to = movedTo(map.decals[id], surface);
      held.current = { id, to };
      const corners = cornersOf(to);
      showGhost({ solids: [], lines: [[...corners, corners[0]]] });
      scene?.showDecals({ ...lyingOf(map), [id]: to });
      return true;
    },
    /** @param moved whether the press has gone further than a click does */
    onPointerUp(moved: boolean): boolean {
      if (!held.current) return false;
      const { id, to } = held.current;
      end();
      if (moved && to !== map.decals[id]) dispatch(edited({ name: 'move decal', changes: [{ of: 'decals', id, to: byHand(to) }] }));
      return moved;
    },
    onPointerCancel: () => held.current && end(),
    /** A click with the tool; the handler has seen to it that it was none of anything else. */
    onClick(event: PointerEvent): boolean {
      if (view.tool !== 'decal') return false;
      const { edit, selection, view: next, refusal } = laid(map, view, surfaceUnder(event));
      if (edit) dispatch(edited(edit));
      if (selection) dispatch(selected(selection));
      dispatch(viewChanged({ ...next, ...(refusal ? { refusal } : {}) }));
      return true;
    },
  };
}
