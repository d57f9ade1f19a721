/** How the plan is drawn: solids cut at a height, objects by what they do, and everything that links them. */

import { inBand } from '@violet-crate/core/map/onGround';
import { classBox } from '@violet-crate/core/map/objectBox';
import type { GameMap, MapObject } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import { looksOf } from '../../part/looks.ts';
import { arrow } from '../editing/arrow.ts';
import { LINE_KINDS, memberLook } from '../member/members.ts';
import { drawObjectMark } from '../editing/objectMark.ts';
import { isChosen, planRelation } from './projection/planPick.ts';
import { drawGrid, drawLabel, toScreen, toSheet, tracePolygon, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import type { SheetColours } from '../editing/useDocument.ts';
import { isShown, type ViewState } from '../../state/viewSlice.ts';

export interface PlanScene {
  map: GameMap;
  whole: GameMap;
  profile: Profile;
  view: ViewState;
  cut: number;
  band: { bottom: number; top: number };
  colours: SheetColours;
}

export type Place = (p: readonly number[]) => Point2;

/** Everything that is not selected. @param under draws what lies below all of it */
export function drawPlanBase(canvas: Canvas2d, sheet: Sheet, scene: PlanScene, under: () => void = () => {}): void {
  const { context } = canvas;
  const { map, whole, view, cut, colours } = scene;
  context.fillStyle = colours.sunken;
  context.fillRect(0, 0, canvas.width, canvas.height);
  under();
  const place: Place = (p) => toScreen(sheet, canvas, [p[0], p[1]]);
  const [left, top] = toSheet(sheet, canvas, [0, 0]);
  const [right, bottom] = toSheet(sheet, canvas, [canvas.width, canvas.height]);
  const solids: { id: string; top: number; relation: 'cut' | 'below' | 'above' }[] = [];
  for (const id in whole.solids) {
    const solid = whole.solids[id];
    const { box } = shapeOf(solid);
    if (box.max[0] < left || box.min[0] > right || box.max[1] < bottom || box.min[1] > top) continue;
    if (!isShown(view, 'solids', id, solid.layer) || isChosen(map, view.selection, 'solids', id)) continue;
    solids.push({ id, top: box.max[2], relation: planRelation(box, cut, map) });
  }
  solids.sort((a, b) => a.top - b.top);
  for (const { id, relation } of solids) if (relation === 'below') drawSolid(context, place, scene, id, relation, false);
  drawGrid(canvas, sheet, view.grid, { line: colours.line, strong: colours.faint });
  for (const { id, relation } of solids) if (relation !== 'below') drawSolid(context, place, scene, id, relation, false);
  if (view.showSignals) for (const signal of Object.values(whole.signals)) drawSignal(context, place, scene, signal, false);
  for (const kind of LINE_KINDS)
    for (const [id, member] of Object.entries(map[kind])) {
      if (!isShown(view, kind, id) || view.selection[kind].includes(id)) continue;
      const look = memberLook(kind);
      // What belongs to other floors stays in sight, faintly.
      context.globalAlpha = look.points(member as never).some((p) => inBand(map, scene.band, p)) ? 1 : 0.25;
      look.draw!({ context, place, colours, chosen: false }, member as never);
      context.globalAlpha = 1;
    }
  for (const [id, object] of Object.entries(whole.objects)) {
    if (!inBand(map, scene.band, object.position) || !isShown(view, 'objects', id, object.layer) || isChosen(map, view.selection, 'objects', id))
      continue;
    drawObject(context, place, sheet, scene, object, false);
  }
}

/** What is selected, moved by `by`. */
export function drawChosen(canvas: Canvas2d, sheet: Sheet, scene: PlanScene, by: Point2): void {
  const { context } = canvas;
  const { map, whole, view, colours } = scene;
  const place: Place = (p) => toScreen(sheet, canvas, [p[0] + by[0], p[1] + by[1]]);
  const ids =
    view.selection.copies.length > 0 ? Object.keys(whole.solids).filter((id) => isChosen(map, view.selection, 'solids', id)) : view.selection.solids;
  for (const id of ids) if (whole.solids[id]) drawSolid(context, place, scene, id, planRelation(shapeOf(whole.solids[id]).box, scene.cut, map), true);
  for (const { solid, face } of view.selection.faces) {
    const polygon = map.solids[solid] && shapeOf(map.solids[solid]).polygons.find((p) => p.face === face);
    if (!polygon) continue;
    tracePolygon(context, polygon.winding.map(place));
    context.strokeStyle = colours.warm;
    context.lineWidth = 4;
    context.stroke();
  }
  if (view.showSignals)
    for (const signal of Object.values(whole.signals))
      if (
        isChosen(map, view.selection, 'objects', signal.from) ||
        ('object' in signal.to && isChosen(map, view.selection, 'objects', signal.to.object))
      )
        drawSignal(context, place, scene, signal, true);
  for (const kind of LINE_KINDS)
    for (const id of view.selection[kind])
      if (map[kind][id]) memberLook(kind).draw!({ context, place, colours, chosen: true }, map[kind][id] as never);
  const objects =
    view.selection.copies.length > 0
      ? Object.keys(whole.objects).filter((id) => isChosen(map, view.selection, 'objects', id))
      : view.selection.objects;
  for (const id of objects) if (whole.objects[id]) drawObject(context, place, sheet, scene, whole.objects[id], true);
  for (const id of view.selection.copies) {
    const copy = map.copies[id];
    if (!copy) continue;
    const [x, y] = place(copy.position);
    drawLabel(context, copy.name, x + 8, y + 14, colours.warm, colours.ground);
  }
}

function drawSolid(
  context: CanvasRenderingContext2D,
  place: Place,
  scene: PlanScene,
  id: string,
  relation: 'cut' | 'below' | 'above',
  chosen: boolean,
): void {
  const { whole, cut, band, colours, view } = scene;
  const { outline, box } = shapeOf(whole.solids[id]);
  const compared = view.compared;
  const change = compared?.added.includes(`solids/${id}`) ? colours.clear : compared?.changed.includes(`solids/${id}`) ? colours.warm : null;
  tracePolygon(context, outline.map(place));
  context.setLineDash(relation === 'above' ? [3, 4] : []);
  context.fillStyle = change ?? (relation === 'cut' ? colours.violet : colours.selected);
  // Floors near the band's bottom show; what lies further down fades.
  const depth = Math.min(1, Math.max(0, (cut - box.max[2]) / Math.max(1, band.top - band.bottom)));
  context.globalAlpha = change ? 0.6 : relation === 'cut' ? 0.5 : relation === 'below' ? 0.35 * (1 - depth * 0.75) : 0;
  context.fill();
  context.globalAlpha = chosen ? 1 : relation === 'cut' ? 0.9 : relation === 'below' ? 0.4 : 0.12;
  context.strokeStyle = chosen ? colours.warm : relation === 'cut' ? colours.violet : colours.faint;
  context.lineWidth = chosen ? 2.5 : 1;
  context.stroke();
  context.setLineDash([]);
  context.globalAlpha = 1;
}

function drawObject(context: CanvasRenderingContext2D, place: Place, sheet: Sheet, scene: PlanScene, object: MapObject, chosen: boolean): void {
  const { profile, colours } = scene;
  const looks = looksOf(profile, object.class);
  const frame = looks.find((look) => look.frame)?.frame;
  if (frame || chosen) {
    context.strokeStyle = chosen ? colours.warm : colours.clear;
    context.setLineDash(frame === 'dashed' ? [6, 4] : []);
    context.lineWidth = 1;
    if (object.shape) {
      tracePolygon(context, shapeOf(object.shape).outline.map(place));
      context.stroke();
    } else {
      const box = classBox(profile, object);
      const [x0, y0] = place([box.min[0], box.max[1]]);
      const [x1, y1] = place([box.max[0], box.min[1]]);
      context.strokeRect(x0, y0, x1 - x0, y1 - y0);
    }
    context.setLineDash([]);
  }
  const [x, y] = place(object.position);
  const angle = (-object.turn * Math.PI) / 180;
  if (chosen) for (const look of looks) look.plan?.({ context, x, y, scale: sheet.scale, profile, object, colours });
  if (chosen || looks.some((look) => look.points)) {
    context.strokeStyle = chosen ? colours.warm : colours.clear;
    context.lineWidth = chosen ? 2 : 1;
    arrow(context, [x, y], [x + Math.cos(angle) * 26, y + Math.sin(angle) * 26]);
  }
  drawObjectMark(context, profile, object, x, y, chosen, sheet.scale > 0.9, colours, angle);
}

function drawSignal(
  context: CanvasRenderingContext2D,
  place: Place,
  { whole, colours }: PlanScene,
  signal: GameMap['signals'][string],
  chosen: boolean,
): void {
  if (!('object' in signal.to)) return;
  const [a, b] = [whole.objects[signal.from], whole.objects[signal.to.object]];
  if (!a || !b) return;
  context.globalAlpha = chosen ? 1 : 0.35;
  context.lineWidth = chosen ? 2 : 1;
  context.strokeStyle = chosen ? colours.warm : colours.clear;
  arrow(context, place(a.position), place(b.position));
  context.globalAlpha = 1;
}
