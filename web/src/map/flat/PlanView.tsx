import { useMemo, useRef, useState } from 'react';
import { copyMembers, membersBox, transformMembers } from '@violet-crate/core/map/arrange';
import { countMembers } from '@violet-crate/core/document/members';
import { freshId, type MapEdit } from '@violet-crate/core/document/edit';
import { changePath } from '@violet-crate/core/document/path';
import { keysOf } from '@violet-crate/core/document/record';
import type { MapObject } from '@violet-crate/core/document/schema';
import { placeCopy } from '@violet-crate/core/map/prefab';
import { boxOfPoints, type Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { pushFace } from '@violet-crate/core/solid/cut';
import { insideOutline, shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import { shapeById } from '@violet-crate/core/solid/shapes';
import { rotation, translation, type Affine } from '@violet-crate/core/solid/transform';
import { Icon } from '../../common/Icon.tsx';
import { store, useAppDispatch, useAppSelector } from '../../state/store.ts';
import { cutSolids } from '../editing/cutting.ts';
import { classFor, drawShape, moveSelection, paint, placeObject, resize, surfaceUnder } from '../editing/edits.ts';
import { FlatView, type SheetPointer } from './FlatView.tsx';
import { cornersEdit, groupDistance, handleGroups, holds, movedCorners, type HandleGroup } from '../editing/handleGroups.ts';
import { dragHandle, drawHandles, handleAt, rectOf, scaleOf, withinRect, type Handle, type Rect } from './handles.ts';
import { documentOf, edited } from '../../state/mapSlice.ts';
import { marqueed, marqueeMode, type MarqueeMode } from './marquee.ts';
import { pickPlan, pickPlanFace, planRelation, snapToCorners, type Picked } from './planPick.ts';
import { arrow, drawChosen, drawPath, drawPlanBase, type PlanScene } from './planDraw.ts';
import { drawLabel, fitSheet, straight, toScreen, tracePolygon, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { drawTurnHandle, isTurnHandle, turnBetween } from './turnHandle.ts';
import { useShapeValues } from '../editing/useShapeValues.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { emptySelection, isEmpty, isShown, selected, viewChanged, type Selection } from '../../state/viewSlice.ts';

type Gesture =
  | { kind: 'move' | 'copy'; by: Point2 }
  | { kind: 'resize'; handle: Handle; rect: Rect }
  | { kind: 'turn'; centre: Point2; degrees: number }
  | { kind: 'draw'; rect: Rect }
  | { kind: 'marquee'; rect: Rect; how: MarqueeMode }
  | { kind: 'line'; from: Point2; to: Point2 }
  | { kind: 'push'; solid: string; face: number; by: number }
  | { kind: 'corners'; by: Point2 }
  | { kind: 'point'; path: string; index: number; to: Point2 };

const flat = (p: readonly number[]): Point2 => [p[0], p[1]];

export function PlanView() {
  const dispatch = useAppDispatch();
  const { map, whole, profile, view, band, snap, step } = useDocument();
  const crateId = useAppSelector((s) => s.crate.view?.id ?? '');
  const opened = useAppSelector((s) => s.map.opened);
  const real = useAppSelector((s) => s.map.map)!;
  const colours = useSheetColours();
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const [hover, setHover] = useState<{ at: Point2; screen: Point2 } | null>(null);
  const cycle = useRef<{ key: string; index: number }>({ key: '', index: 0 });
  const { tool, selection, mode } = view;
  const cut = band.bottom + (band.top - band.bottom) * 0.4;
  const shape = shapeById(tool === 'room' ? 'room' : view.shape);
  const values = useShapeValues(shape.id);
  const drawing = tool === 'room' || tool === 'solid';
  const refuse = (refusal: string) => dispatch(viewChanged({ refusal }));

  /** Around what is selected as a whole; it carries the handle for turning. */
  const selectionRect = useMemo((): Rect | null => {
    const box = mode === 'solids' && countMembers(selection) > 0 ? membersBox(map, profile, selection) : null;
    return box && { min: flat(box.min), max: flat(box.max) };
  }, [map, profile, selection, mode]);
  /** Objects and copies keep their size: handles for resizing are there for solids only. */
  const resizable = selectionRect !== null && selection.solids.length > 0 && selection.objects.length + selection.copies.length === 0;

  const groups = useMemo(
    () => (mode === 'corners' || mode === 'edges' ? handleGroups(map, selection.solids, mode, flat) : []),
    [map, selection.solids, mode],
  );

  /** A point on the grid, or on a corner or edge nearby where that is asked for. */
  const snapped = (at: Point2, sheet: Sheet): Point2 =>
    (view.snapCorners ? snapToCorners(whole, at, 9 / sheet.scale, view) : null) ?? [snap(at[0]), snap(at[1])];
  const heightAt = (at: Point2): number => surfaceUnder(whole, at[0], at[1], band.top - step / 2, band.bottom);

  /** On half steps of the grid, so that quarter turns stay on it. */
  const turnCentre = ({ min, max }: Rect): Point2 => [snap(min[0] + max[0]) / 2, snap(min[1] + max[1]) / 2];

  const pickedIs = (p: Picked) => selection[p.kind].includes(p.id);
  const groupAt = ({ at, sheet }: SheetPointer): HandleGroup | null =>
    groups
      .map((group) => ({ group, away: groupDistance(group, at) * sheet.scale }))
      .filter(({ away }) => away <= 8)
      .sort((a, b) => a.away - b.away)[0]?.group ?? null;

  const onPress = (pointer: SheetPointer) => {
    if (view.refusal) refuse('');
    const at = snapped(pointer.at, pointer.sheet);
    if (drawing) return setGesture({ kind: 'draw', rect: rectOf(at, at) });
    if (tool === 'section' || tool === 'cut') return setGesture({ kind: 'line', from: at, to: at });
    if (tool !== 'select' || view.picking) return;
    const marquee = () => setGesture({ kind: 'marquee', rect: rectOf(pointer.at, pointer.at), how: marqueeMode(pointer) });
    if (mode === 'corners' || mode === 'edges') {
      const group = groupAt(pointer);
      if (group) {
        if (!holds(selection, group))
          dispatch(selected({ ...selection, corners: pointer.shift ? [...selection.corners, ...group.corners] : group.corners }));
        return setGesture({ kind: 'corners', by: [0, 0] });
      }
    }
    if (mode === 'faces') {
      const face = pickPlanFace(map, pointer, cut, view);
      if (face) {
        const known = selection.faces.some((f) => f.solid === face.solid && f.face === face.face);
        if (!known) selectFace(face, pointer.shift);
        if (Math.abs(map.solids[face.solid].faces[face.face].normal[2]) < 0.01) setGesture({ kind: 'push', ...face, by: 0 });
      }
      return;
    }
    const point = pathPointAt(pointer);
    if (point) return setGesture({ kind: 'point', ...point, to: pointer.at });
    if (selectionRect && isTurnHandle(selectionRect, pointer.sheet, pointer.canvas, pointer.at))
      return setGesture({ kind: 'turn', centre: turnCentre(selectionRect), degrees: 0 });
    const handle = resizable && handleAt(selectionRect, pointer.sheet, pointer.canvas, pointer.at);
    if (handle) return setGesture({ kind: 'resize', handle, rect: selectionRect });
    if (pointer.shift || pointer.control) return marquee();
    const under = pickPlan(map, whole, pointer, cut, band, view);
    if (under.some(pickedIs)) return setGesture({ kind: pointer.alt ? 'copy' : 'move', by: [0, 0] });
    const first = under[0];
    // Floors lie under everything; a press on one begins a marquee, and only a click selects it.
    const grabs = first && (first.kind !== 'solids' || planRelation(shapeOf(map.solids[first.id]).box, cut) === 'cut');
    if (grabs && mode === 'solids') {
      dispatch(selected({ kind: first.kind, ids: [first.id] }));
      setGesture({ kind: pointer.alt ? 'copy' : 'move', by: [0, 0] });
    } else marquee();
  };

  const pathPointAt = ({ at, sheet }: SheetPointer): { path: string; index: number } | null => {
    for (const path of selection.paths) {
      const index = map.paths[path]?.points.findIndex((p) => Math.hypot(p[0] - at[0], p[1] - at[1]) * sheet.scale <= 8) ?? -1;
      if (index >= 0) return { path, index };
    }
    return null;
  };

  const selectFace = (face: { solid: string; face: number }, add: boolean) => {
    const faces = add ? [...selection.faces, face] : [face];
    dispatch(selected({ ...emptySelection, solids: [...new Set(faces.map((f) => f.solid))], faces }));
  };

  const onDrag = (pointer: SheetPointer) => {
    setHover({ at: pointer.at, screen: toScreen(pointer.sheet, pointer.canvas, pointer.at) });
    if (!gesture || !pointer.moved) return;
    const at = snapped(pointer.at, pointer.sheet);
    const from = snapped(pointer.from, pointer.sheet);
    const delta: Point2 = [snap(pointer.at[0] - pointer.from[0]), snap(pointer.at[1] - pointer.from[1])];
    switch (gesture.kind) {
      case 'draw':
        return setGesture({ kind: 'draw', rect: rectOf(from, at) });
      case 'line':
        return setGesture({ ...gesture, to: pointer.shift ? at : straight(gesture.from, at) });
      case 'marquee':
        return setGesture({ ...gesture, rect: rectOf(pointer.from, pointer.at) });
      case 'move':
      case 'copy':
        return setGesture({ kind: pointer.alt ? 'copy' : 'move', by: delta });
      case 'corners':
        return setGesture({ kind: 'corners', by: delta });
      case 'point':
        return setGesture({ ...gesture, to: at });
      case 'push': {
        const { normal } = map.solids[gesture.solid].faces[gesture.face];
        return setGesture({ ...gesture, by: snap((pointer.at[0] - pointer.from[0]) * normal[0] + (pointer.at[1] - pointer.from[1]) * normal[1]) });
      }
      case 'turn':
        return setGesture({ ...gesture, degrees: turnBetween(gesture.centre, pointer.from, pointer.at, pointer.shift) });
      case 'resize':
        if (selectionRect) setGesture({ ...gesture, rect: dragHandle(selectionRect, gesture.handle, at, profile.grid.min) });
    }
  };

  const commit = (edit: MapEdit | null) => edit && dispatch(edited(edit));
  const commitMade = (made: { edit: MapEdit; selection: Parameters<typeof selected>[0] } | null) => {
    if (!made) return;
    dispatch(edited(made.edit));
    dispatch(selected(made.selection));
  };

  const onRelease = (pointer: SheetPointer) => {
    const done = gesture;
    setGesture(null);
    const at = snapped(pointer.at, pointer.sheet);
    if (!pointer.moved) {
      if (tool === 'place') return placeAt(at);
      if (tool === 'path') return addPathPoint(at, pointer);
      if (tool === 'measure') return void dispatch(viewChanged({ measure: [...view.measure, [...at, heightAt(at)]] }));
      if (done && done.kind !== 'marquee' && done.kind !== 'move' && done.kind !== 'copy') return;
      return click(pointer);
    }
    if (!done) return;
    switch (done.kind) {
      case 'draw':
        return commitDrawing(done.rect);
      case 'line':
        return commitLine(done.from, done.to);
      case 'marquee':
        return commitMarquee(done.rect, done.how);
      case 'move':
        return void commit(moveSelection(map, selection, [...done.by, 0]));
      case 'copy': {
        const made = copyMembers(map, profile, selection, [translation([...done.by, 0])], 'copy');
        return commitMade(made && { edit: made.edit, selection: made.members as Partial<Selection> });
      }
      case 'point': {
        const edit = changePath(
          map,
          done.path,
          (points) => points.map((p, i): Vec3 => (i === done.index ? [...done.to, heightAt(done.to)] : p)),
          'move path point',
        );
        return void commit(edit);
      }
      case 'push': {
        const next = pushFace(map.solids[done.solid], done.face, done.by);
        if (typeof next === 'string') return refuse(next);
        return void commit({ name: 'push face', changes: [{ of: 'solids', id: done.solid, to: next }] });
      }
      case 'corners': {
        const edit = cornersEdit(map, movedCorners(map, selection, [...done.by, 0], pointer.alt));
        if (typeof edit === 'string') return refuse(`${edit}${edit.includes('concave') ? ' (Hold Alt to split it.)' : ''}`);
        dispatch(selected({ ...selection, corners: [] }));
        return void commit(edit);
      }
      case 'turn':
        return void commit(done.degrees === 0 ? null : transformMembers(map, selection, turnOf(done), 'turn'));
      case 'resize': {
        if (selection.solids.length > 1) return void commit(transformMembers(map, selection, scaleOf(selectionRect!, done.rect), 'scale'));
        const [id] = selection.solids;
        const { box } = shapeOf(map.solids[id]);
        return void commit(resize(map, id, { min: [...done.rect.min, box.min[2]], max: [...done.rect.max, box.max[2]] }));
      }
    }
  };

  const placeAt = (at: Point2) => {
    if (view.placePrefab) {
      const made = placeCopy(map, profile, view.placePrefab, [...at, heightAt(at)]);
      return commitMade({ edit: made.edit, selection: { kind: 'copies', ids: [made.copy] } });
    }
    if (!view.placeClass) return;
    const asset = view.placeAsset
      ? { kind: view.placeAsset.startsWith('sounds/') ? ('sound' as const) : ('model' as const), path: view.placeAsset }
      : undefined;
    commitMade(placeObject(map, profile, view.placeClass, at, band, asset));
  };

  const addPathPoint = (at: Point2, { sheet }: SheetPointer) => {
    const draft = view.pathDraft;
    const closes = draft.length > 2 && Math.hypot(draft[0][0] - at[0], draft[0][1] - at[1]) * sheet.scale < 9;
    if (closes) return finishPath(true);
    dispatch(viewChanged({ pathDraft: [...draft, [...at, heightAt(at)]] }));
  };
  const finishPath = (loop: boolean) => {
    // The map as it is now: a key may finish a path after others have changed the map.
    const { map: slice, view: now } = store.getState();
    const current = documentOf(slice.map!, slice.opened);
    const points = now.pathDraft;
    if (points.length >= 2) {
      const id = freshId(current.paths, 'w');
      const names = new Set(Object.values(current.paths).map((p) => p.name));
      let name = 'path';
      for (let n = 2; names.has(name); n++) name = `path_${n}`;
      commitMade({
        edit: { name: 'draw path', changes: [{ of: 'paths', id, to: { name, points, loop } }] },
        selection: { kind: 'paths', ids: [id] },
      });
    }
    dispatch(viewChanged({ pathDraft: [], tool: 'select' }));
  };

  /** A click selects; the next one at the same place what lies behind. Shift adds, Control takes away. */
  const click = (pointer: SheetPointer) => {
    if (tool !== 'select') return;
    const under = pickPlan(map, whole, pointer, cut, band, view);
    if (view.picking) {
      const target = under.find((p) => p.kind === 'objects' && (!view.picking!.of || view.picking!.of.includes(map.objects[p.id].class)));
      const [id] = selection.objects;
      if (!target || !map.objects[id]) return refuse('Click an object, or press Escape.');
      const object = map.objects[id];
      commit({
        name: `set ${view.picking.property}`,
        changes: [{ of: 'objects', id, to: { ...object, properties: { ...object.properties, [view.picking.property]: target.id } } }],
      });
      return void dispatch(viewChanged({ picking: null }));
    }
    if (under.length === 0) return pointer.shift || pointer.control ? undefined : void dispatch(selected(null));
    if (pointer.shift || pointer.control) {
      const { kind, id } = under[0];
      const rest = selection[kind].filter((other) => other !== id);
      return void dispatch(
        selected({ ...selection, [kind]: pointer.control || rest.length < selection[kind].length ? rest : [...rest, id], faces: [], corners: [] }),
      );
    }
    const key = under.map((u) => u.id).join();
    const index = cycle.current.key === key ? (cycle.current.index + 1) % under.length : 0;
    cycle.current = { key, index };
    dispatch(selected({ kind: under[index].kind, ids: [under[index].id] }));
  };

  /** A model or sound is placed, a material covers the uppermost solid there. */
  const dropAsset = (id: string, pointer: SheetPointer) => {
    const at = snapped(pointer.at, pointer.sheet);
    if (id.startsWith('material:')) {
      const target = pickPlan(map, whole, pointer, cut, band, view).find((s) => s.kind === 'solids');
      return void commit(target ? paint(map, { solids: [target.id] }, id.slice('material:'.length)) : null);
    }
    const kind = id.startsWith('sounds/') ? 'sound' : 'model';
    const target = classFor(profile, kind);
    if (target) commitMade(placeObject(map, profile, target.id, at, band, { kind, path: id }));
  };

  const boxOf = (rect: Rect): Box3 => ({ min: [...rect.min, band.bottom], max: [...rect.max, band.top] });
  const commitDrawing = (rect: Rect) => {
    if (rect.max[0] - rect.min[0] < profile.grid.min || rect.max[1] - rect.min[1] < profile.grid.min) return;
    commitMade(drawShape(map, shape.id, values, boxOf(rect), view.material || profile.defaultMaterial));
    dispatch(viewChanged({ tool: 'select', mode: 'solids' }));
  };

  const commitLine = (from: Point2, to: Point2) => {
    const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
    if (length === 0) return;
    if (tool === 'section') return void dispatch(viewChanged({ section: { from, to }, tool: 'select' }));
    const normal: Vec3 = [-(to[1] - from[1]) / length, (to[0] - from[0]) / length, 0];
    // Without a selection the line cuts what it crosses at the height of the plan's cut.
    const crossed = () =>
      Object.keys(map.solids).filter((id) => {
        const { outline, box } = shapeOf(map.solids[id]);
        if (planRelation(box, cut) === 'above' || !isShown(view, 'solids', id, map.solids[id].layer)) return false;
        return (
          outline.some((p, i) => crosses(from, to, p, outline[(i + 1) % outline.length])) ||
          (insideOutline(outline, from) && insideOutline(outline, to))
        );
      });
    const made = cutSolids(
      map,
      selection.solids.length > 0 ? selection.solids : crossed(),
      { normal, distance: normal[0] * from[0] + normal[1] * from[1] },
      view.keep,
    );
    if (!made) return refuse('The line crosses no solid.');
    commitMade(made);
    dispatch(viewChanged({ tool: 'select' }));
  };

  const commitMarquee = (rect: Rect, how: MarqueeMode) => {
    const within = (p: readonly number[]) => withinRect(rect, p);
    const found = {
      solids: Object.keys(map.solids).filter(
        (id) => isShown(view, 'solids', id, map.solids[id].layer) && shapeOf(map.solids[id]).outline.every(within),
      ),
      objects: Object.keys(map.objects).filter((id) => {
        const { position, layer } = map.objects[id];
        return within(position) && position[2] >= band.bottom - 1 && position[2] <= band.top && isShown(view, 'objects', id, layer);
      }),
      copies: Object.keys(map.copies).filter((id) => within(map.copies[id].position)),
      paths: Object.keys(map.paths).filter((id) => map.paths[id].points.every(within)),
    };
    dispatch(selected(marqueed(selection, found, how)));
  };

  const scene: PlanScene = { map, whole, profile, view, cut, band, colours };

  const draw = (canvas: Canvas2d, sheet: Sheet) => {
    const { context } = canvas;
    const place = (p: readonly number[]): Point2 => toScreen(sheet, canvas, [p[0], p[1]]);
    if (gesture?.kind === 'copy') drawChosen(canvas, sheet, scene, [0, 0]);
    drawChosen(canvas, sheet, scene, gesture?.kind === 'move' || gesture?.kind === 'copy' ? gesture.by : [0, 0]);
    drawContext(context, place);
    for (const group of groups) drawGroup(context, place, group);
    drawSectionLine(context, place);
    if (view.trail) drawTrail(context, view.trail.map(place));
    drawPath(context, place, view.pathDraft, false, '', colours.warm, colours.ground, true);
    drawMeasure(context, place);
    drawGesture(canvas, sheet, place);
    if (view.refusal && hover) drawLabel(context, view.refusal, hover.screen[0] + 14, hover.screen[1] - 14, colours.warm, colours.ground);
    else if (hover) drawHint(context, hover.screen);
    if (view.figure && hover) {
      context.strokeStyle = colours.clear;
      context.beginPath();
      context.arc(...hover.screen, profile.player.radius * sheet.scale, 0, 2 * Math.PI);
      context.stroke();
    }
  };

  /** Around an opened prefab, its map in outline. */
  const drawContext = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    if (!opened) return;
    context.strokeStyle = colours.faint;
    context.globalAlpha = 0.22;
    context.lineWidth = 1;
    for (const solid of Object.values(real.solids)) {
      tracePolygon(context, shapeOf(solid).outline.map(place));
      context.stroke();
    }
    context.globalAlpha = 1;
  };

  const drawGroup = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2, group: HandleGroup) => {
    const on = holds(selection, group);
    const ends = group.ends.map(place);
    context.strokeStyle = colours.warm;
    context.fillStyle = on ? colours.warm : colours.ground;
    if (ends.length === 2) {
      context.lineWidth = on ? 5 : 2.5;
      context.globalAlpha = on ? 1 : 0.6;
      context.beginPath();
      context.moveTo(...ends[0]);
      context.lineTo(...ends[1]);
      context.stroke();
      context.globalAlpha = 1;
      return;
    }
    context.lineWidth = 1.5;
    context.beginPath();
    context.arc(ends[0][0], ends[0][1], on ? 6 : 5, 0, 2 * Math.PI);
    context.fill();
    context.stroke();
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

  const drawMeasure = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2) => {
    if (tool !== 'measure') return;
    const points = [...view.measure, ...(hover && view.measure.length > 0 ? [[snap(hover.at[0]), snap(hover.at[1]), 0] as Vec3] : [])].map(place);
    context.strokeStyle = colours.clear;
    context.lineWidth = 2;
    for (let i = 1; i < points.length; i++) arrow(context, points[i - 1], points[i]);
    view.measure.forEach((p, i) =>
      drawLabel(context, `${i + 1}: z ${Math.round(p[2])}`, points[i][0] + 8, points[i][1] - 6, colours.clear, colours.ground),
    );
  };

  /** What the tool wants next, beside the pointer. */
  const drawHint = (context: CanvasRenderingContext2D, [x, y]: Point2) => {
    const hint = view.picking
      ? 'Click the object (Esc to leave it)'
      : tool === 'path'
        ? view.pathDraft.length < 2
          ? 'Click the points of the path'
          : 'Enter ends it, the first point closes it'
        : tool === 'cut' && !gesture
          ? `Drag a line across; ${view.keep === 'both' ? 'both parts stay' : `the ${view.keep} part stays`}`
          : tool === 'measure' && view.measure.length === 0
            ? 'Click two or more points'
            : tool === 'place'
              ? `Click where ${view.placePrefab ? 'the copy' : 'it'} stands`
              : (mode === 'corners' || mode === 'edges') && selection.solids.length === 0
                ? `Select a solid to see its ${mode}`
                : '';
    if (hint) drawLabel(context, hint, x + 14, y + 22, colours.ink, colours.ground);
  };

  const drawGesture = (canvas: Canvas2d, sheet: Sheet, place: (p: readonly number[]) => Point2) => {
    const { context } = canvas;
    if (gesture?.kind === 'line') {
      context.strokeStyle = colours.warm;
      context.lineWidth = 2;
      arrow(context, place(gesture.from), place(gesture.to));
    } else if (gesture?.kind === 'push') {
      const next = pushFace(map.solids[gesture.solid], gesture.face, gesture.by);
      if (typeof next === 'string')
        drawLabel(
          context,
          next,
          place(shapeOf(map.solids[gesture.solid]).box.max)[0] + 8,
          place(shapeOf(map.solids[gesture.solid]).box.max)[1],
          colours.warm,
          colours.ground,
        );
      else outline(context, place, shapeOf(next).outline, `${gesture.by > 0 ? '+' : ''}${gesture.by}`);
    } else if (gesture?.kind === 'corners') {
      for (const result of Object.values(movedCorners(map, selection, [...gesture.by, 0], true))) {
        if ('reason' in result) {
          if (hover) drawLabel(context, result.reason, hover.screen[0] + 14, hover.screen[1] - 14, colours.warm, colours.ground);
        } else
          for (const solid of result.solids) outline(context, place, shapeOf(solid).outline, result.solids.length > 1 ? '' : gesture.by.join(', '));
      }
    } else if (gesture?.kind === 'point') {
      const points = map.paths[gesture.path].points.map((p, i): Vec3 => (i === gesture.index ? [...gesture.to, p[2]] : p));
      drawPath(context, place, points, map.paths[gesture.path].loop, '', colours.warm, colours.ground, true);
    }
    const shapesUnder = (affine: Affine) => {
      for (const change of transformMembers(map, selection, affine, '')?.changes ?? [])
        if (change.of === 'solids' && change.to) outline(context, place, shapeOf(change.to).outline, '');
        else if (change.of === 'objects' && change.to) drawTurned(context, place, change.to);
    };
    if (gesture?.kind === 'turn') {
      if (gesture.degrees !== 0) shapesUnder(turnOf(gesture));
      if (hover) drawLabel(context, `${gesture.degrees}°`, hover.screen[0] + 14, hover.screen[1] - 14, colours.warm, colours.ground);
      return;
    }
    if (gesture?.kind === 'resize' && selection.solids.length > 1) shapesUnder(scaleOf(selectionRect!, gesture.rect));
    const rect = gesture && 'rect' in gesture ? gesture.rect : null;
    if (rect) {
      const [x0, y0] = place([rect.min[0], rect.max[1]]);
      const [x1, y1] = place([rect.max[0], rect.min[1]]);
      context.strokeStyle = colours.warm;
      context.lineWidth = 1.5;
      context.setLineDash(gesture!.kind === 'marquee' ? [4, 3] : []);
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
      context.setLineDash([]);
      if (gesture!.kind === 'draw') drawShapePreview(context, place, rect);
      if (gesture!.kind !== 'marquee') {
        const [w, d, h] = [rect.max[0] - rect.min[0], rect.max[1] - rect.min[1], band.top - band.bottom];
        const size = `${w} × ${d} × ${h} ${profile.unit.plural} (${[w, d, h].map((v) => (v * profile.unit.metres).toFixed(2)).join(' × ')} m)`;
        drawLabel(context, size, x0, y0 - 8, colours.warm, colours.ground);
        const note = gesture!.kind === 'draw' && w > 0 && d > 0 ? shape.note?.(boxOf(rect), values, profile) : null;
        if (note) drawLabel(context, `${note.good ? '✓' : '!'} ${note.says}`, x0, y0 - 26, note.good ? colours.clear : colours.warm, colours.ground);
      }
    } else if (selectionRect && tool === 'select' && gesture?.kind !== 'move' && gesture?.kind !== 'copy') {
      if (resizable) drawHandles(context, selectionRect, sheet, canvas, colours.warm, colours.ground);
      drawTurnHandle(context, selectionRect, sheet, canvas, colours.warm, colours.ground);
    }
  };

  const drawTurned = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2, { position, turn }: MapObject) => {
    const ahead = (turn * Math.PI) / 180;
    const reach = profile.player.radius * 2;
    context.strokeStyle = colours.warm;
    context.lineWidth = 2;
    arrow(context, place(position), place([position[0] + Math.cos(ahead) * reach, position[1] + Math.sin(ahead) * reach]));
  };

  const outline = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2, points: readonly Point2[], label: string) => {
    tracePolygon(context, points.map(place));
    context.strokeStyle = colours.warm;
    context.lineWidth = 2;
    context.stroke();
    if (label) drawLabel(context, label, place(points[0])[0] + 8, place(points[0])[1] - 8, colours.warm, colours.ground);
  };

  /** The solids as they will be, while they are still dragged. */
  const drawShapePreview = (context: CanvasRenderingContext2D, place: (p: readonly number[]) => Point2, rect: Rect) => {
    if (rect.max[0] - rect.min[0] < profile.grid.min || rect.max[1] - rect.min[1] < profile.grid.min) return;
    context.globalAlpha = 0.8;
    for (const solid of shape.make(boxOf(rect), values, '')) {
      tracePolygon(context, shapeOf(solid).outline.map(place));
      context.stroke();
    }
    context.globalAlpha = 1;
  };

  const fit = (canvas: { width: number; height: number }) => {
    const boxes = [...Object.values(whole.solids).map((s) => shapeOf(s).box), ...Object.values(whole.objects).map((o) => boxOfPoints([o.position]))];
    if (boxes.length === 0) {
      const g = profile.grid.default * 16;
      return fitSheet(canvas, [-g, -g], [g, g]);
    }
    const all = boxOfPoints(boxes.flatMap((b) => [b.min, b.max]));
    return fitSheet(canvas, [all.min[0], all.min[1]], [all.max[0], all.max[1]]);
  };

  const readout = hover ? `x ${snap(hover.at[0])}  y ${snap(hover.at[1])}  grid ${view.grid}${view.snap ? '' : ' (free)'}` : `grid ${view.grid}`;
  const focus = view.focus ? { ...view.focus, point: flat(view.focus.point) } : null;
  const begin = keysOf(whole.solids).length === 0 && !opened && tool === 'select';
  return (
    <FlatView
      label={opened ? `Plan, prefab ${real.prefabs[real.copies[opened]?.prefab]?.name ?? ''}` : `Plan, ${band.name}`}
      testId="plan"
      fit={fit}
      fitKey={crateId}
      focus={focus}
      drawBase={(canvas, sheet) => drawPlanBase(canvas, sheet, scene)}
      baseOf={[whole, map, colours, cut, band, view.grid, view.showSignals, view.hidden, view.hiddenLayers, view.compared, selectionKey(selection)]}
      draw={draw}
      onPress={onPress}
      onDrag={onDrag}
      onRelease={onRelease}
      onDropAsset={dropAsset}
      onHover={(p) => setHover({ at: p.at, screen: toScreen(p.sheet, p.canvas, p.at) })}
      onEnter={() => tool === 'path' && finishPath(false)}
      cursor={tool === 'select' && !view.picking ? 'default' : 'crosshair'}
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

/** Changes when other members are selected: they are drawn over the base instead of in it. */
const selectionKey = (selection: Selection): string =>
  isEmpty(selection) ? '' : [selection.solids, selection.objects, selection.copies, selection.paths].map((ids) => ids.join()).join('|');

const turnOf = ({ centre, degrees }: { centre: Point2; degrees: number }): Affine => rotation(2, degrees, [...centre, 0]);

/** Whether two segments cross. */
function crosses(a: Point2, b: Point2, c: Point2, d: Point2): boolean {
  const side = (p: Point2, q: Point2, r: Point2) => (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
  return side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
}
