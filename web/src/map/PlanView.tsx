import { useMemo, useRef, useState } from 'react';
import { classBox } from '@violet-crate/core/map/objectBox';
import type { GameMap } from '@violet-crate/core/map/schema';
import { boxOfPoints, type Box3 } from '@violet-crate/core/math/box3';
import { hasPart } from '@violet-crate/core/profile/schema';
import { Icon } from '../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../store.ts';
import { classFor, drawRoom, drawSolid, moveSelection, paint, placeObject, resize } from './edits.ts';
import { FlatView, type SheetPointer } from './FlatView.tsx';
import { dragHandle, drawHandles, handleAt, type Handle, type Rect } from './handles.ts';
import { edited } from './mapSlice.ts';
import { drawObjectMark } from './objectMark.ts';
import { drawGrid, drawLabel, fitSheet, toScreen, tracePolygon, type Canvas2d, type Sheet } from './sheet.ts';
import { insideOutline, shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import { useDocument, useSheetColours } from './useDocument.ts';
import { selected, viewChanged, type Selection } from './viewSlice.ts';

type Gesture =
  | { kind: 'move'; by: Point2 }
  | { kind: 'resize'; handle: Handle; rect: Rect }
  | { kind: 'draw'; rect: Rect }
  | { kind: 'marquee'; rect: Rect }
  | { kind: 'line'; from: Point2; to: Point2 };

/** How a solid lies to the height at which the plan is cut. */
export function planRelation(box: Box3, cut: number): 'cut' | 'below' | 'above' {
  if (box.max[2] <= cut) return 'below';
  return box.min[2] >= cut ? 'above' : 'cut';
}

const rectOf = (a: Point2, b: Point2): Rect => ({
  min: [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
  max: [Math.max(a[0], b[0]), Math.max(a[1], b[1])],
});

const PICK_REACH = 9;

/** All under a point, what one most likely means first: objects, walls, then floors from the top. */
function pickAt(map: GameMap, { at, sheet }: SheetPointer, cut: number, band: { bottom: number; top: number }): Selection[] {
  const objects = Object.entries(map.objects)
    .filter(([, o]) => o.position[2] >= band.bottom - 1 && o.position[2] <= band.top)
    .map(([id, o]) => ({ id, away: Math.hypot(o.position[0] - at[0], o.position[1] - at[1]) * sheet.scale }))
    .filter((o) => o.away <= PICK_REACH)
    .sort((a, b) => a.away - b.away)
    .map(({ id }): Selection => ({ kind: 'objects', ids: [id] }));
  const order = { cut: 0, below: 1, above: 2 };
  const solids = Object.entries(map.solids)
    .filter(([, solid]) => insideOutline(shapeOf(solid).outline, at))
    .sort(
      ([, a], [, b]) =>
        order[planRelation(shapeOf(a).box, cut)] - order[planRelation(shapeOf(b).box, cut)] || shapeOf(b).box.max[2] - shapeOf(a).box.max[2],
    )
    .map(([id]): Selection => ({ kind: 'solids', ids: [id] }));
  return [...objects, ...solids];
}

export function PlanView() {
  const dispatch = useAppDispatch();
  const { map, profile, view, band, snap } = useDocument();
  const crateId = useAppSelector((s) => s.crate.view?.id ?? '');
  const colours = useSheetColours();
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const [hover, setHover] = useState<Point2 | null>(null);
  const cycle = useRef<{ key: string; index: number }>({ key: '', index: 0 });
  const { tool, selection } = view;
  const cut = band.bottom + (band.top - band.bottom) * 0.4;

  const selectionRect = useMemo((): Rect | null => {
    if (selection?.kind !== 'solids' || selection.ids.length !== 1 || !map.solids[selection.ids[0]]) return null;
    const { box } = shapeOf(map.solids[selection.ids[0]]);
    return { min: [box.min[0], box.min[1]], max: [box.max[0], box.max[1]] };
  }, [map, selection]);

  const isSelected = (s: Selection) => selection?.kind === s.kind && s.ids.every((id) => selection.ids.includes(id));

  const onPress = (pointer: SheetPointer) => {
    const at: Point2 = [snap(pointer.at[0]), snap(pointer.at[1])];
    if (tool === 'room' || tool === 'solid') return setGesture({ kind: 'draw', rect: rectOf(at, at) });
    if (tool === 'section') return setGesture({ kind: 'line', from: at, to: at });
    if (tool === 'place') return;
    const handle = selectionRect && handleAt(selectionRect, pointer.sheet, pointer.canvas, pointer.at);
    if (handle && selectionRect) return setGesture({ kind: 'resize', handle, rect: selectionRect });
    if (pointer.shift) return setGesture({ kind: 'marquee', rect: rectOf(pointer.at, pointer.at) });
    const under = pickAt(map, pointer, cut, band);
    if (under.some(isSelected)) return setGesture({ kind: 'move', by: [0, 0] });
    const first = under[0];
    // Floors lie under everything; a press on one begins a marquee, and only a click selects it.
    const grabs = first && (first.kind === 'objects' || planRelation(shapeOf(map.solids[first.ids[0]]).box, cut) === 'cut');
    if (grabs) {
      dispatch(selected(first));
      setGesture({ kind: 'move', by: [0, 0] });
    } else setGesture({ kind: 'marquee', rect: rectOf(pointer.at, pointer.at) });
  };

  const onDrag = (pointer: SheetPointer) => {
    setHover(pointer.at);
    if (!gesture || !pointer.moved) return;
    const at: Point2 = [snap(pointer.at[0]), snap(pointer.at[1])];
    const from: Point2 = [snap(pointer.from[0]), snap(pointer.from[1])];
    if (gesture.kind === 'draw') setGesture({ kind: 'draw', rect: rectOf(from, at) });
    else if (gesture.kind === 'line') setGesture({ ...gesture, to: pointer.shift ? at : straight(gesture.from, at) });
    else if (gesture.kind === 'marquee') setGesture({ kind: 'marquee', rect: rectOf(pointer.from, pointer.at) });
    else if (gesture.kind === 'move')
      setGesture({ kind: 'move', by: [snap(pointer.at[0] - pointer.from[0]), snap(pointer.at[1] - pointer.from[1])] });
    else if (selectionRect) setGesture({ ...gesture, rect: dragHandle(selectionRect, gesture.handle, at, profile.grid.min) });
  };

  const onRelease = (pointer: SheetPointer) => {
    const done = gesture;
    setGesture(null);
    if (tool === 'place' && view.placeClass && !pointer.moved) {
      const made = placeObject(
        map,
        profile,
        view.placeClass,
        [snap(pointer.at[0]), snap(pointer.at[1])],
        band,
        view.placeAsset ? { kind: view.placeAsset.startsWith('sounds/') ? 'sound' : 'model', path: view.placeAsset } : undefined,
      );
      dispatch(edited(made.edit));
      dispatch(selected(made.selection));
      return;
    }
    if (!done) return;
    if (!pointer.moved) return click(pointer);
    if (done.kind === 'draw') commitDrawing(done.rect);
    else if (done.kind === 'line') {
      if (Math.hypot(done.to[0] - done.from[0], done.to[1] - done.from[1]) > 0)
        dispatch(viewChanged({ section: { from: done.from, to: done.to }, tool: 'select' }));
    } else if (done.kind === 'marquee') dispatch(selected(inMarquee(done.rect)));
    else if (done.kind === 'move' && selection) {
      const edit = moveSelection(map, selection, [done.by[0], done.by[1], 0]);
      if (edit) dispatch(edited(edit));
    } else if (done.kind === 'resize' && selection) {
      const { box } = shapeOf(map.solids[selection.ids[0]]);
      dispatch(edited(resize(map, selection.ids[0], { min: [...done.rect.min, box.min[2]], max: [...done.rect.max, box.max[2]] })));
    }
  };

  /** A click selects; the next one at the same place what lies behind. */
  const click = (pointer: SheetPointer) => {
    if (tool !== 'select') return;
    const under = pickAt(map, pointer, cut, band);
    if (under.length === 0) return void dispatch(selected(null));
    const key = under.map((u) => u.ids[0]).join();
    const index = cycle.current.key === key ? (cycle.current.index + 1) % under.length : 0;
    cycle.current = { key, index };
    const next = under[index];
    if (pointer.alt && selection?.kind === next.kind) dispatch(selected({ kind: next.kind, ids: [...new Set([...selection.ids, ...next.ids])] }));
    else dispatch(selected(next));
  };

  /** A model or sound is placed, a material covers the uppermost solid there. */
  const dropAsset = (id: string, pointer: SheetPointer) => {
    if (id.startsWith('material:')) {
      const target = pickAt(map, pointer, cut, band).find((s) => s.kind === 'solids');
      if (target) dispatch(edited(paint(map, target.ids, undefined, id.slice('material:'.length))));
      return;
    }
    const kind = id.startsWith('sounds/') ? 'sound' : 'model';
    const target = classFor(profile, kind);
    if (!target) return;
    const made = placeObject(map, profile, target.id, [snap(pointer.at[0]), snap(pointer.at[1])], band, { kind, path: id });
    dispatch(edited(made.edit));
    dispatch(selected(made.selection));
  };

  const commitDrawing = (rect: Rect) => {
    if (rect.max[0] - rect.min[0] < profile.grid.min || rect.max[1] - rect.min[1] < profile.grid.min) return;
    const box: Box3 = { min: [...rect.min, band.bottom], max: [...rect.max, band.top] };
    const material = view.material || profile.defaultMaterial;
    const made = tool === 'room' ? drawRoom(map, box, profile.shellThickness, material) : drawSolid(map, box, material);
    dispatch(edited(made.edit));
    dispatch(selected(made.selection));
    dispatch(viewChanged({ tool: 'select' }));
  };

  const inMarquee = (rect: Rect): Selection | null => {
    const within = (p: readonly number[]) => p[0] >= rect.min[0] && p[0] <= rect.max[0] && p[1] >= rect.min[1] && p[1] <= rect.max[1];
    const solids = Object.entries(map.solids)
      .filter(([, s]) => shapeOf(s).outline.every(within))
      .map(([id]) => id);
    const objects = Object.entries(map.objects)
      .filter(([, o]) => within(o.position) && o.position[2] >= band.bottom - 1 && o.position[2] <= band.top)
      .map(([id]) => id);
    return objects.length >= solids.length ? { kind: 'objects', ids: objects } : { kind: 'solids', ids: solids };
  };

  const draw = (canvas: Canvas2d, sheet: Sheet) => {
    const { context } = canvas;
    context.fillStyle = colours.sunken;
    context.fillRect(0, 0, canvas.width, canvas.height);
    const place = (p: readonly number[]): Point2 => toScreen(sheet, canvas, [p[0], p[1]]);
    const moved = (chosen: boolean): Point2 => (chosen && gesture?.kind === 'move' ? gesture.by : [0, 0]);
    const solids = Object.entries(map.solids)
      .map(([id, solid]) => ({ id, shape: shapeOf(solid), relation: planRelation(shapeOf(solid).box, cut) }))
      .sort((a, b) => a.shape.box.max[2] - b.shape.box.max[2]);
    const paintSolid = ({ id, shape, relation }: (typeof solids)[number]) => {
      const chosen = selection?.kind === 'solids' && selection.ids.includes(id);
      const [dx, dy] = moved(chosen);
      tracePolygon(
        context,
        shape.outline.map((p) => place([p[0] + dx, p[1] + dy])),
      );
      context.setLineDash(relation === 'above' ? [3, 4] : []);
      context.fillStyle = relation === 'cut' ? colours.violet : colours.selected;
      // Floors near the band's bottom show; what lies further down fades.
      const depth = Math.min(1, Math.max(0, (cut - shape.box.max[2]) / Math.max(1, band.top - band.bottom)));
      context.globalAlpha = relation === 'cut' ? 0.5 : relation === 'below' ? 0.35 * (1 - depth * 0.75) : 0;
      context.fill();
      context.globalAlpha = chosen ? 1 : relation === 'cut' ? 0.9 : relation === 'below' ? 0.4 : 0.12;
      context.strokeStyle = chosen ? colours.warm : relation === 'cut' ? colours.violet : colours.faint;
      context.lineWidth = chosen ? 2.5 : 1;
      context.stroke();
      context.setLineDash([]);
      context.globalAlpha = 1;
    };
    solids.filter((s) => s.relation === 'below').forEach(paintSolid);
    drawGrid(canvas, sheet, view.grid, { line: colours.line, strong: colours.faint });
    solids.filter((s) => s.relation !== 'below').forEach(paintSolid);
    solids.filter((s) => selection?.kind === 'solids' && selection.ids.includes(s.id)).forEach(paintSolid);

    if (view.showSignals) drawSignals(context, place);
    for (const [id, object] of Object.entries(map.objects)) {
      const inBand = object.position[2] >= band.bottom - 1 && object.position[2] <= band.top;
      const chosen = selection?.kind === 'objects' && selection.ids.includes(id);
      if (!inBand && !chosen) continue;
      const [dx, dy] = moved(chosen);
      if (hasPart(profile, object.class, 'volume') || hasPart(profile, object.class, 'water') || hasPart(profile, object.class, 'mover') || chosen) {
        const box = classBox(profile, object);
        const [x0, y0] = place([box.min[0] + dx, box.max[1] + dy]);
        const [x1, y1] = place([box.max[0] + dx, box.min[1] + dy]);
        context.strokeStyle = chosen ? colours.warm : colours.clear;
        context.setLineDash(hasPart(profile, object.class, 'volume') ? [6, 4] : []);
        context.lineWidth = 1;
        context.strokeRect(x0, y0, x1 - x0, y1 - y0);
        context.setLineDash([]);
      }
      const [x, y] = place([object.position[0] + dx, object.position[1] + dy]);
      drawObjectMark(context, profile, object, x, y, chosen, sheet.scale > 0.9, colours, (-object.turn * Math.PI) / 180);
    }
    drawSectionLine(context, place);
    if (view.trail) drawTrail(context, view.trail.map(place));
    drawGesture(canvas, sheet);
  };

  const drawSignals = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    for (const signal of Object.values(map.signals)) {
      if (!('object' in signal.to)) continue;
      const [a, b] = [map.objects[signal.from], map.objects[signal.to.object]];
      if (!a || !b) continue;
      const touches = selection?.kind === 'objects' && (selection.ids.includes(signal.from) || selection.ids.includes(signal.to.object));
      context.globalAlpha = touches ? 1 : 0.35;
      context.lineWidth = touches ? 2 : 1;
      context.strokeStyle = touches ? colours.warm : colours.clear;
      arrow(context, place(a.position), place(b.position));
      context.globalAlpha = 1;
    }
  };

  const drawSectionLine = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    const [a, b] = [place(view.section.from), place(view.section.to)];
    context.strokeStyle = colours.warm;
    context.lineWidth = 1.2;
    context.setLineDash([10, 4, 2, 4]);
    context.beginPath();
    context.moveTo(...a);
    context.lineTo(...b);
    context.stroke();
    context.setLineDash([]);
    drawLabel(context, 'S', a[0] - 12, a[1] + 4, colours.warm, colours.ground);
    drawLabel(context, "S'", b[0] + 6, b[1] + 4, colours.warm, colours.ground);
  };

  const drawTrail = (context: CanvasRenderingContext2D, points: Point2[]) => {
    context.strokeStyle = colours.warm;
    context.lineWidth = 3;
    for (let i = 1; i < points.length; i++) arrow(context, points[i - 1], points[i]);
    const last = points[points.length - 1];
    drawLabel(context, 'leak', last[0] + 8, last[1] - 8, colours.warm, colours.ground);
  };

  const drawGesture = (canvas: Canvas2d, sheet: Sheet) => {
    const { context } = canvas;
    if (gesture?.kind === 'line') {
      context.strokeStyle = colours.warm;
      context.lineWidth = 2;
      arrow(context, toScreen(sheet, canvas, gesture.from), toScreen(sheet, canvas, gesture.to));
    }
    const rect = gesture && 'rect' in gesture ? gesture.rect : null;
    if (rect) {
      const [x0, y0] = toScreen(sheet, canvas, [rect.min[0], rect.max[1]]);
      const [x1, y1] = toScreen(sheet, canvas, [rect.max[0], rect.min[1]]);
      context.strokeStyle = colours.warm;
      context.lineWidth = 1.5;
      context.setLineDash(gesture!.kind === 'marquee' ? [4, 3] : []);
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
      context.setLineDash([]);
      if (gesture!.kind === 'draw' && tool === 'room') {
        const t = profile.shellThickness * sheet.scale;
        context.strokeRect(x0 - t, y0 - t, x1 - x0 + 2 * t, y1 - y0 + 2 * t);
      }
      if (gesture!.kind !== 'marquee') {
        const [w, d, h] = [rect.max[0] - rect.min[0], rect.max[1] - rect.min[1], band.top - band.bottom];
        drawLabel(
          context,
          `${w} × ${d} × ${h} ${profile.unit.plural} (${[w, d, h].map((v) => (v * profile.unit.metres).toFixed(2)).join(' × ')} m)`,
          x0,
          y0 - 8,
          colours.warm,
          colours.ground,
        );
      }
    } else if (selectionRect && tool === 'select' && gesture?.kind !== 'move')
      drawHandles(context, selectionRect, sheet, canvas, colours.warm, colours.ground);
  };

  const fit = (canvas: { width: number; height: number }) => {
    const boxes = [...Object.values(map.solids).map((s) => shapeOf(s).box), ...Object.values(map.objects).map((o) => boxOfPoints([o.position]))];
    if (boxes.length === 0) {
      const g = profile.grid.default * 16;
      return fitSheet(canvas, [-g, -g], [g, g]);
    }
    const all = boxOfPoints(boxes.flatMap((b) => [b.min, b.max]));
    return fitSheet(canvas, [all.min[0], all.min[1]], [all.max[0], all.max[1]]);
  };

  const readout = hover ? `x ${snap(hover[0])}  y ${snap(hover[1])}  grid ${view.grid}${view.snap ? '' : ' (free)'}` : `grid ${view.grid}`;
  const focus = view.focus ? { point: [view.focus.point[0], view.focus.point[1]] as Point2, count: view.focus.count } : null;
  const begin = Object.keys(map.solids).length === 0 && tool === 'select';
  return (
    <FlatView
      label={`Plan, ${band.name}`}
      testId="plan"
      fit={fit}
      fitKey={`${crateId}`}
      focus={focus}
      draw={draw}
      onPress={onPress}
      onDrag={onDrag}
      onRelease={onRelease}
      onDropAsset={dropAsset}
      onHover={(p) => setHover(p.at)}
      cursor={tool === 'select' ? 'default' : 'crosshair'}
      readout={readout}
    >
      {view.trail && (
        <div className="controls" style={{ right: '3.6rem' }}>
          <button className="btn btn-warm" onClick={() => dispatch(viewChanged({ trail: null }))} title="Hide the trail of the leak">
            <Icon name="x" /> Leak trail
          </button>
        </div>
      )}
      {begin && (
        <div className="begin">
          <div>
            <h2>An empty map</h2>
            <p className="faint mb-2">
              Begin with a room: press the button, then drag its floor here. Its height comes from the band in the section below.
            </p>
            <button className="btn btn-primary" onClick={() => dispatch(viewChanged({ tool: 'room' }))}>
              Draw a room <kbd>2</kbd>
            </button>
          </div>
        </div>
      )}
    </FlatView>
  );
}

/** Section lines prefer the axes; Shift draws them freely. */
function straight(from: Point2, to: Point2): Point2 {
  const [dx, dy] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
  if (dx > dy * 3) return [to[0], from[1]];
  if (dy > dx * 3) return [from[0], to[1]];
  return to;
}

export function arrow(context: CanvasRenderingContext2D, a: Point2, b: Point2): void {
  const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
  context.beginPath();
  context.moveTo(...a);
  context.lineTo(...b);
  context.moveTo(b[0] - 8 * Math.cos(angle - 0.4), b[1] - 8 * Math.sin(angle - 0.4));
  context.lineTo(...b);
  context.lineTo(b[0] - 8 * Math.cos(angle + 0.4), b[1] - 8 * Math.sin(angle + 0.4));
  context.stroke();
}
