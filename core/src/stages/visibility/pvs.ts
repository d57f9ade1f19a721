/**
 * Potentially visible sets: which cells can be seen from anywhere within a cell. Views leave a cell through its
 * portals; along a chain of portals the view is clipped by the planes that separate the first portal from the
 * last one passed (Teller and Séquin 1991; Teller 1992, "Visibility Computations in Densely Occluded Polyhedral
 * Environments", chapter 5). Everything is conservative: what is left out cannot be seen, what is left in may be.
 */

import { cross, dot, length, sub, type Vec3 } from '../../math/vec3.ts';
import { clipBehind, flipPlane, splitWinding, type Plane, type Winding } from '../../solid/winding.ts';
import type { Portal } from '../sealing/bsp.ts';
import { BitRows } from './bits.ts';

/** One way through a portal. */
interface Gate {
  from: number;
  to: number;
  /** Faces the way it is passed. */
  plane: Plane;
  winding: Winding;
}

export interface PvsResult {
  /** cells × cells: a row says what its cell can see, itself included. */
  visible: BitRows;
  gates: number;
  /** Gates whose full clipping took more than the allowance, and that kept the fast answer. */
  unfinished: number;
}

/** A portal's points must lie this far in front of a plane to count as seen through it. */
const FRONT = 1e-4;
/** Clippings that one gate may cost before the fast answer is kept for it. Counted, not timed: results are the same on any machine. */
const ALLOWANCE = 100_000;

/**
 * @param count number of cells; portals join cells by index
 * @param way `fast`: cells that lie in front along some chain of portals; `full`: clipped chains
 */
export function visibleSets(
  count: number,
  portals: readonly Portal[],
  way: 'fast' | 'full',
  onProgress: (fraction: number) => void = () => {},
): PvsResult {
  const gates = portals.flatMap(gatesOf);
  const out: number[][] = Array.from({ length: count }, () => []);
  gates.forEach((gate, i) => out[gate.from].push(i));
  const visible = new BitRows(count, count);
  for (let cell = 0; cell < count; cell++) visible.set(cell, cell);
  const unfinished = way === 'fast' ? fastSets(gates, out, visible, onProgress) : fullSets(gates, out, visible, onProgress);
  // Sight goes both ways: what one direction has ruled out the other need not keep.
  for (let a = 0; a < count; a++)
    visible.forEach(a, (b) => {
      if (!visible.has(b, a)) visible.clear(a, b);
    });
  return { visible, gates: gates.length, unfinished };
}

/** Cells that lie in front of every way out of a cell, along some chain of portals. */
function fastSets(gates: readonly Gate[], out: readonly number[][], visible: BitRows, onProgress: (fraction: number) => void): number {
  const flat = flatGates(gates);
  const rows = out.map((row) => Int32Array.from(row));
  /** The gate for which a cell was reached last. */
  const reached = new Int32Array(visible.rows).fill(-1);
  const queue = new Int32Array(visible.rows);
  gates.forEach(({ from, to }, first) => {
    let left = 0;
    const reach = (cell: number) => {
      reached[cell] = first;
      visible.set(from, cell);
      queue[left++] = cell;
    };
    reach(to);
    while (left > 0) {
      const cell = queue[--left];
      for (const next of rows[cell]) {
        // Which way a cell is reached does not matter, so each is asked for until one leads there.
        if (reached[flat.to[next]] === first) continue;
        if (anyBeyond(flat, next, first, 1) && anyBeyond(flat, first, next, -1)) reach(flat.to[next]);
      }
    }
    if (first % 64 === 0) onProgress(first / gates.length);
  });
  return 0;
}

/** Chains of portals are clipped; what is left of the last one is what can be seen through it. Tells how many kept the fast answer. */
function fullSets(gates: readonly Gate[], out: readonly number[][], visible: BitRows, onProgress: (fraction: number) => void): number {
  const might = new BitRows(gates.length, gates.length);
  const flat = flatGates(gates);
  const rows = out.map((row) => Int32Array.from(row));
  gates.forEach((_, i) => {
    inFront(flat, rows, i, might);
    if (i % 64 === 0) onProgress((i / gates.length) * 0.15);
  });
  const seen = new BitRows(gates.length, visible.columns);
  let unfinished = 0;
  // Gates that see little come first: what they found spares the others work.
  const counts = gates.map((_, i) => might.count(i));
  const order = gates.map((_, i) => i).sort((a, b) => counts[a] - counts[b] || a - b);
  const finished = new Uint8Array(gates.length);
  const passed = new BitRows(gates.length, gates.length);
  order.forEach((gate, n) => {
    if (!clipGate(gates, out, gate, might, passed, finished, seen)) {
      unfinished++;
      seen.row(gate).fill(0);
      seen.set(gate, gates[gate].to);
      passed.row(gate).set(might.row(gate));
      might.forEach(gate, (other) => seen.set(gate, flat.to[other]));
    }
    finished[gate] = 1;
    if (n % 16 === 0) onProgress(0.15 + (n / gates.length) * 0.85);
  });
  gates.forEach((gate, i) => {
    const row = visible.row(gate.from);
    seen.row(i).forEach((word, k) => (row[k] |= word));
  });
  return unfinished;
}

