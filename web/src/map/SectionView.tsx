import { useMemo, useState } from 'react';
import { classBox } from '@violet-crate/core/map/objectBox';
import { boxOfPoints } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { useAppDispatch } from '../store.ts';
import { moveSelection, resize } from './edits.ts';
import { FlatView, type SheetPointer } from './FlatView.tsx';
import { dragHandle, drawHandles, handleAt, type Handle, type Rect } from './handles.ts';
import { edited } from './mapSlice.ts';
import { drawObjectMark } from './objectMark.ts';
import { drawGrid, drawLabel, fitSheet, toScreen, tracePolygon, type Canvas2d, type Sheet } from './sheet.ts';
import { insideOutline, sectionDirection, shapeOf, sliceSolid, type Point2 } from '@violet-crate/core/solid/shape';
import { useDocument, useSheetColours } from './useDocument.ts';
import { selected, type Selection } from './viewSlice.ts';
import { arrow } from './PlanView.tsx';

type Gesture =
  { kind: 'move'; by: Point2 } | { kind: 'resize'; handle: Handle; rect: Rect } | { kind: 'band'; edge: 'bottom' | 'top'; value: number };

const GRIP_REACH = 8;

/** The vertical cut along the plan's section line, with the active band as a pair of handles. */
export function SectionView() {
  const dispatch = useAppDispatch();
  const { map, profile, view, band, snap } = useDocument();
  const colours = useSheetColours();
  const [gesture, setGesture] = useState<Gesture | null>(null);
  const [hover, setHover] = useState<Point2 | null>(null);
  const { selection, section } = view;
  const direction = sectionDirection(section);
  const along = (p: readonly number[]) => (p[0] - section.from[0]) * direction[0] + (p[1] - section.from[1]) * direction[1];
  const across = (p: readonly number[]) => (p[1] - section.from[1]) * direction[0] - (p[0] - section.from[0]) * direction[1];
  const length = Math.hypot(section.to[0] - section.from[0], section.to[1] - section.from[1]);
  const near = profile.player.height * 1.5;
  /** World axis along which the line runs, or null when it is oblique. */
  const axis = Math.abs(direction[0]) > 0.999 ? 0 : Math.abs(direction[1]) > 0.999 ? 1 : null;

  const slices = useMemo(
    () =>
      Object.entries(map.solids).flatMap(([id, solid]): { id: string; outline: Point2[] }[] => {
        const outline = sliceSolid(solid, section);
        return outline ? [{ id, outline }] : [];
      }),
    [map.solids, section],
  );
  const objects = Object.entries(map.objects).filter(
    ([id, o]) => Math.abs(across(o.position)) <= near || (selection?.kind === 'objects' && selection.ids.includes(id)),
  );

  const selectionRect = useMemo((): Rect | null => {
    if (selection?.kind !== 'solids' || selection.ids.length !== 1) return null;
    const slice = slices.find((s) => s.id === selection.ids[0]);
    if (!slice) return null;
    const us = slice.outline.map((p) => p[0]);
    const vs = slice.outline.map((p) => p[1]);
    return { min: [Math.min(...us), Math.min(...vs)], max: [Math.max(...us), Math.max(...vs)] };
  }, [selection, slices]);

  const live = gesture?.kind === 'band' ? { ...band, [gesture.edge]: gesture.value } : band;

  const pick = ({ at, sheet }: SheetPointer): Selection | null => {
    const object = objects
      .map(([id, o]) => ({ id, away: Math.hypot(along(o.position) - at[0], o.position[2] - at[1]) * sheet.scale }))
      .filter((o) => o.away < 10)
      .sort((a, b) => a.away - b.away)[0];
    if (object) return { kind: 'objects', ids: [object.id] };
    const solid = slices.find((s) => insideOutline(s.outline, at));
    return solid ? { kind: 'solids', ids: [solid.id] } : null;
  };

  const onPress = (pointer: SheetPointer) => {
    const [, y] = toScreen(pointer.sheet, pointer.canvas, pointer.at);
    for (const edge of ['top', 'bottom'] as const) {
      const [, edgeY] = toScreen(pointer.sheet, pointer.canvas, [0, band[edge]]);
      const x = toScreen(pointer.sheet, pointer.canvas, pointer.at)[0];
      if (Math.abs(edgeY - y) <= GRIP_REACH && x > pointer.canvas.width - 130) return setGesture({ kind: 'band', edge, value: band[edge] });
    }
    const handle = selectionRect && handleAt(selectionRect, pointer.sheet, pointer.canvas, pointer.at);
    if (handle && selectionRect) return setGesture({ kind: 'resize', handle: [axis === null ? 0 : handle[0], handle[1]], rect: selectionRect });
    const found = pick(pointer);
    const same = found && selection?.kind === found.kind && selection.ids.includes(found.ids[0]);
    if (!same) dispatch(selected(found));
    if (found) setGesture({ kind: 'move', by: [0, 0] });
  };

  const onDrag = (pointer: SheetPointer) => {
    setHover(pointer.at);
    if (!gesture || !pointer.moved) return;
    if (gesture.kind === 'band') {
      const value = snap(pointer.at[1]);
      const allowed = gesture.edge === 'top' ? Math.max(value, band.bottom + profile.grid.min) : Math.min(value, band.top - profile.grid.min);
      setGesture({ ...gesture, value: allowed });
    } else if (gesture.kind === 'move')
      setGesture({ kind: 'move', by: [snap(pointer.at[0] - pointer.from[0]), snap(pointer.at[1] - pointer.from[1])] });
    else if (selectionRect)
      setGesture({ ...gesture, rect: dragHandle(selectionRect, gesture.handle, [snap(pointer.at[0]), snap(pointer.at[1])], profile.grid.min) });
  };

  const onRelease = (pointer: SheetPointer) => {
    const done = gesture;
    setGesture(null);
    if (!done || !pointer.moved) return;
    if (done.kind === 'band') {
      dispatch(edited({ name: `change band ${band.name}`, changes: [{ of: 'bands', id: view.band, to: { ...band, [done.edge]: done.value } }] }));
    } else if (done.kind === 'move' && selection) {
      const by: Vec3 = [direction[0] * done.by[0], direction[1] * done.by[0], done.by[1]];
      const edit = moveSelection(map, selection, by);
      if (edit) dispatch(edited(edit));
    } else if (done.kind === 'resize' && selection) {
      const { box } = shapeOf(map.solids[selection.ids[0]]);
      const to = { min: [...box.min] as Vec3, max: [...box.max] as Vec3 };
      to.min[2] = done.rect.min[1];
      to.max[2] = done.rect.max[1];
      if (axis !== null) {
        const ends = [done.rect.min[0], done.rect.max[0]].map((s) => section.from[axis] + direction[axis] * s).sort((a, b) => a - b);
        [to.min[axis], to.max[axis]] = ends;
      }
      dispatch(edited(resize(map, selection.ids[0], to)));
    }
  };

  const draw = (canvas: Canvas2d, sheet: Sheet) => {
    const { context } = canvas;
    context.fillStyle = colours.sunken;
    context.fillRect(0, 0, canvas.width, canvas.height);
    const place = (p: Point2) => toScreen(sheet, canvas, p);
    // The band lies behind everything, as the range in which new solids come to stand.
    const [, top] = place([0, live.top]);
    const [, bottom] = place([0, live.bottom]);
    context.globalAlpha = 0.35;
    context.fillStyle = colours.selected;
    context.fillRect(0, top, canvas.width, bottom - top);
    context.globalAlpha = 1;
    drawGrid(canvas, sheet, view.grid, { line: colours.line, strong: colours.faint });
    const shift = (chosen: boolean): Point2 => (chosen && gesture?.kind === 'move' ? gesture.by : [0, 0]);
    for (const { id, outline } of slices) {
      const chosen = selection?.kind === 'solids' && selection.ids.includes(id);
      const [du, dv] = shift(chosen);
      tracePolygon(
        context,
        outline.map(([u, v]) => place([u + du, v + dv])),
      );
      context.globalAlpha = 0.5;
      context.fillStyle = colours.violet;
      context.fill();
      context.globalAlpha = 1;
      context.strokeStyle = chosen ? colours.warm : colours.violet;
      context.lineWidth = chosen ? 2.5 : 1;
      context.stroke();
    }
    for (const [id, object] of objects) {
      const chosen = selection?.kind === 'objects' && selection.ids.includes(id);
      const [du, dv] = shift(chosen);
      const box = classBox(profile, object);
      const us = [box.min, box.max].flatMap((p) => [along([p[0], box.min[1]]), along([p[0], box.max[1]])]);
      const [x0, y0] = place([Math.min(...us) + du, box.max[2] + dv]);
      const [x1, y1] = place([Math.max(...us) + du, box.min[2] + dv]);
      context.strokeStyle = chosen ? colours.warm : colours.faint;
      context.globalAlpha = chosen ? 1 : 0.5;
      context.setLineDash([3, 3]);
      context.lineWidth = 1;
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
      context.setLineDash([]);
      context.globalAlpha = 1;
      const [x, y] = place([along(object.position) + du, object.position[2] + dv]);
      drawObjectMark(context, profile, object, x, y, chosen, sheet.scale > 0.9, colours, null);
    }
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
    if (view.trail) {
      context.strokeStyle = colours.warm;
      context.lineWidth = 3;
      const points = view.trail.map((p): Point2 => place([along(p), p[2]]));
      for (let i = 1; i < points.length; i++) arrow(context, points[i - 1], points[i]);
    }
    if (gesture?.kind === 'resize') {
      const [x0, y0] = place([gesture.rect.min[0], gesture.rect.max[1]]);
      const [x1, y1] = place([gesture.rect.max[0], gesture.rect.min[1]]);
      context.strokeStyle = colours.warm;
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
      drawLabel(
        context,
        `${gesture.rect.max[0] - gesture.rect.min[0]} × ${gesture.rect.max[1] - gesture.rect.min[1]}`,
        x0,
        y0 - 6,
        colours.warm,
        colours.ground,
      );
    } else if (selectionRect && gesture?.kind !== 'move') drawHandles(context, selectionRect, sheet, canvas, colours.warm, colours.ground);
  };

  const fit = (canvas: { width: number; height: number }) => {
    const heights = [band.bottom, band.top, ...Object.values(map.solids).flatMap((s) => [shapeOf(s).box.min[2], shapeOf(s).box.max[2]])];
    const all = boxOfPoints(heights.map((z) => [0, 0, z]));
    return fitSheet(canvas, [0, all.min[2]], [length, all.max[2]]);
  };

  return (
    <FlatView
      label="Section S–S'"
      testId="section"
      fit={fit}
      fitKey={`${section.from.join()},${section.to.join()}`}
      focus={view.focus ? { point: [along(view.focus.point), view.focus.point[2]], count: view.focus.count } : null}
      draw={draw}
      onPress={onPress}
      onDrag={onDrag}
      onRelease={onRelease}
      onHover={(p) => setHover(p.at)}
      readout={hover ? `along ${snap(hover[0])}  z ${snap(hover[1])}` : ''}
    />
  );
}
