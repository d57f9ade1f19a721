/**
 * A bounding volume hierarchy over triangles for shadow and bounce rays.
 *
 * Nodes lie in one Float32Array of bounds and one Int32Array of links, depth first:
 *
 *     bounds[6n .. 6n+5]   min x, min y, min z, max x, max y, max z
 *     links[2n]            inner node: index of its second child (the first is n+1)
 *                          leaf: index of its first triangle
 *     links[2n+1]          inner node: -1 - split axis;  leaf: number of triangles
 *
 * Triangles are stored in leaf order as a corner and two edges (nine floats), the layout that the
 * Möller-Trumbore test (Möller and Trumbore 1997) reads.
 */

const LEAF_SIZE = 4;
const BINS = 12;

export interface Bvh {
  bounds: Float32Array;
  links: Int32Array;
  triangles: Float32Array;
  /** Original index of every stored triangle. */
  order: Uint32Array;
}

/** @param positions nine numbers per triangle */
export function buildBvh(positions: ArrayLike<number>): Bvh {
  const count = Math.floor(positions.length / 9);
  const low = new Float32Array(count * 3);
  const high = new Float32Array(count * 3);
  const centre = new Float32Array(count * 3);
  for (let t = 0; t < count; t++) {
    for (let axis = 0; axis < 3; axis++) {
      const a = positions[t * 9 + axis];
      const b = positions[t * 9 + 3 + axis];
      const c = positions[t * 9 + 6 + axis];
      low[t * 3 + axis] = Math.min(a, b, c);
      high[t * 3 + axis] = Math.max(a, b, c);
      centre[t * 3 + axis] = (low[t * 3 + axis] + high[t * 3 + axis]) / 2;
    }
  }
  const order = Uint32Array.from({ length: count }, (_, i) => i);
  const bounds: number[] = [];
  const links: number[] = [];

  const grow = (from: number, to: number): void => {
    const node = links.length / 2;
    const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    const spread = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++) {
      for (let axis = 0; axis < 3; axis++) {
        const k = order[i] * 3 + axis;
        if (low[k] < box[axis]) box[axis] = low[k];
        if (high[k] > box[axis + 3]) box[axis + 3] = high[k];
        if (centre[k] < spread[axis]) spread[axis] = centre[k];
        if (centre[k] > spread[axis + 3]) spread[axis + 3] = centre[k];
      }
    }
    bounds.push(...box);
    links.push(0, 0);
    const split = to - from <= LEAF_SIZE ? null : binnedSplit(from, to, spread);
    if (!split) {
      links[node * 2] = from;
      links[node * 2 + 1] = to - from;
      return;
    }
    const middle = partition(from, to, split.axis, split.at);
    grow(from, middle);
    links[node * 2] = links.length / 2;
    links[node * 2 + 1] = -1 - split.axis;
    grow(middle, to);
  };

  /** Surface-area heuristic over a few bins per axis; null when all centres coincide. */
  const binnedSplit = (from: number, to: number, spread: number[]): { axis: number; at: number } | null => {
    let best: { axis: number; at: number } | null = null;
    let bestCost = Infinity;
    for (let axis = 0; axis < 3; axis++) {
      const start = spread[axis];
      const width = spread[axis + 3] - start;
      if (width <= 1e-6) continue;
      const counts = new Int32Array(BINS);
      const boxes = new Float64Array(BINS * 6);
      for (let b = 0; b < BINS; b++) boxes.fill(Infinity, b * 6, b * 6 + 3).fill(-Infinity, b * 6 + 3, b * 6 + 6);
      for (let i = from; i < to; i++) {
        const t = order[i];
        const b = Math.min(BINS - 1, Math.floor(((centre[t * 3 + axis] - start) / width) * BINS));
        counts[b]++;
        for (let k = 0; k < 3; k++) {
          boxes[b * 6 + k] = Math.min(boxes[b * 6 + k], low[t * 3 + k]);
          boxes[b * 6 + 3 + k] = Math.max(boxes[b * 6 + 3 + k], high[t * 3 + k]);
        }
      }
      for (let cut = 1; cut < BINS; cut++) {
        const cost = halfCost(boxes, counts, 0, cut) + halfCost(boxes, counts, cut, BINS);
        if (cost < bestCost) {
          bestCost = cost;
          best = { axis, at: start + (width * cut) / BINS };
        }
      }
    }
    return best;
  };

  const partition = (from: number, to: number, axis: number, at: number): number => {
    let i = from;
    let j = to - 1;
    while (i <= j) {
      if (centre[order[i] * 3 + axis] < at) i++;
      else {
        const swap = order[i];
        order[i] = order[j];
        order[j--] = swap;
      }
    }
    // Rounding may leave one side empty; halves keep the recursion finite.
    return i === from || i === to ? (from + to) >> 1 : i;
  };

  if (count > 0) grow(0, count);
  const triangles = new Float32Array(count * 9);
  for (let i = 0; i < count; i++) {
    const p = order[i] * 9;
    for (let axis = 0; axis < 3; axis++) {
      triangles[i * 9 + axis] = positions[p + axis];
      triangles[i * 9 + 3 + axis] = positions[p + 3 + axis] - positions[p + axis];
      triangles[i * 9 + 6 + axis] = positions[p + 6 + axis] - positions[p + axis];
    }
  }
  return { bounds: Float32Array.from(bounds), links: Int32Array.from(links), triangles, order };
}

