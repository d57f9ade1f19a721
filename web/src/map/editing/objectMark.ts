/** How objects look on the sheets: a shape by what they do, with their direction and name. */

import { hasPart, type Profile } from '@violet-crate/core/profile/schema';
import type { MapObject } from '@violet-crate/core/document/schema';
import { drawLabel } from './sheet.ts';

export interface MarkColours {
  ink: string;
  ground: string;
  violet: string;
  warm: string;
  clear: string;
}

/** Start: arrowhead. Light: rayed dot. Usable: square with a notch. Volume and water: frame (drawn by the view). Else: dot. */
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
  const is = (part: Parameters<typeof hasPart>[2]) => hasPart(profile, object.class, part);
  const colour = selected ? colours.warm : is('light') ? colours.warm : is('start') || is('goal') ? colours.clear : colours.violet;
  context.save();
  context.translate(x, y);
  context.strokeStyle = colour;
  context.fillStyle = colour;
  context.lineWidth = selected ? 2.5 : 1.5;
  context.beginPath();
  if (is('start')) {
    context.rotate(angle ?? -Math.PI / 2);
    context.moveTo(8, 0);
    context.lineTo(-5, -6);
    context.lineTo(-2, 0);
    context.lineTo(-5, 6);
    context.closePath();
    context.fill();
  } else if (is('light')) {
    context.arc(0, 0, 3, 0, 2 * Math.PI);
    context.fill();
    context.beginPath();
    for (let i = 0; i < 6; i++) {
      const a = (i / 6) * 2 * Math.PI;
      context.moveTo(Math.cos(a) * 5, Math.sin(a) * 5);
      context.lineTo(Math.cos(a) * 8, Math.sin(a) * 8);
    }
    context.stroke();
  } else if (is('use')) {
    context.rect(-5, -5, 10, 10);
    context.moveTo(0, -5);
    context.lineTo(0, 0);
    context.stroke();
  } else if (is('goal')) {
    context.moveTo(-4, 7);
    context.lineTo(-4, -7);
    context.lineTo(6, -3);
    context.lineTo(-4, 1);
    context.stroke();
  } else {
    context.arc(0, 0, 4.5, 0, 2 * Math.PI);
    context.stroke();
  }
  context.restore();
  if (selected || named) drawLabel(context, object.name, x + 9, y + 4, selected ? colours.warm : colours.ink, colours.ground);
}
