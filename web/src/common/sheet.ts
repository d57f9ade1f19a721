/** A drawing sheet: where it is looked at, and how its coordinates become pixels. v grows upwards. */

import type { Point2 } from '@violet-crate/core/solid/shape';

export interface Sheet {
  /** Sheet coordinates in the middle of the canvas. */
  centre: Point2;
  /** Pixels per unit. */
  scale: number;
}

export interface Canvas2d {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
}

export const toScreen = (sheet: Sheet, canvas: { width: number; height: number }, [u, v]: Point2): Point2 => [
  canvas.width / 2 + (u - sheet.centre[0]) * sheet.scale,
  canvas.height / 2 - (v - sheet.centre[1]) * sheet.scale,
];

export const toSheet = (sheet: Sheet, canvas: { width: number; height: number }, [x, y]: Point2): Point2 => [
  sheet.centre[0] + (x - canvas.width / 2) / sheet.scale,
  sheet.centre[1] - (y - canvas.height / 2) / sheet.scale,
];

/** The sheet that shows a rectangle with some air around it. */
export function fitSheet(canvas: { width: number; height: number }, min: Point2, max: Point2): Sheet {
  const w = Math.max(max[0] - min[0], 1);
  const h = Math.max(max[1] - min[1], 1);
  const scale = Math.min(Math.max(canvas.width, 50) / w, Math.max(canvas.height, 50) / h) * 0.88;
  return { centre: [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2], scale };
}

/** Fits a canvas' pixels to its element, or to a size for one that is not shown; answers null while it has no size. */
export function prepareCanvas(
  element: HTMLCanvasElement,
  { width, height }: { width: number; height: number } = { width: element.clientWidth, height: element.clientHeight },
): Canvas2d | null {
  const ratio = window.devicePixelRatio || 1;
  if (width === 0 || height === 0) return null;
  if (element.width !== Math.round(width * ratio) || element.height !== Math.round(height * ratio)) {
    element.width = Math.round(width * ratio);
    element.height = Math.round(height * ratio);
  }
  const context = element.getContext('2d')!;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  return { context, width, height };
}

/** Grid lines no closer than 7 pixels, every eighth stronger, the axes strongest. */
export function drawGrid({ context, width, height }: Canvas2d, sheet: Sheet, grid: number, colours: { line: string; strong: string }): void {
  let step = grid;
  while (step * sheet.scale < 7) step *= 2;
  const [left, top] = toSheet(sheet, { width, height }, [0, 0]);
  const [right, bottom] = toSheet(sheet, { width, height }, [width, height]);
  for (const axis of [0, 1] as const) {
    const [from, to] = axis === 0 ? [left, right] : [bottom, top];
    for (let i = Math.floor(from / step); i <= Math.ceil(to / step); i++) {
      const at = toScreen(sheet, { width, height }, axis === 0 ? [i * step, 0] : [0, i * step])[axis];
      context.globalAlpha = i === 0 ? 0.9 : i % 8 === 0 ? 0.55 : 0.25;
      context.strokeStyle = i === 0 ? colours.strong : colours.line;
      context.lineWidth = 1;
      context.beginPath();
      if (axis === 0) {
        context.moveTo(Math.round(at) + 0.5, 0);
        context.lineTo(Math.round(at) + 0.5, height);
      } else {
        context.moveTo(0, Math.round(at) + 0.5);
        context.lineTo(width, Math.round(at) + 0.5);
      }
      context.stroke();
    }
  }
  context.globalAlpha = 1;
}

export function tracePolygon(context: CanvasRenderingContext2D, points: readonly Point2[]): void {
  context.beginPath();
  points.forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
  context.closePath();
}

/** A text with a ground behind it, so that it can be read over anything. */
export function drawLabel(context: CanvasRenderingContext2D, text: string, x: number, y: number, ink: string, ground: string): void {
  context.font = '11px "Inter Variable", sans-serif';
  const width = context.measureText(text).width;
  context.globalAlpha = 0.85;
  context.fillStyle = ground;
  context.fillRect(x - 3, y - 11, width + 6, 15);
  context.globalAlpha = 1;
  context.fillStyle = ink;
  context.fillText(text, x, y);
}

/** Drawn lines prefer the axes, unless Shift is held. */
export function straight(from: Point2, to: Point2): Point2 {
  const [dx, dy] = [Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])];
  if (dx > dy * 3) return [to[0], from[1]];
  if (dy > dx * 3) return [from[0], to[1]];
  return to;
}
