import { drawLabel } from '../../../common/sheet.ts';
import type { Rect } from '../projection/handles.ts';
import type { GesturePen } from './gesture.ts';

/** A rectangle of a sheet, with its size where it has one to tell. */
export function drawRectangle({ context, place, colours }: GesturePen, { min, max }: Rect, dashed: boolean, label = ''): void {
  const [x0, y0] = place([min[0], max[1]]);
  const [x1, y1] = place([max[0], min[1]]);
  context.strokeStyle = colours.warm;
  context.lineWidth = 1.5;
  context.setLineDash(dashed ? [4, 3] : []);
  context.strokeRect(x0, y0, x1 - x0, y1 - y0);
  context.setLineDash([]);
  if (label) drawLabel(context, label, x0, y0 - 8, colours.warm, colours.ground);
}
