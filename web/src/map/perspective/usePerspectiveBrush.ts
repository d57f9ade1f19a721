import { useRef, type PointerEvent } from 'react';
import { BRUSHES } from '@violet-crate/core/terrain/brush/brush';
import type { Stroke } from '@violet-crate/core/terrain/brush/stroke';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { ringOnGround } from '@violet-crate/core/terrain/ray';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { showGhost } from '../editing/ghost.ts';
import { useDocument } from '../editing/useDocument.ts';
import { beginStroke, strokeEdit } from '../ground/strokes.ts';
import { brushGround } from '../ground/brushing.ts';
import type { PerspectiveScene } from './perspectiveScene.ts';

/** Works on the ground in the perspective: the brush lies where the pointer meets it. Handlers answer whether they took the event. */
export function usePerspectiveBrush(scene: PerspectiveScene | null) {
  const dispatch = useAppDispatch();
  const doc = useDocument();
  const stroke = useRef<Stroke | null>(null);
  const { map, view, profile } = doc;
  const brushing = view.tool === 'ground' && !view.fly;

  const ring = (x: number, y: number) => {
    const id = brushGround(map, view.terrain);
    const ground = stroke.current?.ground ?? (id === null ? null : groundOf(map, id));
    if (!ground) return;
    const lines = [ringOnGround(ground, x, y, view.brushSettings.radius, profile.player.stepHeight / 4)];
    showGhost({ solids: [], lines, ...(stroke.current ? { ground: { ground, tiles: stroke.current.touched } } : {}) });
  };
  const end = () => {
    stroke.current = null;
    showGhost(null);
    scene?.hold(false);
  };
  return {
    onPointerDownCapture(event: PointerEvent): boolean {
      if (!brushing || event.button !== 0 || !scene) return false;
      const at = scene.groundAt(event);
      if (!at) return false;
      const begun = beginStroke(map, view, [at[0], at[1]]);
      if (typeof begun === 'string') {
        dispatch(viewChanged({ refusal: begun }));
        return true;
      }
      stroke.current = begun;
      scene.hold(true);
      (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
      ring(at[0], at[1]);
      return true;
    },
    onPointerMove(event: PointerEvent): boolean {
      if (!brushing || !scene) return false;
      const at = scene.groundAt(event);
      if (!at) return stroke.current !== null;
      stroke.current?.to(at[0], at[1]);
      ring(at[0], at[1]);
      return stroke.current !== null;
    },
    onPointerUp(): boolean {
      if (!stroke.current) return false;
      const { edit, refusal } = strokeEdit(stroke.current, BRUSHES[view.brush].label);
      end();
      if (edit) dispatch(edited(edit));
      if (refusal) dispatch(viewChanged({ refusal }));
      return true;
    },
    onPointerCancel: end,
  };
}