function halfCost(boxes: Float64Array, counts: Int32Array, from: number, to: number): number {
  let n = 0;
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let b = from; b < to; b++) {
    n += counts[b];
    for (let k = 0; k < 3; k++) {
      box[k] = Math.min(box[k], boxes[b * 6 + k]);
      box[k + 3] = Math.max(box[k + 3], boxes[b * 6 + k + 3]);
    }
  }
  if (n === 0) return Infinity;
  const [x, y, z] = [box[3] - box[0], box[4] - box[1], box[5] - box[2]];
  return n * (x * y + y * z + z * x);
}

export interface Hit {
  /** Original triangle index, or -1. */
  triangle: number;
  distance: number;
}

const stack = new Int32Array(128);
const entry = new Float64Array(128);

/**
 * Casts a ray from (ox, oy, oz) along (dx, dy, dz), of any length; distances are in multiples of it.
 * With `any`, returns at the first hit nearer than `far`; otherwise the nearest.
 */
export function castRay(
  bvh: Bvh,
  ox: number,
  oy: number,
  oz: number,
  dx: number,
  dy: number,
  dz: number,
  near: number,
  far: number,
  any: boolean,
  hit: Hit,
): boolean {
  const { bounds, links, triangles, order } = bvh;
  hit.triangle = -1;
  hit.distance = far;
  if (links.length === 0) return false;
  // A tiny stand-in for zero keeps 0·∞ = NaN out of the slab test.
  const ix = 1 / (dx || 1e-30);
  const iy = 1 / (dy || 1e-30);
  const iz = 1 / (dz || 1e-30);
  let best = far;
  let found = -1;
  let top = 0;
  let node = 0;
  if (boxDistance(bounds, 0, ox, oy, oz, ix, iy, iz, near, best) === Infinity) return false;
  for (;;) {
    const kind = links[node * 2 + 1];
    if (kind < 0) {
      // Both children are tested here, so that misses never reach the stack; the nearer goes first.
      let first = node + 1;
      let second = links[node * 2];
      let d1 = boxDistance(bounds, first * 6, ox, oy, oz, ix, iy, iz, near, best);
      let d2 = boxDistance(bounds, second * 6, ox, oy, oz, ix, iy, iz, near, best);
      if (d2 < d1) {
        const swap = first;
        first = second;
        second = swap;
        const swapped = d1;
        d1 = d2;
        d2 = swapped;
      }
      if (d1 !== Infinity) {
        if (d2 !== Infinity) {
          stack[top] = second;
          entry[top++] = d2;
        }
        node = first;
        continue;
      }
    } else {
      const from = links[node * 2];
      for (let i = from; i < from + kind; i++) {
        const t = i * 9;
        const e1x = triangles[t + 3];
        const e1y = triangles[t + 4];
        const e1z = triangles[t + 5];
        const e2x = triangles[t + 6];
        const e2y = triangles[t + 7];
        const e2z = triangles[t + 8];
        const px = dy * e2z - dz * e2y;
        const py = dz * e2x - dx * e2z;
        const pz = dx * e2y - dy * e2x;
        const det = e1x * px + e1y * py + e1z * pz;
        if (det > -1e-12 && det < 1e-12) continue;
        const inverse = 1 / det;
        const sx = ox - triangles[t];
        const sy = oy - triangles[t + 1];
        const sz = oz - triangles[t + 2];
        const u = (sx * px + sy * py + sz * pz) * inverse;
        if (u < -1e-7 || u > 1.0000001) continue;
        const qx = sy * e1z - sz * e1y;
        const qy = sz * e1x - sx * e1z;
        const qz = sx * e1y - sy * e1x;
        const v = (dx * qx + dy * qy + dz * qz) * inverse;
        if (v < -1e-7 || u + v > 1.0000001) continue;
        const distance = (e2x * qx + e2y * qy + e2z * qz) * inverse;
        if (distance <= near || distance >= best) continue;
        best = distance;
        found = i;
        if (any) break;
      }
      if (any && found >= 0) break;
    }
    do {
      if (top === 0) {
        node = -1;
        break;
      }
      node = stack[--top];
    } while (entry[top] >= best);
    if (node < 0) break;
  }
  if (found < 0) return false;
  hit.triangle = order[found];
  hit.distance = best;
  return true;
}

/** Distance at which a ray enters a box, or Infinity where it misses it or enters beyond `far`. */
function boxDistance(
  bounds: Float32Array,
  b: number,
  ox: number,
  oy: number,
  oz: number,
  ix: number,
  iy: number,
  iz: number,
  near: number,
  far: number,
): number {
  const x0 = (bounds[b] - ox) * ix;
  const x1 = (bounds[b + 3] - ox) * ix;
  const y0 = (bounds[b + 1] - oy) * iy;
  const y1 = (bounds[b + 4] - oy) * iy;
  const z0 = (bounds[b + 2] - oz) * iz;
  const z1 = (bounds[b + 5] - oz) * iz;
  const enter = Math.max(near, Math.min(x0, x1), Math.min(y0, y1), Math.min(z0, z1));
  // Bounds are rounded to 32 bits; the margin keeps rays that graze a face.
  const leave = Math.min(far, Math.max(x0, x1), Math.max(y0, y1), Math.max(z0, z1)) * (1 + 1e-6) + 1e-9;
  return enter <= leave ? enter : Infinity;
}
