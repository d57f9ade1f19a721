/** The ground in the section: its true profile along the cut, and how steep it is there. */

import type { Ground } from '@violet-crate/core/terrain/ground';
import { groundProfile } from '@violet-crate/core/terrain/profileLine';
import { sectionDirection, type Point2, type SectionLine } from '@violet-crate/core/solid/shape';
import { toScreen, toSheet, type Canvas2d, type Sheet } from '../../common/sheet.ts';
import type { SheetColours } from '../editing/useDocument.ts';
import { slopeWordAt } from './slopeWords.ts';
import type { SlopeWord } from '@violet-crate/core/terrain/picture';

export function drawGroundSection(canvas: Canvas2d, sheet: Sheet, ground: Ground, line: SectionLine, colours: SheetColours, moving: boolean): void {
  const { context } = canvas;
  const d = sectionDirection(line);
  const [left] = toSheet(sheet, canvas, [0, 0]);
  const [right] = toSheet(sheet, canvas, [canvas.width, 0]);
  const at = (u: number): [number, number] => [line.from[0] + d[0] * u, line.from[1] + d[1] * u];
  // One corner a pixel is enough.
  const step = Math.max(1, 2 ** Math.floor(Math.log2(Math.max(1, 1 / (sheet.scale * ground.terrain.spacing)))));
  for (const piece of groundProfile(ground, at(left), at(right), step)) {
    const points = piece.map(({ along, height }): Point2 => toScreen(sheet, canvas, [left + along, height]));
    context.beginPath();
    points.forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
    context.strokeStyle = moving ? colours.warm : colours.clear;
    context.lineWidth = 1.8;
    context.stroke();
    if (moving) continue;
    context.lineTo(points[points.length - 1][0], canvas.height);
    context.lineTo(points[0][0], canvas.height);
    context.closePath();
    context.globalAlpha = 0.14;
    context.fillStyle = colours.clear;
    context.fill();
    context.globalAlpha = 1;
  }
}

/** Height and gradient of the ground under the pointer, as words. */
export function gradientAt(ground: Ground, line: SectionLine, along: number, words: readonly SlopeWord[]): string | null {
  const d = sectionDirection(line);
  const at = (u: number) => ground.heightAt(line.from[0] + d[0] * u, line.from[1] + d[1] * u);
  const reach = ground.terrain.spacing / 2;
  const [here, before, after] = [at(along), at(along - reach), at(along + reach)];
  if (here === null) return null;
  const rise = before !== null && after !== null ? (after - before) / (2 * reach) : 0;
  const degrees = (Math.atan(Math.abs(rise)) * 180) / Math.PI;
  return `ground ${here.toFixed(1)}, ${rise >= 0 ? 'up' : 'down'} ${Math.round(Math.abs(rise) * 100)} % (${degrees.toFixed(0)}°), ${slopeWordAt(words, degrees)}`;
}
