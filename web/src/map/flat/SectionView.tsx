import { useMemo, useState } from 'react';
import { copyMembers } from '@violet-crate/core/map/arrange';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { classBox } from '@violet-crate/core/map/objectBox';
import { copyOf } from '@violet-crate/core/map/prefab';
import { boxOfPoints, type Box3 } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { pushFace } from '@violet-crate/core/solid/cut';
import { insideOutline, sectionDirection, shapeOf, sliceSolid, type Point2 } from '@violet-crate/core/solid/shape';
import { translation } from '@violet-crate/core/solid/transform';
import { shapeById } from '@violet-crate/core/solid/shapes';
import { useAppDispatch } from '../../state/store.ts';
import { cutSolids } from '../editing/cutting.ts';
import { drawShape, moveSelection, resize } from '../editing/edits.ts';
import { FlatView, type SheetPointer } from './FlatView.tsx';
import { cornersEdit, groupDistance, handleGroups, holds, movedCorners } from '../editing/handleGroups.ts';
import { dragHandle, drawHandles, handleAt, rectOf, withinRect, type Handle, type Rect } from './handles.ts';
import { marqueed, marqueeMode, type MarqueeMode } from './marquee.ts';
import { edited } from '../../state/mapSlice.ts';
import { drawObjectMark } from '../editing/objectMark.ts';
import { arrow, isChosen } from './planDraw.ts';
import { segmentDistance, snapToOutlines, type Picked } from './planPick.ts';
import { drawGrid, drawLabel, fitSheet, straight, toScreen, tracePolygon, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { useDocument, useSheetColours } from '../editing/useDocument.ts';
import { useShapeValues } from '../editing/useShapeValues.ts';
import { emptySelection, isShown, selected, viewChanged, type Selection } from '../../state/viewSlice.ts';

type Gesture =
  | { kind: 'move' | 'copy'; by: Point2 }
  | { kind: 'resize'; handle: Handle; rect: Rect }
  | { kind: 'band'; edge: 'bottom' | 'top'; value: number }
  | { kind: 'draw'; rect: Rect }
  | { kind: 'marquee'; rect: Rect; how: MarqueeMode }
  | { kind: 'line'; from: Point2; to: Point2 }
  | { kind: 'push'; solid: string; face: number; by: number }
  | { kind: 'corners'; by: Point2 };

const GRIP_REACH = 8;

/** The vertical cut along the plan's section line, with the active band as a pair of handles. */
export function SectionView() {
  const dispatch = useAppDispatch();
  const { map, whole, profile, view, band, snap } = useDocument();
  const colours = useSheetColours();
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const [hover, setHover] = useState<{ at: Point2; screen: Point2 } | null>(null);
  const { selection, section, tool, mode } = view;
  const shape = shapeById(tool === 'room' ? 'room' : view.shape);
  const values = useShapeValues(shape.id);
  const direction = sectionDirection(section);
  const along = (p: readonly number[]) => (p[0] - section.from[0]) * direction[0] + (p[1] - section.from[1]) * direction[1];
  const across = (p: readonly number[]) => (p[1] - section.from[1]) * direction[0] - (p[0] - section.from[0]) * direction[1];
  const project = (p: Vec3): Point2 => [along(p), p[2]];
  const length = Math.hypot(section.to[0] - section.from[0], section.to[1] - section.from[1]);
  const near = profile.player.height * 1.5;
  /** World axis along which the line runs, or null when it is oblique. */
  const axis = Math.abs(direction[0]) > 0.999 ? 0 : Math.abs(direction[1]) > 0.999 ? 1 : null;
  const refuse = (refusal: string) => dispatch(viewChanged({ refusal }));

  const slices = useMemo(
    () =>
      Object.entries(whole.solids).flatMap(([id, solid]): { id: string; outline: Point2[] }[] => {
        if (!isShown(view, 'solids', id, solid.layer)) return [];
        const outline = sliceSolid(solid, section);
        return outline ? [{ id, outline }] : [];
      }),
    // Only what hides things matters of the view.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [whole.solids, section, view.hidden, view.hiddenLayers],
  );
  const objects = useMemo(
    () =>
      Object.entries(whole.objects).filter(
        ([id, o]) => isShown(view, 'objects', id, o.layer) && (Math.abs(across(o.position)) <= near || isChosen(map, selection, 'objects', id)),
      ),
    // Only what hides things matters of the view; `across` is made of the section line.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [whole.objects, map, selection, section, near, view.hidden, view.hiddenLayers],
  );
  const groups = useMemo(
    () => (mode === 'corners' || mode === 'edges' ? handleGroups(map, selection.solids, mode, project) : []),
    // `project` is made of the section line.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [map, selection.solids, mode, section],
  );

  const selectionRect = useMemo((): Rect | null => {
    if (mode !== 'solids' || selection.solids.length !== 1 || selection.objects.length + selection.copies.length > 0) return null;
    const slice = slices.find((s) => s.id === selection.solids[0]);
    if (!slice) return null;
    const us = slice.outline.map((p) => p[0]);
    const vs = slice.outline.map((p) => p[1]);
    return { min: [Math.min(...us), Math.min(...vs)], max: [Math.max(...us), Math.max(...vs)] };
  }, [selection, slices, mode]);

  const live = gesture?.kind === 'band' ? { ...band, [gesture.edge]: gesture.value } : band;

  const pick = ({ at, sheet }: SheetPointer): Picked | null => {
    const as = (kind: 'solids' | 'objects', id: string): Picked => {
      const copy = copyOf(map, id);
      return copy ? { kind: 'copies', id: copy } : { kind, id };
    };
    const object = objects
      .map(([id, o]) => ({ id, away: Math.hypot(along(o.position) - at[0], o.position[2] - at[1]) * sheet.scale }))
      .filter((o) => o.away < 10)
      .sort((a, b) => a.away - b.away)[0];
    if (object) return as('objects', object.id);
    const solid = slices.find((s) => insideOutline(s.outline, at));
    return solid ? as('solids', solid.id) : null;
  };

  /** The face whose cut edge is under the pointer. */
  const pickFace = ({ at, sheet }: SheetPointer): { solid: string; face: number } | null => {
    let best: { solid: string; face: number } | null = null;
    let nearest = 8 / sheet.scale;
    for (const { id, outline } of slices) {
      if (!map.solids[id]) continue;
      outline.forEach((p, i) => {
        const q = outline[(i + 1) % outline.length];
        const away = segmentDistance(at, p, q);
        if (away >= nearest) return;
        const middle: Vec3 = [
          section.from[0] + (direction[0] * (p[0] + q[0])) / 2,
          section.from[1] + (direction[1] * (p[0] + q[0])) / 2,
          (p[1] + q[1]) / 2,
        ];
        const face = map.solids[id].faces.findIndex(
          (f) => Math.abs(f.normal[0] * middle[0] + f.normal[1] * middle[1] + f.normal[2] * middle[2] - f.distance) < 0.01,
        );
        if (face >= 0) [best, nearest] = [{ solid: id, face }, away];
      });
    }
    return best;
  };

  const snapped = (at: Point2, sheet: Sheet): Point2 =>
    (view.snapCorners
      ? snapToOutlines(
          slices.map((s) => s.outline),
          at,
          9 / sheet.scale,
        )
      : null) ?? [snap(at[0]), snap(at[1])];

  const onPress = (pointer: SheetPointer) => {
    if (view.refusal) refuse('');
    const at = snapped(pointer.at, pointer.sheet);
    const [x, y] = toScreen(pointer.sheet, pointer.canvas, pointer.at);
    for (const edge of ['top', 'bottom'] as const) {
      const [, edgeY] = toScreen(pointer.sheet, pointer.canvas, [0, band[edge]]);
      if (Math.abs(edgeY - y) <= GRIP_REACH && x > pointer.canvas.width - 130) return setGesture({ kind: 'band', edge, value: band[edge] });
    }
    if (tool === 'solid' || tool === 'room') return setGesture({ kind: 'draw', rect: { min: at, max: at } });
    if (tool === 'cut') return setGesture({ kind: 'line', from: at, to: at });
    if (tool !== 'select') return;
    if (mode === 'corners' || mode === 'edges') {
      const group = groups
        .map((g) => ({ g, away: groupDistance(g, pointer.at) * pointer.sheet.scale }))
        .filter(({ away }) => away <= 8)
        .sort((a, b) => a.away - b.away)[0]?.g;
      if (group) {
        if (!holds(selection, group))
          dispatch(selected({ ...selection, corners: pointer.shift ? [...selection.corners, ...group.corners] : group.corners }));
        return setGesture({ kind: 'corners', by: [0, 0] });
      }
    }
    if (mode === 'faces') {
      const face = pickFace(pointer);
      if (face) {
        const faces = pointer.shift ? [...selection.faces, face] : [face];
        dispatch(selected({ ...emptySelection, solids: [...new Set(faces.map((f) => f.solid))], faces }));
        return setGesture({ kind: 'push', ...face, by: 0 });
      }
    }
    const handle = selectionRect && handleAt(selectionRect, pointer.sheet, pointer.canvas, pointer.at);
    if (handle && selectionRect) return setGesture({ kind: 'resize', handle: [axis === null ? 0 : handle[0], handle[1]], rect: selectionRect });
    const found = pick(pointer);
    const same = found && selection[found.kind].includes(found.id);
    if (!same) {
      if (found && pointer.shift) dispatch(selected({ ...selection, [found.kind]: [...selection[found.kind], found.id] }));
      else if (found || marqueeMode(pointer) === 'replace') dispatch(selected(found && { kind: found.kind, ids: [found.id] }));
    }
    if (found) setGesture({ kind: pointer.alt ? 'copy' : 'move', by: [0, 0] });
    else setGesture({ kind: 'marquee', rect: rectOf(pointer.at, pointer.at), how: marqueeMode(pointer) });
  };

  const onDrag = (pointer: SheetPointer) => {
    setHover({ at: pointer.at, screen: toScreen(pointer.sheet, pointer.canvas, pointer.at) });
    if (!gesture || !pointer.moved) return;
    const at = snapped(pointer.at, pointer.sheet);
    const from = snapped(pointer.from, pointer.sheet);
    const delta: Point2 = [snap(pointer.at[0] - pointer.from[0]), snap(pointer.at[1] - pointer.from[1])];
    switch (gesture.kind) {
      case 'band': {
        const allowed = gesture.edge === 'top' ? Math.max(at[1], band.bottom + profile.grid.min) : Math.min(at[1], band.top - profile.grid.min);
        return setGesture({ ...gesture, value: allowed });
      }
      case 'draw':
        return setGesture({ kind: 'draw', rect: rectOf(from, at) });
      case 'marquee':
        return setGesture({ ...gesture, rect: rectOf(pointer.from, pointer.at) });
      case 'line':
        return setGesture({ ...gesture, to: pointer.shift ? at : straight(gesture.from, at) });
      case 'move':
      case 'copy':
        return setGesture({ kind: pointer.alt ? 'copy' : 'move', by: delta });
      case 'corners':
        return setGesture({ kind: 'corners', by: delta });
      case 'push': {
        const { normal } = map.solids[gesture.solid].faces[gesture.face];
        const n: Point2 = [normal[0] * direction[0] + normal[1] * direction[1], normal[2]];
        return setGesture({ ...gesture, by: snap((pointer.at[0] - pointer.from[0]) * n[0] + (pointer.at[1] - pointer.from[1]) * n[1]) });
      }
      case 'resize':
        if (selectionRect) setGesture({ ...gesture, rect: dragHandle(selectionRect, gesture.handle, at, profile.grid.min) });
    }
  };

  const move = (by: Point2): Vec3 => [direction[0] * by[0], direction[1] * by[0], by[1]];
  const commit = (edit: MapEdit | null) => edit && dispatch(edited(edit));

  /** The box of a rectangle along the line; across it goes half a grid step or half the walls either way. */
  const drawnBox = (rect: Rect): Box3 | null => {
    if (axis === null) return null;
    const other = axis === 0 ? 1 : 0;
    const half = tool === 'room' ? profile.band.top / 2 : profile.shellThickness / 2;
    const ends = [rect.min[0], rect.max[0]].map((s) => section.from[axis] + direction[axis] * s).sort((a, b) => a - b);
    const box: Box3 = { min: [0, 0, rect.min[1]], max: [0, 0, rect.max[1]] };
    [box.min[axis], box.max[axis]] = ends;
    [box.min[other], box.max[other]] = [section.from[other] - half, section.from[other] + half];
    return box;
  };

  const onRelease = (pointer: SheetPointer) => {
    const done = gesture;
    setGesture(null);
    if (!done || !pointer.moved) return;
    switch (done.kind) {
      case 'band':
        return void commit({ name: `change band ${band.name}`, changes: [{ of: 'bands', id: view.band, to: { ...band, [done.edge]: done.value } }] });
      case 'marquee': {
        const found = {
          solids: slices.filter(({ id, outline }) => map.solids[id] && outline.every((p) => withinRect(done.rect, p))).map(({ id }) => id),
          objects: objects.filter(([id, o]) => map.objects[id] && withinRect(done.rect, project(o.position))).map(([id]) => id),
          copies: Object.keys(map.copies).filter((id) => withinRect(done.rect, project(map.copies[id].position))),
          paths: [],
        };
        return void dispatch(selected(marqueed(selection, found, done.how)));
      }
      case 'move':
        return void commit(moveSelection(map, selection, move(done.by)));
      case 'copy': {
        const made = copyMembers(map, profile, selection, [translation(move(done.by))], 'copy');
        if (!made) return;
        commit(made.edit);
        return void dispatch(selected(made.members as Partial<Selection>));
      }
      case 'draw': {
        const box = drawnBox(done.rect);
        if (!box) return refuse('Solids are drawn here only along a section line that runs along x or y.');
        if (done.rect.max[0] - done.rect.min[0] < profile.grid.min || done.rect.max[1] - done.rect.min[1] < profile.grid.min) return;
        const made = drawShape(map, shape.id, values, box, view.material || profile.defaultMaterial);
        commit(made.edit);
        dispatch(selected(made.selection));
        return void dispatch(viewChanged({ tool: 'select', mode: 'solids' }));
      }
      case 'line': {
        const size = Math.hypot(done.to[0] - done.from[0], done.to[1] - done.from[1]);
        if (size === 0) return;
        const n: Point2 = [-(done.to[1] - done.from[1]) / size, (done.to[0] - done.from[0]) / size];
        const normal: Vec3 = [direction[0] * n[0], direction[1] * n[0], n[1]];
        const point: Vec3 = [section.from[0] + direction[0] * done.from[0], section.from[1] + direction[1] * done.from[0], done.from[1]];
        const targets = selection.solids.length > 0 ? selection.solids : slices.map((s) => s.id).filter((id) => map.solids[id]);
        const distance = normal[0] * point[0] + normal[1] * point[1] + normal[2] * point[2];
        const made = cutSolids(map, targets, { normal, distance }, view.keep);
        if (!made) return refuse('The line crosses no solid.');
        commit(made.edit);
        dispatch(selected(made.selection));
        return void dispatch(viewChanged({ tool: 'select' }));
      }
      case 'push': {
        const next = pushFace(map.solids[done.solid], done.face, done.by);
        if (typeof next === 'string') return refuse(next);
        return void commit({ name: 'push face', changes: [{ of: 'solids', id: done.solid, to: next }] });
      }
      case 'corners': {
        const edit = cornersEdit(map, movedCorners(map, selection, move(done.by), pointer.alt));
        if (typeof edit === 'string') return refuse(`${edit}${edit.includes('concave') ? ' (Hold Alt to split it.)' : ''}`);
        dispatch(selected({ ...selection, corners: [] }));
        return void commit(edit);
      }
      case 'resize': {
        const [id] = selection.solids;
        const { box } = shapeOf(map.solids[id]);
        const to = { min: [...box.min] as Vec3, max: [...box.max] as Vec3 };
        to.min[2] = done.rect.min[1];
        to.max[2] = done.rect.max[1];
        if (axis !== null) {
          const ends = [done.rect.min[0], done.rect.max[0]].map((s) => section.from[axis] + direction[axis] * s).sort((a, b) => a - b);
          [to.min[axis], to.max[axis]] = ends;
        }
        return void commit(resize(map, id, to));
      }
    }
  };

  const drawBase = (canvas: Canvas2d, sheet: Sheet) => {
    const { context } = canvas;
    context.fillStyle = colours.sunken;
    context.fillRect(0, 0, canvas.width, canvas.height);
    // The band lies behind everything, as the range in which new solids come to stand.
    const [, top] = toScreen(sheet, canvas, [0, band.top]);
    const [, bottom] = toScreen(sheet, canvas, [0, band.bottom]);
    context.globalAlpha = 0.35;
    context.fillStyle = colours.selected;
    context.fillRect(0, top, canvas.width, bottom - top);
    context.globalAlpha = 1;
    drawGrid(canvas, sheet, view.grid, { line: colours.line, strong: colours.faint });
    for (const { id, outline } of slices) if (!isChosen(map, selection, 'solids', id)) drawSlice(context, sheet, canvas, outline, false, [0, 0]);
    for (const [id, object] of objects) if (!isChosen(map, selection, 'objects', id)) drawObject(context, sheet, canvas, object, false, [0, 0]);
  };

  const drawSlice = (
    context: CanvasRenderingContext2D,
    sheet: Sheet,
    canvas: Canvas2d,
    outline: readonly Point2[],
    on: boolean,
    [du, dv]: Point2,
  ) => {
    tracePolygon(
      context,
      outline.map(([u, v]) => toScreen(sheet, canvas, [u + du, v + dv])),
    );
    context.globalAlpha = 0.5;
    context.fillStyle = colours.violet;
    context.fill();
    context.globalAlpha = 1;
    context.strokeStyle = on ? colours.warm : colours.violet;
    context.lineWidth = on ? 2.5 : 1;
    context.stroke();
  };

  const drawObject = (
    context: CanvasRenderingContext2D,
    sheet: Sheet,
    canvas: Canvas2d,
    object: (typeof objects)[number][1],
    on: boolean,
    [du, dv]: Point2,
  ) => {
    const box = classBox(profile, object);
    const us = [box.min, box.max].flatMap((p) => [along([p[0], box.min[1]]), along([p[0], box.max[1]])]);
    const [x0, y0] = toScreen(sheet, canvas, [Math.min(...us) + du, box.max[2] + dv]);
    const [x1, y1] = toScreen(sheet, canvas, [Math.max(...us) + du, box.min[2] + dv]);
    context.strokeStyle = on ? colours.warm : colours.faint;
    context.globalAlpha = on ? 1 : 0.5;
    context.setLineDash([3, 3]);
    context.lineWidth = 1;
    context.strokeRect(x0, y0, x1 - x0, y1 - y0);
    context.setLineDash([]);
    context.globalAlpha = 1;
    const [x, y] = toScreen(sheet, canvas, [along(object.position) + du, object.position[2] + dv]);
    drawObjectMark(context, profile, object, x, y, on, sheet.scale > 0.9, colours, null);
  };

  const draw = (canvas: Canvas2d, sheet: Sheet) => {
    const { context } = canvas;
    const place = (p: Point2) => toScreen(sheet, canvas, p);
    const shift: Point2 = gesture?.kind === 'move' || gesture?.kind === 'copy' ? gesture.by : [0, 0];
    for (const { id, outline } of slices) if (isChosen(map, selection, 'solids', id)) drawSlice(context, sheet, canvas, outline, true, shift);
    for (const [id, object] of objects) if (isChosen(map, selection, 'objects', id)) drawObject(context, sheet, canvas, object, true, shift);
    drawBand(canvas, place);
    for (const { ends, corners } of groups) {
      const on = holds(selection, { ends, corners });
      const flat = ends.map(place);
      context.strokeStyle = colours.warm;
      context.fillStyle = on ? colours.warm : colours.ground;
      context.lineWidth = flat.length === 2 ? (on ? 5 : 2.5) : 1.5;
      context.beginPath();
      if (flat.length === 2) {
        context.moveTo(...flat[0]);
        context.lineTo(...flat[1]);
      } else {
        context.arc(flat[0][0], flat[0][1], on ? 6 : 5, 0, 2 * Math.PI);
        context.fill();
      }
      context.stroke();
    }
    if (view.trail) {
      context.strokeStyle = colours.warm;
      context.lineWidth = 3;
      const points = view.trail.map((p): Point2 => place([along(p), p[2]]));
      for (let i = 1; i < points.length; i++) arrow(context, points[i - 1], points[i]);
    }
    drawGesture(canvas, sheet, place);
    if (view.figure && hover) {
      const [x0, y0] = place([hover.at[0] - profile.player.radius, hover.at[1] + profile.player.height]);
      const [x1, y1] = place([hover.at[0] + profile.player.radius, hover.at[1]]);
      context.strokeStyle = colours.clear;
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
    }
    if (view.refusal && hover) drawLabel(context, view.refusal, hover.screen[0] + 14, hover.screen[1] - 14, colours.warm, colours.ground);
  };

  const drawBand = (canvas: Canvas2d, place: (p: Point2) => Point2) => {
    const { context } = canvas;
    for (const edge of ['top', 'bottom'] as const) {
      const [, y] = place([0, live[edge]]);
      context.strokeStyle = colours.warm;
      context.lineWidth = 1.5;
      context.beginPath();
      context.moveTo(0, y);
      context.lineTo(canvas.width, y);
      context.stroke();
      context.fillStyle = colours.warm;
      tracePolygon(context, [
        [canvas.width - 126, y],
        [canvas.width - 118, y - 6],
        [canvas.width - 118, y + 6],
      ]);
      context.fill();
      drawLabel(context, `${band.name} ${edge} ${live[edge]}`, canvas.width - 112, y + (edge === 'top' ? -5 : 14), colours.warm, colours.ground);
    }
  };

  const drawGesture = (canvas: Canvas2d, sheet: Sheet, place: (p: Point2) => Point2) => {
    const { context } = canvas;
    const slice = (solid: Parameters<typeof sliceSolid>[0], label: string) => {
      const outline = sliceSolid(solid, section);
      if (!outline) return;
      tracePolygon(context, outline.map(place));
      context.strokeStyle = colours.warm;
      context.lineWidth = 2;
      context.stroke();
      if (label) drawLabel(context, label, place(outline[0])[0] + 8, place(outline[0])[1] - 8, colours.warm, colours.ground);
    };
    if (gesture?.kind === 'line') {
      context.strokeStyle = colours.warm;
      context.lineWidth = 2;
      arrow(context, place(gesture.from), place(gesture.to));
    } else if (gesture?.kind === 'push') {
      const next = pushFace(map.solids[gesture.solid], gesture.face, gesture.by);
      if (typeof next !== 'string') slice(next, `${gesture.by > 0 ? '+' : ''}${gesture.by}`);
      else if (hover) drawLabel(context, next, hover.screen[0] + 14, hover.screen[1] - 14, colours.warm, colours.ground);
    } else if (gesture?.kind === 'corners') {
      for (const result of Object.values(movedCorners(map, selection, move(gesture.by), true)))
        if ('reason' in result) {
          if (hover) drawLabel(context, result.reason, hover.screen[0] + 14, hover.screen[1] - 14, colours.warm, colours.ground);
        } else result.solids.forEach((solid) => slice(solid, ''));
    }
    const rect = gesture && 'rect' in gesture ? gesture.rect : null;
    if (rect) {
      const [x0, y0] = place([rect.min[0], rect.max[1]]);
      const [x1, y1] = place([rect.max[0], rect.min[1]]);
      context.strokeStyle = colours.warm;
      context.setLineDash(gesture!.kind === 'marquee' ? [4, 3] : []);
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
      context.setLineDash([]);
      if (gesture!.kind === 'marquee') return;
      drawLabel(context, `${rect.max[0] - rect.min[0]} × ${rect.max[1] - rect.min[1]}`, x0, y0 - 6, colours.warm, colours.ground);
    } else if (selectionRect && tool === 'select' && gesture?.kind !== 'move')
      drawHandles(context, selectionRect, sheet, canvas, colours.warm, colours.ground);
  };

  const fit = (canvas: { width: number; height: number }) => {
    const heights = [band.bottom, band.top, ...Object.values(whole.solids).flatMap((s) => [shapeOf(s).box.min[2], shapeOf(s).box.max[2]])];
    const all = boxOfPoints(heights.map((z) => [0, 0, z]));
    return fitSheet(canvas, [0, all.min[2]], [length, all.max[2]]);
  };

  return (
    <FlatView
      label="Section S–S'"
      testId="section"
      fit={fit}
      fitKey={`${section.from.join()},${section.to.join()}`}
      focus={view.focus ? { ...view.focus, point: [along(view.focus.point), view.focus.point[2]] } : null}
      drawBase={drawBase}
      baseOf={[slices, whole.objects, colours, band, view.grid, section, JSON.stringify([selection.solids, selection.objects, selection.copies])]}
      draw={draw}
      onPress={onPress}
      onDrag={onDrag}
      onRelease={onRelease}
      onHover={(p) => setHover({ at: p.at, screen: toScreen(p.sheet, p.canvas, p.at) })}
      cursor={tool === 'select' ? 'default' : 'crosshair'}
      readout={hover ? `along ${snap(hover.at[0])}  z ${snap(hover.at[1])}` : ''}
    />
  );
}
