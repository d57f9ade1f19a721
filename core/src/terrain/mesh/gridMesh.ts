/**
 * A tile of the ground as even triangles, every so many samples, for what is drawn while it changes. Where a neighbour is coarser,
 * vertices of the shared edge move to the nearest one that the neighbour has: both draw one line, and there are no cracks.
 */

import { TILE } from '../../document/schema.ts';
import type { Ground } from '../ground.ts';
import { gradient } from '../relief.ts';

export interface GridMesh {
  /** Map space, units. */
  positions: Float32Array;
  normals: Float32Array;
  /** Samples: i, j of every vertex. */
  samples: Float32Array;
  indices: Uint32Array;
}

/** Steps of the neighbours to the west, east, south and north; those that are finer or not there are the tile's own. */
export type EdgeSteps = readonly [number, number, number, number];

/** @param step a power of two up to TILE */
export function gridMesh(ground: Ground, x: number, y: number, step: number, edges: EdgeSteps): GridMesh {
  const [i0, j0] = [x * TILE, y * TILE];
  const [i1, j1] = [Math.min(i0 + TILE, ground.nx - 1), Math.min(j0 + TILE, ground.ny - 1)];
  const along = (from: number, to: number): number[] => {
    const out: number[] = [];
    for (let k = from; k < to; k += step) out.push(k);
    return [...out, to];
  };
  const [is, js] = [along(i0, i1), along(j0, j1)];
  const [columns, rows] = [is.length, js.length];
  const count = columns * rows;
  const mesh: GridMesh = {
    positions: new Float32Array(count * 3),
    normals: new Float32Array(count * 3),
    samples: new Float32Array(count * 2),
    indices: new Uint32Array(0),
  };
  const heights = { nx: ground.nx, ny: ground.ny, at: (i: number, j: number) => ground.at(i, j) };
  const { spacing } = ground.terrain;
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const [i, j] = [is[c], js[r]];
      const k = r * columns + c;
      const [px, py] = ground.pointOf(i, j);
      mesh.positions.set([px, py, ground.at(i, j)], k * 3);
      const [dx, dy] = gradient(heights, i, j, spacing);
      const size = Math.sqrt(1 + dx * dx + dy * dy);
      mesh.normals.set([-dx / size, -dy / size, 1 / size], k * 3);
      mesh.samples.set([i, j], k * 2);
    }
  const [west, east, south, north] = edges;
  /** The vertex that stands for one: on an edge the last that the neighbour has too. */
  const standing = (c: number, r: number): number => {
    const held = (values: readonly number[], at: number, from: number, coarse: number) => {
      if (at === values.length - 1) return at;
      return Math.floor((Math.floor((values[at] - from) / coarse) * coarse) / step + 1e-9);
    };
    if ((c === 0 && west > step) || (c === columns - 1 && east > step)) r = held(js, r, j0, c === 0 ? west : east);
    if ((r === 0 && south > step) || (r === rows - 1 && north > step)) c = held(is, c, i0, r === 0 ? south : north);
    return r * columns + c;
  };
  const indices: number[] = [];
  const triangle = (a: number, b: number, c: number) => {
    if (a !== b && b !== c && a !== c) indices.push(a, b, c);
  };
  for (let r = 0; r < rows - 1; r++)
    for (let c = 0; c < columns - 1; c++) {
      if (step === 1 && !ground.isThere(is[c], js[r])) continue;
      const [a, b, d, e] = [standing(c, r), standing(c + 1, r), standing(c, r + 1), standing(c + 1, r + 1)];
      triangle(a, b, d);
      triangle(b, e, d);
    }
  mesh.indices = Uint32Array.from(indices);
  return mesh;
}

/** Steps by which tiles are drawn, seen from a point of the map: neighbours differ by one level at most. */
export function stepsFrom(ground: Ground, eye: readonly number[], detail = 1): Uint8Array {
  const { tilesX, tilesY, terrain } = ground;
  const side = TILE * terrain.spacing;
  const steps = new Uint8Array(tilesX * tilesY);
  for (let y = 0; y < tilesY; y++)
    for (let x = 0; x < tilesX; x++) {
      const [px, py] = ground.pointOf(x * TILE, y * TILE);
      const away = Math.hypot(Math.max(px - eye[0], 0, eye[0] - px - side), Math.max(py - eye[1], 0, eye[1] - py - side));
      let step = 1;
      while (step < 32 && away > side * step * detail) step *= 2;
      steps[y * tilesX + x] = step;
    }
  return steps;
}

export const edgeSteps = ({ tilesX, tilesY }: Ground, steps: Uint8Array, x: number, y: number): EdgeSteps => {
  const own = steps[y * tilesX + x];
  const of = (a: number, b: number) => (a < 0 || b < 0 || a >= tilesX || b >= tilesY ? own : Math.max(own, steps[b * tilesX + a]));
  return [of(x - 1, y), of(x + 1, y), of(x, y - 1), of(x, y + 1)];
};
