/** Lines that lead from the corners of what is selected in the plan down into the section, as on a drawing. */

import type { GameMap } from '@violet-crate/core/document/schema';
import { skeletonOf } from '@violet-crate/core/solid/reshape';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { toScreen, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import type { Selection } from '../../state/viewSlice.ts';
import { cutLine } from './projection/sectionProjection.ts';
import type { ViewState } from '../../state/viewSlice.ts';

/** More lines than so many would only darken the sheet. */
const MOST = 48;

/** Corners of selected solids and places of selected objects, without those that would be drawn over each other. */
export function projectedPoints(map: GameMap, selection: Selection, axis: 0 | 1): Vec3[] {
  const points = [
    ...selection.solids.flatMap((id) => (map.solids[id] ? skeletonOf(map.solids[id]).corners : [])),
    ...selection.objects.flatMap((id) => (map.objects[id] ? [map.objects[id].position] : [])),
  ];
  const known = new Map<string, Vec3>();
  for (const p of points) known.set(`${Math.round(p[axis])}/${Math.round(p[1 - axis])}/${Math.round(p[2])}`, p);
  return known.size > MOST ? [] : [...known.values()];
}

const begin = (context: CanvasRenderingContext2D, colour: string) => {
  context.strokeStyle = colour;
  context.globalAlpha = 0.55;
  context.lineWidth = 1;
  context.setLineDash([2, 3]);
  context.beginPath();
};
const end = (context: CanvasRenderingContext2D) => {
  context.stroke();
  context.setLineDash([]);
  context.globalAlpha = 1;
};

/** In the plan: down to its lower edge; for a line along y first across to the fold, where y becomes the section's own axis. */
export function drawLinesInPlan(canvas: Canvas2d, sheet: Sheet, map: GameMap, view: Pick<ViewState, 'selection' | 'section'>, colour: string): void {
  const { axis } = cutLine(view.section);
  if (axis === null) return;
  const { context, width, height } = canvas;
  begin(context, colour);
  for (const p of projectedPoints(map, view.selection, axis)) {
    const [x, y] = toScreen(sheet, canvas, [p[0], p[1]]);
    const down = axis === 0 ? x : width / 2 + (p[1] - sheet.centre[1]) * sheet.scale;
    context.moveTo(x, y);
    if (axis === 1) context.lineTo(down, y);
    context.lineTo(down, height);
  }
  end(context);
}

/** In the section: from its upper edge to the height of each point. */
export function drawLinesInSection(
  canvas: Canvas2d,
  sheet: Sheet,
  map: GameMap,
  view: Pick<ViewState, 'selection' | 'section'>,
  colour: string,
): void {
  const { axis } = cutLine(view.section);
  if (axis === null) return;
  begin(canvas.context, colour);
  for (const p of projectedPoints(map, view.selection, axis)) {
    const [x, y] = toScreen(sheet, canvas, [p[axis], p[2]]);
    canvas.context.moveTo(x, 0);
    canvas.context.lineTo(x, y);
  }
  end(canvas.context);
}