function gatesOf({ a, b, winding }: Portal): Gate[] {
  const plane = planeOf(winding);
  // Portals run from the front leaf a to the back leaf b of their node, so the winding faces a.
  return [
    { from: a, to: b, plane: flipPlane(plane), winding },
    { from: b, to: a, plane, winding },
  ];
}

function planeOf(winding: Winding): Plane {
  let best: Vec3 = [0, 0, 0];
  for (let i = 1; i + 1 < winding.length; i++) {
    const n = cross(sub(winding[i], winding[0]), sub(winding[i + 1], winding[0]));
    best = [best[0] + n[0], best[1] + n[1], best[2] + n[2]];
  }
  const size = length(best);
  const normal: Vec3 = [best[0] / size, best[1] / size, best[2] / size];
  return { normal, distance: dot(normal, winding[0]) };
}

/** Gates as rows of numbers, for the test that all pairs of them go through. */
interface FlatGates {
  to: Int32Array;
  /** Normal x, y, z and distance per gate. */
  planes: Float64Array;
  /** Middle x, y, z of the ball about a gate's points, and its radius. */
  balls: Float64Array;
  /** Start of every gate's points in `points`; one more than there are gates. */
  starts: Int32Array;
  points: Float64Array;
}

function flatGates(gates: readonly Gate[]): FlatGates {
  const starts = new Int32Array(gates.length + 1);
  gates.forEach(({ winding }, i) => (starts[i + 1] = starts[i] + winding.length * 3));
  const balls = new Float64Array(gates.length * 4);
  gates.forEach(({ winding }, i) => {
    const middle = [0, 1, 2].map((k) => winding.reduce((sum, p) => sum + p[k], 0) / winding.length) as Vec3;
    balls.set([...middle, Math.max(...winding.map((p) => length(sub(p, middle))))], i * 4);
  });
  return {
    to: Int32Array.from(gates, (gate) => gate.to),
    planes: Float64Array.from(gates.flatMap(({ plane }) => [...plane.normal, plane.distance])),
    balls,
    starts,
    points: Float64Array.from(gates.flatMap(({ winding }) => winding.flat())),
  };
}

/** Whether any point of a gate lies more than FRONT beyond a plane: in front (sign 1) or behind it (sign -1). */
function anyBeyond({ planes, balls, starts, points }: FlatGates, gate: number, plane: number, sign: 1 | -1): boolean {
  const at = plane * 4;
  const [x, y, z, d] = [planes[at] * sign, planes[at + 1] * sign, planes[at + 2] * sign, planes[at + 3] * sign];
  const ball = gate * 4;
  const middle = x * balls[ball] + y * balls[ball + 1] + z * balls[ball + 2] - d;
  if (middle > FRONT) return true;
  if (middle + balls[ball + 3] <= FRONT) return false;
  for (let i = starts[gate]; i < starts[gate + 1]; i += 3) if (x * points[i] + y * points[i + 1] + z * points[i + 2] - d > FRONT) return true;
  return false;
}

/** Gates that a view through one gate might pass: reached over gates that each lie in front of the first and face away from it. */
function inFront(gates: FlatGates, out: readonly Int32Array[], first: number, might: BitRows): void {
  const row = might.row(first);
  const queue = [gates.to[first]];
  const reached = new Set(queue);
  for (let cell = queue.pop(); cell !== undefined; cell = queue.pop()) {
    for (const next of out[cell]) {
      if ((row[next >>> 5] & (1 << (next & 31))) !== 0) continue;
      if (!anyBeyond(gates, next, first, 1) || !anyBeyond(gates, first, next, -1)) continue;
      row[next >>> 5] |= 1 << (next & 31);
      const to = gates.to[next];
      if (!reached.has(to)) {
        reached.add(to);
        queue.push(to);
      }
    }
  }
}

