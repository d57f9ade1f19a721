/** Shapes of solids, kept per solid value: an edit makes new values only for what it changes. */

import type { Solid } from '../document/schema.ts';
import { boxOfPoints, type Box3 } from '../math/box3.ts';
import { solidPolygons, type SolidPolygon } from './solid.ts';

export type Point2 = [number, number];

export interface SolidShape {
  polygons: SolidPolygon[];
  box: Box3;
  /** Convex outline seen from above. */
  outline: Point2[];
}

const shapes = new WeakMap<Solid, SolidShape>();

export function shapeOf(solid: Solid): SolidShape {
  let shape = shapes.get(solid);
  if (!shape) {
    const polygons = solidPolygons(solid);
    const points = polygons.flatMap((polygon) => polygon.winding);
    shape = { polygons, box: boxOfPoints(points), outline: convexHull(points.map((p): Point2 => [p[0], p[1]])) };
    shapes.set(solid, shape);
  }
  return shape;
}

/** Andrew's monotone chain; counter-clockwise. Points that differ by rounding only are taken as one. */
export function convexHull(points: Point2[]): Point2[] {
  const distinct = new Map(
    points.map((p): [string, Point2] => [
      p.map((v) => Math.round(v * 1000)).join(),
      [Math.round(p[0] * 1000) / 1000, Math.round(p[1] * 1000) / 1000],
    ]),
  );
  const sorted = [...distinct.values()].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (list: Point2[]): Point2[] => {
    const chain: Point2[] = [];
    for (const p of list) {
      while (chain.length >= 2) {
        const [a, b] = [chain[chain.length - 2], chain[chain.length - 1]];
        if ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 1e-6) break;
        chain.pop();
      }
      chain.push(p);
    }
    return chain.slice(0, -1);
  };
  return [...half(sorted), ...half(sorted.reverse())];
}

export interface SectionLine {
  from: Point2;
  to: Point2;
}

/** Unit direction of a section line in the plan. */
export function sectionDirection({ from, to }: SectionLine): Point2 {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
  return [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
}

/** Where the vertical plane through a section line cuts a solid: a convex outline in (along, height), or null. */
export function sliceSolid(solid: Solid, line: SectionLine): Point2[] | null {
  const d = sectionDirection(line);
  const across = (p: readonly number[]) => (p[0] - line.from[0]) * -d[1] + (p[1] - line.from[1]) * d[0];
  const along = (p: readonly number[]) => (p[0] - line.from[0]) * d[0] + (p[1] - line.from[1]) * d[1];
  const points: Point2[] = [];
  for (const { winding } of shapeOf(solid).polygons) {
    winding.forEach((p, i) => {
      const q = winding[(i + 1) % winding.length];
      const [a, b] = [across(p), across(q)];
      if (a === 0) points.push([along(p), p[2]]);
      if ((a < 0 && b > 0) || (a > 0 && b < 0)) {
        const t = a / (a - b);
        points.push([along(p) + (along(q) - along(p)) * t, p[2] + (q[2] - p[2]) * t]);
      }
    });
  }
  const hull = points.length >= 3 ? convexHull(points) : [];
  return hull.length >= 3 ? hull : null;
}

export function insideOutline(outline: readonly Point2[], p: Point2): boolean {
  return outline.every(([x, y], i) => {
    const [nx, ny] = outline[(i + 1) % outline.length];
    return (nx - x) * (p[1] - y) - (ny - y) * (p[0] - x) >= -1e-6;
  });
}
