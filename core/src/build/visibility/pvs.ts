/**
 * Potentially visible sets: which cells can be seen from anywhere within a cell. Views leave a cell through its
 * portals; along a chain of portals the view is clipped by the planes that separate the first portal from the
 * last one passed (Teller and Séquin 1991; Teller 1992, "Visibility Computations in Densely Occluded Polyhedral
 * Environments", chapter 5). Everything is conservative: what is left out cannot be seen, what is left in may be.
 */

import { cross, dot, length, sub, type Vec3 } from '../../math/vec3.ts';
import { clipBehind, flipPlane, planeSide, splitWinding, type Plane, type Winding } from '../../solid/winding.ts';
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
  const might = new BitRows(gates.length, gates.length);
  gates.forEach((_, i) => {
    inFront(gates, out, i, might);
    if (i % 64 === 0) onProgress((i / gates.length) * (way === 'fast' ? 1 : 0.15));
  });

  const visible = new BitRows(count, count);
  for (let cell = 0; cell < count; cell++) visible.set(cell, cell);
  const seen = new BitRows(gates.length, count);
  let unfinished = 0;
  // Gates that see little come first: what they found spares the others work.
  const order = gates.map((_, i) => i).sort((a, b) => might.count(a) - might.count(b) || a - b);
  const finished = new Uint8Array(gates.length);
  const passed = new BitRows(gates.length, gates.length);
  order.forEach((gate, n) => {
    const complete = way === 'full' && clipGate(gates, out, gate, might, passed, finished, seen);
    if (!complete) {
      if (way === 'full') unfinished++;
      seen.row(gate).fill(0);
      seen.set(gate, gates[gate].to);
      passed.row(gate).set(might.row(gate));
      for (let other = 0; other < gates.length; other++) if (might.has(gate, other)) seen.set(gate, gates[other].to);
    }
    finished[gate] = 1;
    if (n % 16 === 0) onProgress(way === 'fast' ? 1 : 0.15 + (n / gates.length) * 0.85);
  });
  gates.forEach((gate, i) => {
    const row = visible.row(gate.from);
    seen.row(i).forEach((word, k) => (row[k] |= word));
  });
  // Sight goes both ways: what one direction has ruled out the other need not keep.
  for (let a = 0; a < count; a++) for (let b = 0; b < count; b++) if (visible.has(a, b) && !visible.has(b, a)) visible.clear(a, b);
  return { visible, gates: gates.length, unfinished };
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

/** Gates that a view through one gate might pass: reached over gates that each lie in front of the first and face away from it. */
function inFront(gates: readonly Gate[], out: readonly number[][], first: number, might: BitRows): void {
  const { plane, winding, to } = gates[first];
  const queue = [to];
  const reached = new Set(queue);
  for (let cell = queue.pop(); cell !== undefined; cell = queue.pop()) {
    for (const next of out[cell]) {
      if (might.has(first, next)) continue;
      const gate = gates[next];
      if (!gate.winding.some((p) => planeSide(plane, p) > FRONT)) continue;
      if (!winding.some((p) => planeSide(gate.plane, p) < -FRONT)) continue;
      might.set(first, next);
      if (!reached.has(gate.to)) {
        reached.add(gate.to);
        queue.push(gate.to);
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
