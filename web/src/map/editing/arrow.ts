import type { Point2 } from '@violet-crate/core/solid/shape';

/** A line with a head at its end. */
export function arrow(context: CanvasRenderingContext2D, a: Point2, b: Point2): void {
  const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
  context.beginPath();
  context.moveTo(...a);
  context.lineTo(...b);
  context.moveTo(b[0] - 8 * Math.cos(angle - 0.4), b[1] - 8 * Math.sin(angle - 0.4));
  context.lineTo(...b);
  context.lineTo(b[0] - 8 * Math.cos(angle + 0.4), b[1] - 8 * Math.sin(angle + 0.4));
  context.stroke();
}
