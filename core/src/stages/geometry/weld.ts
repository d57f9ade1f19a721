/**
 * Makes neighbouring polygons share their corners: points that nearly coincide become one, and where a corner of one
 * polygon lies within an edge of another (a T-junction) that edge gets the corner too, since rasterising would
 * otherwise leave pinholes along it. Polygons are then turned or cut so that a fan from their first corner has no
 * degenerate triangle.
 */

import { cross, length, sub, type Vec3 } from '../../math/vec3.ts';
import type { Winding } from '../../solid/winding.ts';

/** Points closer than this are one. Units. */
export const WELD = 2e-3;
/** A corner this close to an edge lies on it. Units. */
const ON_EDGE = 2e-3;
/** Edge of the cells in which points are looked up. Units. */
const CELL = 32;

/** The welded windings of each given one: mostly one, none where nothing of it is left. */
export function weldPolygons(windings: readonly Winding[]): Winding[][] {
  const points = new Points();
  const welded = windings.map((winding) => {
    const ids = winding.map((p) => points.add(p));
    return ids.filter((id, i) => id !== ids[(i + 1) % ids.length]);
  });
  return welded.map((ids) => {
    if (ids.length < 3) return [];
    const ring: number[] = [];
    ids.forEach((id, i) => {
      ring.push(id);
      ring.push(...points.within(id, ids[(i + 1) % ids.length]));
    });
    return fans(ring.map((id) => points.at[id]));
  });
}

class Points {
  readonly at: Vec3[] = [];
  private readonly fine = new Map<number, number[]>();
  private readonly coarse = new Map<number, number[]>();

  add(p: Vec3): number {
    const cell = p.map((v) => Math.floor(v / (4 * WELD)));
    for (let dx = -1; dx <= 1; dx++)
      for (let dy = -1; dy <= 1; dy++)
        for (let dz = -1; dz <= 1; dz++)
          for (const id of this.fine.get(cellKey(cell[0] + dx, cell[1] + dy, cell[2] + dz)) ?? []) {
            const q = this.at[id];
            if (Math.abs(q[0] - p[0]) < WELD && Math.abs(q[1] - p[1]) < WELD && Math.abs(q[2] - p[2]) < WELD) return id;
          }
    const id = this.at.push(p) - 1;
    put(this.fine, cellKey(cell[0], cell[1], cell[2]), id);
    put(this.coarse, cellKey(Math.floor(p[0] / CELL), Math.floor(p[1] / CELL), Math.floor(p[2] / CELL)), id);
    return id;
  }

  /** Points within the edge from a to b, in its order. */
  within(a: number, b: number): number[] {
    const [p, q] = [this.at[a], this.at[b]];
    const edge = sub(q, p);
    const size = length(edge);
    const found = new Map<number, number>();
    // Cells along the edge: steps of half a cell leave none out but corners, which neighbours cover.
    const seen = new Set<number>();
    const steps = Math.ceil(size / (CELL / 2));
    for (let s = 0; s <= steps; s++) {
      const at = [0, 1, 2].map((k) => p[k] + (edge[k] * s) / steps);
      for (const key of cellsAbout(at)) {
        if (seen.has(key)) continue;
        seen.add(key);
        for (const id of this.coarse.get(key) ?? []) {
          if (id === a || id === b || found.has(id)) continue;
          const off = sub(this.at[id], p);
          const t = (off[0] * edge[0] + off[1] * edge[1] + off[2] * edge[2]) / (size * size);
          if (t * size <= WELD || (1 - t) * size <= WELD) continue;
          if (length(cross(off, edge)) / size < ON_EDGE) found.set(id, t);
        }
      }
    }
    return [...found].sort((x, y) => x[1] - y[1]).map(([id]) => id);
  }
}

/** A number for a cell. Cells that share one by chance only cost a look at points that are too far away. */
const cellKey = (x: number, y: number, z: number): number => Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791);

const put = (map: Map<number, number[]>, key: number, id: number): void => {
  const list = map.get(key);
  if (list) list.push(id);
  else map.set(key, [id]);
};

/** The cell of a point and those that it all but touches. */
function cellsAbout(p: readonly number[]): number[] {
  const keys: number[] = [];
  const [x0, y0, z0] = p.map((v) => Math.floor((v - CELL / 4) / CELL));
  const [x1, y1, z1] = p.map((v) => Math.floor((v + CELL / 4) / CELL));
  for (let x = x0; x <= x1; x++) for (let y = y0; y <= y1; y++) for (let z = z0; z <= z1; z++) keys.push(cellKey(x, y, z));
  return keys;
}

/** Whether q lies on the line from p to r: its distance, so that long thin triangles count by their width. */
const straight = (p: Vec3, q: Vec3, r: Vec3): boolean => {
  const base = sub(r, p);
  return length(cross(sub(q, p), base)) / (length(base) || 1) < ON_EDGE;
};

/** A convex ring with straight corners as rings whose fan from the first corner has no degenerate triangle. */
export function fans(ring: Winding): Winding[] {
  const n = ring.length;
  if (n < 3) return [];
  const at = (i: number) => ring[((i % n) + n) % n];
  const isStraight = ring.map((_, i) => straight(at(i - 1), at(i), at(i + 1)));
  if (isStraight.every(Boolean)) return [];
  if (n === 3) return isStraight.some(Boolean) ? [] : [ring];
  // From a corner between two whole sides no triangle of the fan is flat.
  const apex = ring.findIndex((_, i) => !isStraight[i] && !isStraight[(i + 1) % n] && !isStraight[(i + n - 1) % n]);
  if (apex >= 0) return [[...ring.slice(apex), ...ring.slice(0, apex)]];
  // Otherwise it is cut from a straight corner to the corner farthest round, and both halves are looked at again.
  const from = isStraight.indexOf(true);
  let best = -1;
  let balance = Infinity;
  for (let k = 2; k <= n - 2; k++) {
    const to = (from + k) % n;
    // The cut must not run along the side that the straight corner lies on.
    const half = ring.length - k;
    if (Math.abs(k - half) >= balance || alongSide(ring, isStraight, from, to)) continue;
    [best, balance] = [to, Math.abs(k - half)];
  }
  if (best < 0) return [];
  const [i, j] = [Math.min(from, best), Math.max(from, best)];
  return [...fans(ring.slice(i, j + 1)), ...fans([...ring.slice(j), ...ring.slice(0, i + 1)])];
}

/** Whether two points of a ring lie on one side of it. */
function alongSide(ring: Winding, isStraight: readonly boolean[], from: number, to: number): boolean {
  const n = ring.length;
  for (const way of [1, n - 1]) {
    let i = from;
    do {
      i = (i + way) % n;
      if (i === to) return true;
    } while (isStraight[i]);
  }
  return false;
}
