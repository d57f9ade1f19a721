import { useMemo, useRef, useState } from 'react';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { shapeById } from '@violet-crate/core/solid/shapes';
import { toScreen, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { showGhost } from '../editing/ghost.ts';
import { handleGroups } from '../editing/handleGroups.ts';
import type { Doc, SheetColours } from '../editing/useDocument.ts';
import { useShapeValues } from '../editing/useShapeValues.ts';
import type { Gesture, Outcome, Scene } from './gesture/gesture.ts';
import type { SheetPointer } from './projection/pointer.ts';
import type { Projection } from './projection/projection.ts';
import { gesturesOf } from './tools.ts';

/** Carries out gestures on one sheet: hands presses to those of the tool, and their outcomes to the store. */
export function useGestures(doc: Doc, projection: Projection) {
  const dispatch = useAppDispatch();
  const [active, setActive] = useState<{ gesture: Gesture; state: unknown } | null>(null);
  const [hover, setHover] = useState<{ at: Point2; screen: Point2 } | null>(null);
  const { map, view } = doc;
  const { tool, mode, selection } = view;
  const shape = shapeById(tool === 'room' ? 'room' : view.shape);
  const values = useShapeValues(shape.id);
  const groups = useMemo(
    () => (tool === 'select' && (mode === 'corners' || mode === 'edges') ? handleGroups(map, selection.solids, mode, projection.project) : []),
    [map, selection.solids, mode, tool, projection],
  );
  const scene: Scene = { doc, projection, shape, values, groups };
  // What a press has selected counts for its own drag, though this view was not drawn anew yet.
  const latest = useRef(scene);
  latest.current = scene;

  const apply = (outcome: Outcome | null | undefined) => {
    if (!outcome) return;
    if (outcome.edit) dispatch(edited(outcome.edit));
    if (outcome.selection !== undefined) dispatch(selected(outcome.selection));
    if (outcome.view) dispatch(viewChanged(outcome.view));
    if (outcome.refusal !== undefined) dispatch(viewChanged({ refusal: outcome.refusal }));
  };
  const seen = (p: SheetPointer) => setHover({ at: p.at, screen: toScreen(p.sheet, p.canvas, p.at) });

  return {
    scene,
    hover,
    /** Id of the gesture under way. */
    doing: active?.gesture.id ?? null,
    state: active?.state,
    apply,
    onHover: seen,
    onPress(pointer: SheetPointer) {
      if (view.refusal) dispatch(viewChanged({ refusal: '' }));
      for (const gesture of gesturesOf(tool, projection.id)) {
        const begun = gesture.begin(scene, pointer);
        if (!begun) continue;
        setActive({ gesture, state: begun.state });
        return apply(begun.outcome);
      }
    },
    onDrag(pointer: SheetPointer) {
      seen(pointer);
      if (!active || !pointer.moved) return;
      const state = active.gesture.drag(active.state, latest.current, pointer);
      setActive({ gesture: active.gesture, state });
      showGhost(active.gesture.ghost?.(state, latest.current) ?? null);
    },
    onRelease(pointer: SheetPointer) {
      if (!active) return;
      const { gesture, state } = active;
      setActive(null);
      showGhost(null);
      apply(pointer.moved ? gesture.commit(state, latest.current, pointer) : gesture.click?.(state, latest.current, pointer));
    },
    onCancel() {
      setActive(null);
      showGhost(null);
    },
    draw(canvas: Canvas2d, sheet: Sheet, colours: SheetColours) {
      if (!active || !hover) return;
      const place = (p: Point2) => toScreen(sheet, canvas, p);
      active.gesture.draw?.({ canvas, sheet, context: canvas.context, place, colours, pointer: hover.screen }, active.state, scene);
    },
  };
}

export type Gestures = ReturnType<typeof useGestures>;
