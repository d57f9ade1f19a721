/** A canvas for tests: remembers every stroke and fill with its path and its look. */

import type { Canvas2d } from '../common/sheet.ts';
import type { Point2 } from '@violet-crate/core/solid/shape';

export interface Mark {
  what: 'fill' | 'stroke' | 'text';
  colour: string;
  alpha: number;
  width: number;
  dashed: boolean;
  path: Point2[];
  text?: string;
}

export function pen(width: number, height: number): { canvas: Canvas2d; marks: Mark[] } {
  const marks: Mark[] = [];
  let path: Point2[] = [];
  let dash: number[] = [];
  const state = { fillStyle: '', strokeStyle: '', globalAlpha: 1, lineWidth: 1 };
  const mark = (what: Mark['what'], own: Point2[], text?: string) => {
    const colour = what === 'stroke' ? state.strokeStyle : state.fillStyle;
    marks.push({ what, colour, alpha: state.globalAlpha, width: state.lineWidth, dashed: dash.length > 0, path: own, text });
  };
  const corners = (x: number, y: number, w: number, h: number): Point2[] => [
    [x, y],
    [x + w, y],
    [x + w, y + h],
    [x, y + h],
  ];
  const told: Record<string, (...given: never[]) => unknown> = {
    beginPath: () => (path = []),
    moveTo: (x: number, y: number) => path.push([x, y]),
    lineTo: (x: number, y: number) => path.push([x, y]),
    arc: (x: number, y: number) => path.push([x, y]),
    fill: () => mark('fill', [...path]),
    stroke: () => mark('stroke', [...path]),
    fillRect: (x: number, y: number, w: number, h: number) => mark('fill', corners(x, y, w, h)),
    strokeRect: (x: number, y: number, w: number, h: number) => mark('stroke', corners(x, y, w, h)),
    fillText: (text: string, x: number, y: number) => mark('text', [[x, y]], text),
    setLineDash: (next: number[]) => (dash = next),
    measureText: (text: string) => ({ width: text.length * 6 }),
  };
  // What is not remembered is allowed: saving, turning, fonts.
  const context = new Proxy(state as unknown as CanvasRenderingContext2D, {
    get: (target, key) => told[key as string] ?? (target as never)[key] ?? (() => undefined),
  });
  return { canvas: { context, width, height }, marks };
}
