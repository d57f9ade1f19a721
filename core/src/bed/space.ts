/** How sound goes through a map: the free cells of the sealing, the openings between them, and the walls. Map units. */

import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';

/** An opening between two cells, as the box about it. */
export interface Opening {
  a: number;
  b: number;
  box: Box3;
}

/** Cells by a tree of planes: four numbers and two links (front, back) a node, ≥ 0 a node, else −1 − leaf. */
export interface SoundCells {
  planes: readonly number[];
  children: readonly number[];
  /** Cell of every leaf; −1 in solids and outside. */
  cellOf: readonly number[];
  cells: number;
  openings: readonly Opening[];
}

/** The cell of a point, or −1. */
export function cellAt({ planes, children, cellOf }: SoundCells, p: Vec3): number {
  if (planes.length === 0) return -1;
  let at = 0;
  while (at >= 0) {
    const side = planes[at * 4] * p[0] + planes[at * 4 + 1] * p[1] + planes[at * 4 + 2] * p[2] - planes[at * 4 + 3];
    at = children[at * 2 + (side >= 0 ? 0 : 1)];
  }
  return cellOf[-1 - at];
}

/** All cells that a box reaches into. */
export function cellsIn({ planes, children, cellOf }: SoundCells, { min, max }: Box3): Set<number> {
  const found = new Set<number>();
  const walk = (at: number): void => {
    if (at < 0) {
      if (cellOf[-1 - at] >= 0) found.add(cellOf[-1 - at]);
      return;
    }
    let [low, high] = [-planes[at * 4 + 3], -planes[at * 4 + 3]];
    for (let k = 0; k < 3; k++) {
      const n = planes[at * 4 + k];
      low += n * (n >= 0 ? min[k] : max[k]);
      high += n * (n >= 0 ? max[k] : min[k]);
    }
    if (high > 0) walk(children[at * 2]);
    if (low < 0) walk(children[at * 2 + 1]);
  };
  if (planes.length > 0) walk(0);
  return found;
}

/** The point of a box that is nearest to another point. */
export const nearestIn = ({ min, max }: Box3, p: Vec3): Vec3 => [
  Math.min(max[0], Math.max(min[0], p[0])),
  Math.min(max[1], Math.max(min[1], p[1])),
  Math.min(max[2], Math.max(min[2], p[2])),
];

export const distanceOf = (a: Vec3, b: Vec3): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** The way of sound to somewhere: how long it is, and through which point it first goes. */
export interface Way {
  length: number;
  first: Vec3;
}

/**
 * Shortest ways from a point through openings (E. W. Dijkstra, 1959), each opening passed where it is nearest to where the sound comes
 * from. That is the exact way through one opening to whatever lies behind it in a straight line, and a little long through several.
 */
export class Ways {
  private readonly of: number[][];
  private readonly length: Float64Array;
  private readonly at: Vec3[];
  private readonly first: Int32Array;
  private readonly done: Uint8Array;
  private from: Vec3 = [0, 0, 0];
  private cell = -1;

  constructor(readonly cells: SoundCells) {
    const { openings } = cells;
    this.of = Array.from({ length: cells.cells }, () => []);
    openings.forEach(({ a, b }, i) => {
      this.of[a].push(i);
      this.of[b].push(i);
    });
    this.length = new Float64Array(openings.length);
    this.at = openings.map(() => [0, 0, 0]);
    this.first = new Int32Array(openings.length);
    this.done = new Uint8Array(openings.length);
  }

  /** Looks from a point; answers whether it lies in a cell. @param most ways that are longer are not looked for */
  look(from: Vec3, most = Infinity): boolean {
    this.from = from;
    this.cell = cellAt(this.cells, from);
    this.length.fill(Infinity);
    this.done.fill(0);
    if (this.cell < 0) return false;
    const { openings } = this.cells;
    // A heap of openings by the length of the way to them; old entries are passed over.
    const heap: number[] = [];
    const keys: number[] = [];
    const push = (opening: number, key: number) => {
      let i = heap.length;
      heap.push(opening);
      keys.push(key);
      while (i > 0) {
        const up = (i - 1) >> 1;
        if (keys[up] <= keys[i]) break;
        [heap[up], heap[i], keys[up], keys[i]] = [heap[i], heap[up], keys[i], keys[up]];
        i = up;
      }
    };
    const pop = (): number => {
      const top = heap[0];
      const [last, key] = [heap.pop()!, keys.pop()!];
      if (heap.length > 0) {
        heap[0] = last;
        keys[0] = key;
        for (let i = 0; ;) {
          const left = i * 2 + 1;
          if (left >= heap.length) break;
          const small = left + 1 < heap.length && keys[left + 1] < keys[left] ? left + 1 : left;
          if (keys[i] <= keys[small]) break;
          [heap[small], heap[i], keys[small], keys[i]] = [heap[i], heap[small], keys[i], keys[small]];
          i = small;
        }
      }
      return top;
    };
    const reach = (opening: number, point: Vec3, before: number, first: number) => {
      if (this.done[opening]) return;
      const at = nearestIn(openings[opening].box, point);
      const length = before + distanceOf(point, at);
      if (length >= this.length[opening] || length > most) return;
      this.length[opening] = length;
      this.at[opening] = at;
      this.first[opening] = first < 0 ? opening : first;
      push(opening, length);
    };
    for (const opening of this.of[this.cell]) reach(opening, from, 0, -1);
    while (heap.length > 0) {
      const opening = pop();
      if (this.done[opening]) continue;
      this.done[opening] = 1;
      const { a, b } = openings[opening];
      for (const cell of [a, b])
        for (const next of this.of[cell]) if (next !== opening) reach(next, this.at[opening], this.length[opening], this.first[opening]);
    }
    return true;
  }

  /** The way to a box that reaches into some cells; null where none leads there. */
  to(box: Box3, cells: ReadonlySet<number>): Way | null {
    if (cells.has(this.cell)) {
      const there = nearestIn(box, this.from);
      return { length: distanceOf(this.from, there), first: there };
    }
    let best: Way | null = null;
    for (const cell of cells)
      for (const opening of this.of[cell]) {
        if (this.length[opening] === Infinity) continue;
        const at = this.at[opening];
        const length = this.length[opening] + distanceOf(at, nearestIn(box, at));
        if (!best || length < best.length) best = { length, first: this.at[this.first[opening]] };
      }
    return best;
  }
}
