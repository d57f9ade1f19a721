/**
 * How the triangles of a model hang together, by place and not by vertex: seams of texture coordinates and
 * borders between materials do not count as edges of the surface.
 */

import { hashOf } from './vertexTable.ts';

/** Numbers equal points alike. Answers the number of each vertex's point and how many points there are. */
export function pointNumbers(positions: Float32Array): { point: Uint32Array; count: number } {
  const vertices = positions.length / 3;
  const bits = new Uint32Array(positions.buffer, positions.byteOffset, positions.length);
  const mask = 2 ** Math.ceil(Math.log2(Math.max(2, vertices * 2))) - 1;
  const slots = new Int32Array(mask + 1).fill(-1);
  const first = new Uint32Array(vertices);
  const point = new Uint32Array(vertices);
  let count = 0;
  // 0 and -0 are the same place.
  const word = (i: number) => (bits[i] === 0x80000000 ? 0 : bits[i]);
  for (let i = 0; i < vertices; i++) {
    const [x, y, z] = [word(i * 3), word(i * 3 + 1), word(i * 3 + 2)];
    let at = hashOf(x, y, z) & mask;
    for (;;) {
      const found = slots[at];
      if (found < 0) break;
      const o = first[found] * 3;
      if (word(o) === x && word(o + 1) === y && word(o + 2) === z) break;
      at = (at + 1) & mask;
    }
    if (slots[at] < 0) {
      first[count] = i;
      slots[at] = count++;
    }
    point[i] = slots[at];
  }
  return { point, count };
}

/** Edges between points, undirected: the lower point's number comes first. */
export interface Edges {
  count: number;
  /** Triangles that run along the edge upwards and downwards. */
  up: Uint16Array;
  down: Uint16Array;
  /** The first two triangles at the edge, -1 for none. */
  first: Int32Array;
  second: Int32Array;
}

/** @param corners three points per triangle; triangles with equal corners are skipped */
export function findEdges(corners: Uint32Array): Edges {
  // A closed surface has three edges for two triangles; one in pieces up to twice as many.
  let capacity = Math.max(16, Math.ceil(corners.length * 0.52));
  let low = new Uint32Array(capacity);
  let high = new Uint32Array(capacity);
  let slots = slotsFor(capacity);
  const edges: Edges = {
    count: 0,
    up: new Uint16Array(capacity),
    down: new Uint16Array(capacity),
    first: new Int32Array(capacity).fill(-1),
    second: new Int32Array(capacity).fill(-1),
  };
  const grow = () => {
    capacity *= 2;
    [low, high] = [larger(low, new Uint32Array(capacity)), larger(high, new Uint32Array(capacity))];
    edges.up = larger(edges.up, new Uint16Array(capacity));
    edges.down = larger(edges.down, new Uint16Array(capacity));
    edges.first = larger(edges.first, new Int32Array(capacity).fill(-1));
    edges.second = larger(edges.second, new Int32Array(capacity).fill(-1));
    slots = slotsFor(capacity);
    const mask = slots.length - 1;
    for (let edge = 0; edge < edges.count; edge++) {
      let at = hashOf(low[edge], high[edge], 0) & mask;
      while (slots[at] >= 0) at = (at + 1) & mask;
      slots[at] = edge;
    }
  };
  for (let t = 0; t < corners.length; t += 3) {
    if (corners[t] === corners[t + 1] || corners[t + 1] === corners[t + 2] || corners[t + 2] === corners[t]) continue;
    if (edges.count + 3 > capacity) grow();
    const mask = slots.length - 1;
    for (let k = 0; k < 3; k++) {
      const a = corners[t + k];
      const b = corners[t + ((k + 1) % 3)];
      const [lo, hi] = a < b ? [a, b] : [b, a];
      let at = hashOf(lo, hi, 0) & mask;
      while (slots[at] >= 0 && (low[slots[at]] !== lo || high[slots[at]] !== hi)) at = (at + 1) & mask;
      let edge = slots[at];
      if (edge < 0) {
        edge = slots[at] = edges.count++;
        low[edge] = lo;
        high[edge] = hi;
      }
      if (a < b) edges.up[edge]++;
      else edges.down[edge]++;
      if (edges.first[edge] < 0) edges.first[edge] = t / 3;
      else if (edges.second[edge] < 0) edges.second[edge] = t / 3;
    }
  }
  return edges;
}

/** An open-addressed table that is at most three quarters full, a power of two in size. */
const slotsFor = (capacity: number): Int32Array => new Int32Array(2 ** Math.ceil(Math.log2((capacity * 4) / 3))).fill(-1);

function larger<T extends Int32Array | Uint32Array | Uint16Array>(from: T, into: T): T {
  into.set(from);
  return into;
}

/** Numbers the connected pieces of a surface: triangles that share an edge are of one piece. */
export function findPieces(triangles: number, edges: Edges): { piece: Uint32Array; count: number } {
  const parent = Uint32Array.from({ length: triangles }, (_, i) => i);
  const rootOf = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]];
    return i;
  };
  for (let e = 0; e < edges.count; e++) {
    if (edges.second[e] < 0) continue;
    const a = rootOf(edges.first[e]);
    const b = rootOf(edges.second[e]);
    if (a !== b) parent[Math.max(a, b)] = Math.min(a, b);
  }
  const numbers = new Int32Array(triangles).fill(-1);
  const piece = new Uint32Array(triangles);
  let count = 0;
  for (let t = 0; t < triangles; t++) {
    const root = rootOf(t);
    if (numbers[root] < 0) numbers[root] = count++;
    piece[t] = numbers[root];
  }
  return { piece, count };
}
