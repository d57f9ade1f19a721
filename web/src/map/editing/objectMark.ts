/** How objects look on the sheets: a mark by what they do, with their name. */

import type { MapObject } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { drawLabel } from '../../common/sheet.ts';
import type { MarkColours } from '../../part/look.ts';
import { lookOf } from '../../part/looks.ts';

/** @param angle where the object looks, in the picture; null from the side */
export function drawObjectMark(
  context: CanvasRenderingContext2D,
  profile: Profile,
  object: MapObject,
  x: number,
  y: number,
  selected: boolean,
  named: boolean,
  colours: MarkColours,
  angle: number | null,
): void {
  const colour = selected ? colours.warm : colours[lookOf(profile, object.class, 'colour') ?? 'violet'];
  context.save();
  context.translate(x, y);
  context.strokeStyle = colour;
  context.fillStyle = colour;
  context.lineWidth = selected ? 2.5 : 1.5;
  context.beginPath();
  const mark = lookOf(profile, object.class, 'mark');
  if (mark) mark(context, angle);
  else {
    context.arc(0, 0, 4.5, 0, 2 * Math.PI);
    context.stroke();
  }
  context.restore();
  if (selected || named) drawLabel(context, object.name, x + 9, y + 4, selected ? colours.warm : colours.ink, colours.ground);
}
