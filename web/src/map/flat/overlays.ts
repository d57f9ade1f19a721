/** What plan and section draw over everything: handles, the ghost of what is in the hand, leaks, words beside the pointer. */

import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { drawLabel, toScreen, tracePolygon, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import { arrow } from '../editing/arrow.ts';
import type { Ghost } from '../editing/ghost.ts';
import { holds, type HandleGroup } from '../editing/handleGroups.ts';
import type { SheetColours } from '../editing/useDocument.ts';
import type { Selection } from '../../state/viewSlice.ts';
import { drawHandles } from './projection/handles.ts';
import type { Projection } from './projection/projection.ts';
import { drawTurnHandle } from './projection/turnHandle.ts';
import type { Gestures } from './useGestures.ts';

type Place = (p: Point2) => Point2;

export function drawGhost({ context }: Canvas2d, place: Place, projection: Projection, ghost: Ghost, colours: SheetColours): void {
  context.strokeStyle = colours.warm;
  context.lineWidth = 1.5;
  for (const solid of ghost.solids) {
    const outline = projection.outline(solid);
    if (!outline) continue;
    tracePolygon(context, outline.map(place));
    context.stroke();
  }
  for (const line of ghost.lines) {
    context.beginPath();
    line.forEach((p, i) => (i === 0 ? context.moveTo(...place(projection.project(p))) : context.lineTo(...place(projection.project(p)))));
    context.stroke();
  }
}

function drawGroup(context: CanvasRenderingContext2D, place: Place, group: HandleGroup, selection: Selection, colours: SheetColours): void {
  const on = holds(selection, group);
  const ends = group.ends.map(place);
  context.strokeStyle = colours.warm;
  context.fillStyle = on ? colours.warm : colours.ground;
  context.beginPath();
  if (ends.length === 2) {
    context.lineWidth = on ? 5 : 2.5;
    context.globalAlpha = on ? 1 : 0.6;
    context.moveTo(...ends[0]);
    context.lineTo(...ends[1]);
    context.stroke();
    context.globalAlpha = 1;
    return;
  }
  context.lineWidth = 1.5;
  context.arc(ends[0][0], ends[0][1], on ? 6 : 5, 0, 2 * Math.PI);
  context.fill();
  context.stroke();
}

function drawTrail(context: CanvasRenderingContext2D, points: readonly Point2[], colours: SheetColours): void {
  context.strokeStyle = colours.warm;
  context.lineWidth = 3;
  for (let i = 1; i < points.length; i++) arrow(context, points[i - 1], points[i]);
  const [x, y] = points[points.length - 1];
  drawLabel(context, 'leak', x + 8, y - 8, colours.warm, colours.ground);
}

/** All of it, in order. `hint` is what the tool wants next. */
export function drawOverlays(canvas: Canvas2d, sheet: Sheet, gestures: Gestures, ghost: Ghost | null, colours: SheetColours, hint = ''): void {
  const { context } = canvas;
  const { scene, hover, doing } = gestures;
  const { view } = scene.doc;
  const { projection, groups } = scene;
  const place: Place = (p) => toScreen(sheet, canvas, p);
  for (const group of groups) drawGroup(context, place, group, view.selection, colours);
  if (view.trail) drawTrail(context, view.trail.map((p: Vec3) => place(projection.project(p))), colours); // prettier-ignore
  if (ghost && doing !== 'move') drawGhost(canvas, place, projection, ghost, colours);
  gestures.draw(canvas, sheet, colours);
  if (projection.frame && view.tool === 'select' && !doing) {
    if (projection.frame.resizes.includes(true)) drawHandles(context, projection.frame.rect, sheet, canvas, colours.warm, colours.ground);
    if (projection.frame.turns) drawTurnHandle(context, projection.frame.rect, sheet, canvas, colours.warm, colours.ground);
  }
  if (!hover) return;
  const [x, y] = hover.screen;
  if (view.refusal) drawLabel(context, view.refusal, x + 14, y - 14, colours.warm, colours.ground);
  else if (hint) drawLabel(context, hint, x + 14, y + 22, colours.ink, colours.ground);
}