/** Follows all clipped chains from a gate; false where that takes more than the allowance. */
function clipGate(
  gates: readonly Gate[],
  out: readonly number[][],
  first: number,
  might: BitRows,
  passed: BitRows,
  finished: Uint8Array,
  seen: BitRows,
): boolean {
  const { plane: firstPlane, winding: firstWinding, to: firstCell } = gates[first];
  const own = passed.row(first);
  let spent = 0;

  /** @param left gates that may still be passed, as bits */
  const follow = (cell: number, source: Winding, pass: Winding | null, left: Uint32Array, depth: number): boolean => {
    seen.set(first, cell);
    for (const next of out[cell]) {
      if ((left[next >>> 5] & (1 << (next & 31))) === 0) continue;
      const gate = gates[next];
      const onward = finished[next] ? passed.row(next) : might.row(next);
      const rest = new Uint32Array(left.length);
      let news = false;
      for (let k = 0; k < rest.length; k++) {
        rest[k] = left[k] & onward[k];
        if (rest[k] & ~own[k]) news = true;
      }
      // Nothing beyond it that has not been passed already: a shorter look is enough.
      const known = (own[next >>> 5] & (1 << (next & 31))) !== 0;
      if (!news && known) continue;
      if (++spent > ALLOWANCE || depth > 200) return false;
      let target: Winding | null = clipBehind(gate.winding, flipPlane(firstPlane));
      if (!target) continue;
      const back = clipBehind(source, gate.plane);
      if (!back) continue;
      if (pass) {
        target = clipToSight(back, pass, target);
        if (!target) continue;
      }
      own[next >>> 5] |= 1 << (next & 31);
      if (!follow(gate.to, back, target, rest, depth + 1)) return false;
    }
    return true;
  };
  return follow(firstCell, firstWinding, null, might.row(first), 0);
}

/** The part of a target that can be seen from a source through an opening between them; null where nothing is left. */
function clipToSight(source: Winding, pass: Winding, target: Winding): Winding | null {
  const once = clipBySeparators(source, pass, target, false);
  return once && clipBySeparators(pass, source, once, true);
}

/** Separators closer to an edge than this are too uncertain to clip by. */
const THIN = 0.05;
const SIDE = 0.01;

/**
 * Planes through an edge of a and a point of b with all of a on one side and all of b on the other bound what is seen
 * from a through b: beyond b only what lies on b's side of them. `flipped` where a is the opening and b the source.
 */
function clipBySeparators(a: Winding, b: Winding, target: Winding, flipped: boolean): Winding | null {
  let left: Winding = target;
  const count = a.length;
  for (let i = 0; i < count; i++) {
    const p = a[i];
    const j = i + 1 === count ? 0 : i + 1;
    const [ex, ey, ez] = [a[j][0] - p[0], a[j][1] - p[1], a[j][2] - p[2]];
    for (const r of b) {
      const [rx, ry, rz] = [r[0] - p[0], r[1] - p[1], r[2] - p[2]];
      let nx = ey * rz - ez * ry;
      let ny = ez * rx - ex * rz;
      let nz = ex * ry - ey * rx;
      const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
      if (size < THIN) continue;
      nx /= size;
      ny /= size;
      nz /= size;
      const distance = nx * r[0] + ny * r[1] + nz * r[2];
      let side = 0;
      let parts = true;
      for (let k = 0; k < count; k++) {
        if (k === i || k === j) continue;
        const d = nx * a[k][0] + ny * a[k][1] + nz * a[k][2] - distance;
        if (d <= SIDE && d >= -SIDE) continue;
        const own = d > 0 ? 1 : -1;
        if (side !== 0 && own !== side) {
          parts = false;
          break;
        }
        side = own;
      }
      if (!parts || side === 0) continue;
      // All of b has to lie on the other side.
      let beyond = false;
      for (const point of b) {
        const d = (nx * point[0] + ny * point[1] + nz * point[2] - distance) * side;
        if (d > SIDE) {
          parts = false;
          break;
        }
        if (d < -SIDE) beyond = true;
      }
      if (!parts || !beyond) continue;
      // From the source, what is seen lies on the opening's side; from the opening, on its own side.
      // Kept is where sign · (n · x - distance) >= -SIDE: the margin keeps rounding from hiding anything.
      const sign = flipped ? side : -side;
      let [inside, outside] = [false, false];
      for (const point of left) {
        const d = (nx * point[0] + ny * point[1] + nz * point[2] - distance) * sign;
        if (d >= -SIDE) inside = true;
        else outside = true;
      }
      if (!outside) continue;
      if (!inside) return null;
      const split = splitWinding(left, { normal: [nx * sign, ny * sign, nz * sign], distance: distance * sign - SIDE });
      if (split.on) continue;
      if (!split.front) return null;
      left = split.front;
    }
  }
  return left;
}
