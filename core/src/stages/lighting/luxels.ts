/** The luxels of charts, each with the points of the surface that it stands for. */

import type { Vec3 } from '../../math/vec3.ts';
import type { Surface } from '../surface/surface.ts';
import { chartCoordinates, luxelCentre, type Atlas, type Block, type Chart } from './charts.ts';

/** Distance by which rays start off the surface, in units, against hitting it. */
const BIAS = 0.05;
/** Points keep this far from the edges of their polygon, in units: on an edge they would stand within the wall that meets it, and see past it. */
const INSET = 0.05;
/** Luxels along the side of a cell in which polygons are looked up. */
const CELL = 8;

/** A polygon in coordinates of its chart, luxels from the chart's corner. */
interface Flat {
  points: [number, number][];
  /** Inward normal and offset per edge: a x + b y + c is the distance from it. */
  edges: [a: number, b: number, c: number][];
  centre: [number, number];
}

/** Polygons of a chart by cell: made once for all its blocks. */
export type ChartCells = (Flat[] | undefined)[];

/** Visits every luxel of a block that touches its surfaces, with a point in front of one of them and a finer grid of such points. */
export function forEachLuxel(
  atlas: Atlas,
  block: Block,
  cells: ChartCells,
  visit: (texel: number, point: Vec3, samples: (grid: number) => Vec3[]) => void,
): void {
  const chart = atlas.charts[block.chart];
  const across = Math.ceil(chart.w / CELL);
  const inset = INSET / chart.luxel;
  const at = (x: number, y: number): Vec3 => {
    const p = luxelCentre(chart, x - 0.5, y - 0.5);
    return [p[0] + chart.normal[0] * BIAS, p[1] + chart.normal[1] * BIAS, p[2] + chart.normal[2] * BIAS];
  };
  for (let j = block.j; j < block.j + block.h; j++) {
    for (let i = block.i; i < block.i + block.w; i++) {
      const near = cells[Math.floor(j / CELL) * across + Math.floor(i / CELL)];
      if (!near) continue;
      const on = (x: number, y: number) => near.some((polygon) => polygon.edges.every(([a, b, c]) => a * x + b * y + c >= inset));
      let [x, y] = [i + 0.5, j + 0.5];
      if (!on(x, y)) {
        // A luxel at the rim: use the nearest surface point if the luxel overlaps the surface at all.
        [x, y] = nearestPoint(near, x, y, inset);
        if (Math.abs(x - i - 0.5) > 1 || Math.abs(y - j - 0.5) > 1) continue;
      }
      const point = at(x, y);
      visit((chart.y + j) * atlas.width + chart.x + i, point, (grid) => {
        if (grid <= 1) return [point];
        const points: Vec3[] = [];
        for (let b = 0; b < grid; b++)
          for (let a = 0; a < grid; a++) {
            const [sx, sy] = [i + (a + 0.5) / grid, j + (b + 0.5) / grid];
            if (on(sx, sy)) points.push(at(sx, sy));
          }
        return points.length > 0 ? points : [point];
      });
    }
  }
}

/** For every cell of luxels the polygons in it or within a luxel of it. */
export function polygonsByCell(surfaces: readonly Surface[], chart: Chart): ChartCells {
  const [across, down] = [Math.ceil(chart.w / CELL), Math.ceil(chart.h / CELL)];
  const cells = new Array<Flat[] | undefined>(across * down);
  for (const index of chart.surfaces) {
    const points = surfaces[index].winding.map((p) => chartCoordinates(chart, p));
    const centre: [number, number] = [0, 0];
    for (const [x, y] of points) {
      centre[0] += x / points.length;
      centre[1] += y / points.length;
    }
    const edges = points.map(([px, py], k): [number, number, number] => {
      const [qx, qy] = points[(k + 1) % points.length];
      const size = Math.hypot(qx - px, qy - py) || 1;
      const [a, b] = [-(qy - py) / size, (qx - px) / size];
      return [a, b, -(a * px + b * py)];
    });
    const flat: Flat = { points, edges, centre };
    const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
    const cell = (v: number, most: number) => Math.min(most - 1, Math.max(0, Math.floor(v / CELL)));
    for (let y = cell(Math.min(...ys) - 1.5, down); y <= cell(Math.max(...ys) + 1.5, down); y++)
      for (let x = cell(Math.min(...xs) - 1.5, across); x <= cell(Math.max(...xs) + 1.5, across); x++) {
        const list = cells[y * across + x];
        if (list) list.push(flat);
        else cells[y * across + x] = [flat];
      }
  }
  return cells;
}

/** The nearest point on the polygons' edges, drawn towards the polygon's centre by the inset, or half of the way where that is less. */
function nearestPoint(polygons: readonly Flat[], x: number, y: number, inset: number): [number, number] {
  let best: [number, number] = [Infinity, Infinity];
  let nearest = Infinity;
  for (const { points, centre } of polygons)
    points.forEach(([px, py], k) => {
      const [qx, qy] = points[(k + 1) % points.length];
      const [dx, dy] = [qx - px, qy - py];
      const t = Math.min(1, Math.max(0, ((x - px) * dx + (y - py) * dy) / (dx * dx + dy * dy || 1)));
      const [ox, oy] = [px + dx * t, py + dy * t];
      const away = (ox - x) ** 2 + (oy - y) ** 2;
      if (away >= nearest) return;
      nearest = away;
      // √2 keeps the inset from both sides of a right corner.
      const share = Math.min(0.5, (inset * Math.SQRT2) / (Math.hypot(centre[0] - ox, centre[1] - oy) || 1));
      best = [ox + (centre[0] - ox) * share, oy + (centre[1] - oy) * share];
    });
  return best;
}
