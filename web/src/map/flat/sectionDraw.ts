/** How the section is drawn: what the cut goes through, what stands near it, and the active band as a pair of handles. */

import type { MapObject } from '@violet-crate/core/document/schema';
import { classBox } from '@violet-crate/core/map/objectBox';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { drawGrid, drawLabel, toScreen, tracePolygon, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { isShown } from '../../state/viewSlice.ts';
import { drawObjectMark } from '../editing/objectMark.ts';
import type { Doc, SheetColours } from '../editing/useDocument.ts';
import { LINE_KINDS, memberLook } from '../member/members.ts';
import { isChosen } from './projection/planPick.ts';
import type { Projection } from './projection/projection.ts';
import type { Cut } from './projection/sectionProjection.ts';

export interface SectionScene {
  doc: Doc;
  cut: Cut;
  projection: Projection;
  colours: SheetColours;
}

/** Everything that is not selected, over the band. */
export function drawSectionBase(canvas: Canvas2d, sheet: Sheet, scene: SectionScene, under: () => void = () => {}): void {
  const { context } = canvas;
  const { doc, colours } = scene;
  const { band, view } = doc;
  context.fillStyle = colours.sunken;
  context.fillRect(0, 0, canvas.width, canvas.height);
  // The band lies behind everything, as the range in which new solids come to stand.
  const [, top] = toScreen(sheet, canvas, [0, band.top]);
  const [, bottom] = toScreen(sheet, canvas, [0, band.bottom]);
  context.globalAlpha = 0.35;
  context.fillStyle = colours.selected;
  context.fillRect(0, top, canvas.width, bottom - top);
  context.globalAlpha = 1;
  under();
  drawGrid(canvas, sheet, view.grid, { line: colours.line, strong: colours.faint });
  drawCut(canvas, sheet, scene, false, [0, 0]);
}

/** What is selected or what is not, moved by `by`. */
export function drawCut(canvas: Canvas2d, sheet: Sheet, scene: SectionScene, chosen: boolean, by: Point2): void {
  const { context } = canvas;
  const { doc, cut, projection, colours } = scene;
  const { map, view, profile } = doc;
  const place = ([u, v]: Point2): Point2 => toScreen(sheet, canvas, [u + by[0], v + by[1]]);
  for (const { id, outline } of cut.slices) {
    if (isChosen(map, view.selection, 'solids', id) !== chosen) continue;
    tracePolygon(context, outline.map(place));
    context.globalAlpha = 0.5;
    context.fillStyle = colours.violet;
    context.fill();
    context.globalAlpha = 1;
    context.strokeStyle = chosen ? colours.warm : colours.violet;
    context.lineWidth = chosen ? 2.5 : 1;
    context.stroke();
  }
  for (const kind of LINE_KINDS)
    for (const [id, member] of Object.entries(map[kind]))
      if (isShown(view, kind, id) && view.selection[kind].includes(id) === chosen)
        memberLook(kind).draw!({ context, place: (p) => place(projection.project(p)), colours, chosen }, member as never);
  for (const [id, object] of cut.objects) if (isChosen(map, view.selection, 'objects', id) === chosen) drawObject(object);

  function drawObject(object: MapObject) {
    const box = classBox(profile, object);
    const us = [box.min, box.max].flatMap(([x]) => [box.min[1], box.max[1]].map((y) => projection.project([x, y, 0])[0]));
    const [x0, y0] = place([Math.min(...us), box.max[2]]);
    const [x1, y1] = place([Math.max(...us), box.min[2]]);
    context.strokeStyle = chosen ? colours.warm : colours.faint;
    context.globalAlpha = chosen ? 1 : 0.5;
    context.setLineDash([3, 3]);
    context.lineWidth = 1;
    context.strokeRect(x0, y0, x1 - x0, y1 - y0);
    context.setLineDash([]);
    context.globalAlpha = 1;
    const [x, y] = place(projection.project(object.position));
    drawObjectMark(context, profile, object, x, y, chosen, sheet.scale > 0.9, colours, null);
  }
}

/** The edges of the band, with their handles at the right. */
export function drawBand(canvas: Canvas2d, sheet: Sheet, band: { name: string; bottom: number; top: number }, colours: SheetColours): void {
  const { context, width } = canvas;
  for (const edge of ['top', 'bottom'] as const) {
    const [, y] = toScreen(sheet, canvas, [0, band[edge]]);
    context.strokeStyle = colours.warm;
    context.lineWidth = 1.5;
    context.beginPath();
    context.moveTo(0, y);
    context.lineTo(width, y);
    context.stroke();
    context.fillStyle = colours.warm;
    tracePolygon(context, [
      [width - 126, y],
      [width - 118, y - 6],
      [width - 118, y + 6],
    ]);
    context.fill();
    drawLabel(context, `${band.name} ${edge} ${band[edge]}`, width - 112, y + (edge === 'top' ? -5 : 14), colours.warm, colours.ground);
  }
}
