/** The eight handles of a rectangle, and what dragging one does to it. */

import { toScreen, type Sheet } from '../../../common/sheet.ts';
import { scaling, type Affine } from '@violet-crate/core/solid/transform';
import type { Point2 } from '@violet-crate/core/solid/shape';

export interface Rect {
  min: Point2;
  max: Point2;
}

export const rectOf = (a: Point2, b: Point2): Rect => ({
  min: [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
  max: [Math.max(a[0], b[0]), Math.max(a[1], b[1])],
});

export const withinRect = ({ min, max }: Rect, p: readonly number[]): boolean => p[0] >= min[0] && p[0] <= max[0] && p[1] >= min[1] && p[1] <= max[1];

/** -1 and 1 name the sides that move along u and v; 0 leaves that direction alone. */
export type Handle = [-1 | 0 | 1, -1 | 0 | 1];

const HANDLES: Handle[] = [
  [-1, -1],
  [0, -1],
  [1, -1],
  [1, 0],
  [1, 1],
  [0, 1],
  [-1, 1],
  [-1, 0],
];
const REACH = 8;

const handlePoint = ({ min, max }: Rect, [hu, hv]: Handle): Point2 => [
  hu === 0 ? (min[0] + max[0]) / 2 : hu < 0 ? min[0] : max[0],
  hv === 0 ? (min[1] + max[1]) / 2 : hv < 0 ? min[1] : max[1],
];

export function handleAt(rect: Rect, sheet: Sheet, canvas: { width: number; height: number }, at: Point2): Handle | null {
  const p = toScreen(sheet, canvas, at);
  return (
    HANDLES.find((handle) => {
      const [x, y] = toScreen(sheet, canvas, handlePoint(rect, handle));
      return Math.abs(x - p[0]) <= REACH && Math.abs(y - p[1]) <= REACH;
    }) ?? null
  );
}

/** The rectangle with the handle's sides at `to`, never thinner than `least`. */
export function dragHandle(rect: Rect, [hu, hv]: Handle, to: Point2, least: number): Rect {
  const min: Point2 = [...rect.min];
  const max: Point2 = [...rect.max];
  [hu, hv].forEach((side, axis) => {
    if (side < 0) min[axis] = Math.min(to[axis], max[axis] - least);
    if (side > 0) max[axis] = Math.max(to[axis], min[axis] + least);
  });
  return { min, max };
}

export function drawHandles(
  context: CanvasRenderingContext2D,
  rect: Rect,
  sheet: Sheet,
  canvas: { width: number; height: number },
  ink: string,
  ground: string,
): void {
  for (const handle of HANDLES) {
    const [x, y] = toScreen(sheet, canvas, handlePoint(rect, handle));
    context.fillStyle = ground;
    context.strokeStyle = ink;
    context.lineWidth = 1.5;
    context.beginPath();
    context.moveTo(x, y - 5);
    context.lineTo(x + 5, y);
    context.lineTo(x, y + 5);
    context.lineTo(x - 5, y);
    context.closePath();
    context.fill();
    context.stroke();
  }
}

/** The scaling that makes one rectangle of another; the side that stays is its centre. */
export function scaleOf(from: Rect, to: Rect): Affine {
  const along = (k: 0 | 1) => {
    const factor = (to.max[k] - to.min[k]) / (from.max[k] - from.min[k]);
    return { factor, still: factor === 1 ? from.min[k] : (to.min[k] - from.min[k] * factor) / (1 - factor) };
  };
  const [u, v] = [along(0), along(1)];
  return scaling([u.factor, v.factor, 1], [u.still, v.still, 0]);
}
