/**
 * Joins charts that meet: where surfaces of one plane share an edge, the luxels along it hold the same light in both
 * charts. Their luxels lie on one grid, so what is drawn between luxel centres is then the same on either side and no
 * seam shows. Around bends nothing is joined: there light does change at once.
 */

import type { Vec3 } from '../../math/vec3.ts';
import type { Surface } from '../surface/surface.ts';
import { BORDER, chartCoordinates, type Atlas, type Chart } from './charts.ts';

/** Corners that lie within this of each other are one, in units. */
const CLOSE = 1e-2;
/** Normals whose parts differ by less than this, and luxels in ratio, are the same. */
const SAME = 1e-4;

interface Rim {
  chart: number;
  surface: number;
  from: Vec3;
  to: Vec3;
}

/**
 * @param values linear RGB per texel of the atlas, changed in place
 * @param covered which texels hold light; those that are filled from the other side are added
 * @param surfaces those that the charts speak of, welded: neighbours share whole edges
 */
export function stitch(values: Float32Array, covered: Uint8Array, surfaces: readonly Surface[], atlas: Atlas): void {
  const open = new Map<string, Rim[]>();
  const spot = (p: Vec3) => p.map((v) => Math.round(v / CLOSE)).join();
  atlas.charts.forEach((chart, index) => {
    for (const surface of chart.surfaces) {
      const { winding } = surfaces[surface];
      winding.forEach((from, i) => {
        const to = winding[(i + 1) % winding.length];
        const rim = { chart: index, surface, from, to };
        // The neighbour runs along the edge the other way.
        const partner = open.get(`${spot(to)}>${spot(from)}`)?.find((other) => meet(chart, atlas.charts[other.chart]));
        if (partner && partner.chart !== index) join(values, covered, atlas, partner, rim);
        const key = `${spot(from)}>${spot(to)}`;
        const list = open.get(key);
        if (list) list.push(rim);
        else open.set(key, [rim]);
      });
    }
  });
}

const meet = (a: Chart, b: Chart): boolean =>
  a.normal.every((v, k) => Math.abs(v - b.normal[k]) < SAME) && Math.abs(a.distance - b.distance) < CLOSE && Math.abs(a.luxel / b.luxel - 1) < SAME;

/** Makes the luxels within one and a half of an edge equal in two charts: each takes those on the other's side from it. */
function join(values: Float32Array, covered: Uint8Array, { charts, width }: Atlas, first: Rim, second: Rim): void {
  const [a, b] = [charts[first.chart], charts[second.chart]];
  const [di, dj] = [Math.round((a.u0 - b.u0) / a.luxel), Math.round((a.v0 - b.v0) / a.luxel)];
  const [p, q] = [chartCoordinates(a, first.from), chartCoordinates(a, first.to)];
  const [ex, ey] = [q[0] - p[0], q[1] - p[1]];
  const size = Math.hypot(ex, ey);
  if (size < 1e-9) return;
  const low = (k: 0 | 1) => Math.floor(Math.min(p[k], q[k]) - BORDER);
  const high = (k: 0 | 1) => Math.ceil(Math.max(p[k], q[k]) + BORDER);
  for (let j = Math.max(0, low(1)); j < Math.min(a.h, high(1)); j++)
    for (let i = Math.max(0, low(0)); i < Math.min(a.w, high(0)); i++) {
      const [bi, bj] = [i + di, j + dj];
      if (bi < 0 || bj < 0 || bi >= b.w || bj >= b.h) continue;
      const [x, y] = [i + 0.5 - p[0], j + 0.5 - p[1]];
      // A winding runs counter-clockwise about its normal, so the first surface lies on the left of its edge.
      const left = (ex * y - ey * x) / size;
      if (Math.abs(left) > 1.5) continue;
      const [own, other] = [(a.y + j) * width + a.x + i, (b.y + bj) * width + b.x + bi];
      if (!covered[own] && !covered[other]) continue;
      const [mine, its] = [covered[own] && (left > -1e-6 || !covered[other]), covered[other] && (left < 1e-6 || !covered[own])];
      for (let k = 0; k < 3; k++) {
        const value = mine && its ? (values[own * 3 + k] + values[other * 3 + k]) / 2 : values[(mine ? own : other) * 3 + k];
        values[own * 3 + k] = value;
        values[other * 3 + k] = value;
      }
      covered[own] = 1;
      covered[other] = 1;
    }
}
