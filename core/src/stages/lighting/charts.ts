/**
 * Lightmap charts. All fragments of one face share a plane, so they share a chart: a rectangle of luxels
 * in that plane, with a border of one luxel against bleeding. Charts are packed into one square-ish atlas.
 * Luxels lie on a grid that all faces of one plane and luxel share, so that charts which meet can be stitched
 * (`stitch.ts`). Work is dealt out in blocks of luxels, so that a lamp over a huge floor costs only what it reaches.
 */

import potpack from 'potpack';
import { cross, dot, normalise, type Vec3 } from '../../math/vec3.ts';
import type { Surface } from '../surface/surface.ts';

export interface Chart {
  /** Indices of the surfaces that lie in this chart. */
  surfaces: number[];
  normal: Vec3;
  /** Unit axes in the plane and the plane's distance. */
  u: Vec3;
  v: Vec3;
  distance: number;
  /** In-plane coordinates of the chart's first luxel corner. */
  u0: number;
  v0: number;
  /** Edge of a luxel in units. */
  luxel: number;
  /** Place in the atlas, in luxels, border included. */
  x: number;
  y: number;
  w: number;
  h: number;
}

export interface Atlas {
  width: number;
  height: number;
  charts: Chart[];
  /** Luxel size that was used where no face or material asks for another; larger than asked for when the atlas would not have fitted. */
  luxel: number;
}

/** A square of luxels of one chart, or what of it lies within the chart. Luxels are counted from the chart's corner. */
export interface Block {
  /** Index of the chart. */
  chart: number;
  i: number;
  j: number;
  w: number;
  h: number;
}

/** Luxels along the side of a block. */
const BLOCK = 32;

/** All blocks of an atlas, chart by chart, row by row. */
export function blocksOf(atlas: Atlas): Block[] {
  return atlas.charts.flatMap(({ w, h }, chart) => {
    const blocks: Block[] = [];
    for (let j = 0; j < h; j += BLOCK)
      for (let i = 0; i < w; i += BLOCK) blocks.push({ chart, i, j, w: Math.min(BLOCK, w - i), h: Math.min(BLOCK, h - j) });
    return blocks;
  });
}

export const ATLAS_LIMIT = 4096;
export const BORDER = 1;
/** Share of a luxel within which a rim counts as on the grid. */
const ON_GRID = 1e-6;

/** @param factorOf what the luxel of a surface is multiplied by: 0.5 is twice as fine */
export function layOutCharts(surfaces: readonly Surface[], wantedLuxel: number, factorOf: (surface: Surface) => number = () => 1): Atlas {
  for (let luxel = wantedLuxel; ; luxel *= 2) {
    const charts = makeCharts(surfaces, luxel, factorOf);
    const { w, h } = potpack(charts);
    const width = Math.max(4, Math.ceil(w / 4) * 4);
    const height = Math.max(4, Math.ceil(h / 4) * 4);
    if (width <= ATLAS_LIMIT && height <= ATLAS_LIMIT) return { width, height, charts, luxel };
  }
}

function makeCharts(surfaces: readonly Surface[], wanted: number, factorOf: (surface: Surface) => number): Chart[] {
  const byFace = new Map<string, number[]>();
  surfaces.forEach((surface, index) => {
    const key = `${surface.solid}/${surface.face}`;
    const list = byFace.get(key);
    if (list) list.push(index);
    else byFace.set(key, [index]);
  });
  return [...byFace.values()].map((indices) => {
    const { normal, winding } = surfaces[indices[0]];
    const helper: Vec3 = Math.abs(normal[2]) < 0.7 ? [0, 0, 1] : [0, 1, 0];
    const u = normalise(cross(helper, normal));
    const v = cross(normal, u);
    const luxel = wanted * factorOf(surfaces[indices[0]]);
    let [u0, v0, u1, v1] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const index of indices) {
      for (const point of surfaces[index].winding) {
        const [pu, pv] = [dot(u, point), dot(v, point)];
        u0 = Math.min(u0, pu);
        u1 = Math.max(u1, pu);
        v0 = Math.min(v0, pv);
        v1 = Math.max(v1, pv);
      }
    }
    u0 = Math.floor(u0 / luxel + ON_GRID) * luxel;
    v0 = Math.floor(v0 / luxel + ON_GRID) * luxel;
    return {
      surfaces: indices,
      normal,
      u,
      v,
      distance: dot(normal, winding[0]),
      u0,
      v0,
      luxel,
      x: 0,
      y: 0,
      w: Math.max(1, Math.ceil((u1 - u0) / luxel - ON_GRID)) + 2 * BORDER,
      h: Math.max(1, Math.ceil((v1 - v0) / luxel - ON_GRID)) + 2 * BORDER,
    };
  });
}

/** The point of the chart's plane at the centre of luxel (i, j), counted from the chart's corner. */
export function luxelCentre(chart: Chart, i: number, j: number): Vec3 {
  const s = chart.u0 + (i - BORDER + 0.5) * chart.luxel;
  const t = chart.v0 + (j - BORDER + 0.5) * chart.luxel;
  return [0, 1, 2].map((a) => chart.u[a] * s + chart.v[a] * t + chart.normal[a] * chart.distance) as Vec3;
}

/** Continuous chart coordinates of a point in its plane, in luxels from the chart's corner. */
export function chartCoordinates(chart: Chart, point: Vec3): [number, number] {
  return [(dot(chart.u, point) - chart.u0) / chart.luxel + BORDER, (dot(chart.v, point) - chart.v0) / chart.luxel + BORDER];
}

/** Lightmap texture coordinates (0..1, origin at the first row) of a point on a surface of the chart. */
export function lightmapUv(atlas: Atlas, chart: Chart, point: Vec3): [number, number] {
  const [i, j] = chartCoordinates(chart, point);
  return [(chart.x + i) / atlas.width, (chart.y + j) / atlas.height];
}
