/**
 * Lines of equal height by marching triangles: a quad is the two triangles that everything else takes it for, so that lines lie on
 * the very ground and no case is ambiguous. Segments that meet are joined by the edge of the grid on which they meet, which is
 * exact. A line ends at the edge of the grid or closes.
 */

import type { Heights } from './relief.ts';

export interface Contour {
  level: number;
  /** x, y in turn, in samples. */
  points: Float64Array;
  closed: boolean;
}

/** Distance of contours in units that leaves about `apart` pixels between them on ground of one in two. A round number. */
export function contourInterval(pixelsPerUnit: number, apart = 24): number {
  const wanted = apart / 2 / pixelsPerUnit;
  const power = 10 ** Math.floor(Math.log10(wanted));
  return ([1, 2, 5, 10].find((n) => n * power >= wanted) ?? 10) * power;
}

/**
 * @param step every how many samples are looked at
 * @param rect samples within which lines are wanted
 */
export function contours(heights: Heights, interval: number, step = 1, rect = { i0: 0, j0: 0, i1: heights.nx - 1, j1: heights.ny - 1 }): Contour[] {
  const columns = Math.max(2, Math.floor((rect.i1 - rect.i0) / step) + 1);
  const rows = Math.max(2, Math.floor((rect.j1 - rect.j0) / step) + 1);
  const grid = new Float64Array(columns * rows);
  for (let j = 0; j < rows; j++) for (let i = 0; i < columns; i++) grid[j * columns + i] = heights.at(rect.i0 + i * step, rect.j0 + j * step);
  return [...segmentsByLevel(grid, columns, rows, interval)].flatMap(([level, segments]) =>
    joined(segments).map(({ keys, closed }) => ({
      level,
      closed,
      points: pointsOf(keys, grid, columns, level, rect, step),
    })),
  );
}

/** Edges of the grid have three numbers a sample: to the east, to the north, and from the east neighbour to the north one. */
const EDGES = 3;

function segmentsByLevel(grid: Float64Array, columns: number, rows: number, interval: number): Map<number, [number, number][]> {
  const byLevel = new Map<number, [number, number][]>();
  const triangle = (corners: readonly number[], edges: readonly number[]) => {
    const [a, b, c] = corners.map((k) => grid[k]);
    const [low, high] = [Math.min(a, b, c), Math.max(a, b, c)];
    // A corner that lies on a level counts as above it, in every triangle that has it.
    for (let n = Math.floor(low / interval) + 1; n * interval <= high; n++) {
      const level = n * interval;
      const above = corners.map((k) => grid[k] >= level);
      const crossed = [0, 1, 2].filter((k) => above[k] !== above[(k + 1) % 3]);
      if (crossed.length !== 2) continue;
      const list = byLevel.get(level);
      const segment: [number, number] = [edges[crossed[0]], edges[crossed[1]]];
      if (list) list.push(segment);
      else byLevel.set(level, [segment]);
    }
  };
  for (let j = 0; j < rows - 1; j++)
    for (let i = 0; i < columns - 1; i++) {
      const k = j * columns + i;
      const [south, west, slant] = [k * EDGES, k * EDGES + 1, k * EDGES + 2];
      const [north, east] = [(k + columns) * EDGES, (k + 1) * EDGES + 1];
      triangle([k, k + 1, k + columns], [south, slant, west]);
      triangle([k + 1, k + columns + 1, k + columns], [east, north, slant]);
    }
  return byLevel;
}

/** Segments as lines. Every edge is an end of at most two segments. */
function joined(segments: readonly [number, number][]): { keys: number[]; closed: boolean }[] {
  const at = new Map<number, number[]>();
  segments.forEach((segment, index) => {
    for (const key of segment) {
      const there = at.get(key);
      if (there) there.push(index);
      else at.set(key, [index]);
    }
  });
  const used = new Uint8Array(segments.length);
  const follow = (from: number, keys: number[]): void => {
    for (let key = from; ;) {
      const next = at.get(key)!.find((index) => !used[index]);
      if (next === undefined) return;
      used[next] = 1;
      const [a, b] = segments[next];
      key = a === key ? b : a;
      keys.push(key);
    }
  };
  const lines: { keys: number[]; closed: boolean }[] = [];
  // Lines with ends first, from one of them; what is left then closes.
  for (const ends of [true, false])
    segments.forEach((segment, index) => {
      if (used[index]) return;
      const from = ends ? segment.find((key) => at.get(key)!.length === 1) : segment[0];
      if (from === undefined) return;
      const keys = [from];
      follow(from, keys);
      lines.push({ keys, closed: !ends });
    });
  return lines;
}

function pointsOf(
  keys: readonly number[],
  grid: Float64Array,
  columns: number,
  level: number,
  rect: { i0: number; j0: number },
  step: number,
): Float64Array {
  const out = new Float64Array(keys.length * 2);
  keys.forEach((key, n) => {
    const kind = key % EDGES;
    const k = (key - kind) / EDGES;
    const [from, to] = [kind === 2 ? k + 1 : k, kind === 0 ? k + 1 : k + columns];
    const [a, b] = [grid[from], grid[to]];
    const t = a === b ? 0 : (level - a) / (b - a);
    const [x0, y0] = [from % columns, Math.floor(from / columns)];
    const [x1, y1] = [to % columns, Math.floor(to / columns)];
    out[n * 2] = rect.i0 + (x0 + (x1 - x0) * t) * step;
    out[n * 2 + 1] = rect.j0 + (y0 + (y1 - y0) * t) * step;
  });
  return out;
}
