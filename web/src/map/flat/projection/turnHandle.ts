/** The handle above a selection by which it is turned. */

import type { Point2 } from '@violet-crate/core/solid/shape';
import type { Rect } from './handles.ts';
import { toScreen, type Sheet } from '../../../common/sheet.ts';

/** Pixels from the top of the selection. */
const STEM = 26;
const REACH = 9;

const handleOn = (rect: Rect, sheet: Sheet, canvas: { width: number; height: number }): Point2 => {
  const [x, y] = toScreen(sheet, canvas, [(rect.min[0] + rect.max[0]) / 2, rect.max[1]]);
  return [x, y - STEM];
};

export function isTurnHandle(rect: Rect, sheet: Sheet, canvas: { width: number; height: number }, at: Point2): boolean {
  const [x, y] = handleOn(rect, sheet, canvas);
  const [px, py] = toScreen(sheet, canvas, at);
  return Math.hypot(px - x, py - y) <= REACH;
}

/** Degrees, counter-clockwise, from one point to another as seen from a centre; in steps of 15 unless free. */
export function turnBetween(centre: Point2, from: Point2, to: Point2, free: boolean): number {
  const angle = (p: Point2) => Math.atan2(p[1] - centre[1], p[0] - centre[0]);
  const degrees = ((angle(to) - angle(from)) * 180) / Math.PI;
  const step = free ? 0.5 : 15;
  return Math.round((((degrees + 540) % 360) - 180) / step) * step;
}

export function drawTurnHandle(
  context: CanvasRenderingContext2D,
  rect: Rect,
  sheet: Sheet,
  canvas: { width: number; height: number },
  ink: string,
  ground: string,
): void {
  const [x, y] = handleOn(rect, sheet, canvas);
  context.strokeStyle = ink;
  context.fillStyle = ground;
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x, y + STEM - 6);
  context.lineTo(x, y + 5);
  context.stroke();
  context.beginPath();
  context.arc(x, y, 5, 0, 2 * Math.PI);
  context.fill();
  context.stroke();
}
