/** Repairs of the triangles themselves: useless ones dropped, wrong sides turned. */

import type { ModelPart } from '../model/model.ts';
import { cone, doubleArea, type Soup, type Surface } from './surface.ts';

/** Triangles with less than this share of the model's extent squared count as having no area. */
const NO_AREA = 1e-12;

/** Triangles without area, and second copies of a triangle (same three points, whichever way round). */
export function uselessTriangles(soup: Soup): { flat: number[]; twice: number[] } {
  const { positions, indices, corners } = soup;
  let extent = 0;
  for (let i = 0; i < positions.length; i++) extent = Math.max(extent, Math.abs(positions[i]));
  const least = extent * extent * NO_AREA;
  const flat: number[] = [];
  const twice: number[] = [];
  const count = indices.length / 3;
  const mask = 2 ** Math.ceil(Math.log2(Math.max(2, count * 2))) - 1;
  const slots = new Int32Array(mask + 1).fill(-1);
  const sorted = new Uint32Array(count * 3);
  for (let t = 0; t < count; t++) {
    const at = t * 3;
    if (!(doubleArea(positions, indices[at], indices[at + 1], indices[at + 2]) > least)) {
      flat.push(t);
      continue;
    }
    const p = corners[at];
    const q = corners[at + 1];
    const r = corners[at + 2];
    const a = Math.min(p, q, r);
    const c = Math.max(p, q, r);
    const b = p + q + r - a - c;
    sorted[at] = a;
    sorted[at + 1] = b;
    sorted[at + 2] = c;
    let hash = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b) ^ Math.imul(c, 0xc2b2ae35);
    hash = (hash ^ (hash >>> 15)) & mask;
    while (slots[hash] >= 0) {
      const o = slots[hash] * 3;
      if (sorted[o] === a && sorted[o + 1] === b && sorted[o + 2] === c) break;
      hash = (hash + 1) & mask;
    }
    if (slots[hash] >= 0) twice.push(t);
    else slots[hash] = t;
  }
  return { flat, twice };
}

/** The parts without the given triangles (numbered through all parts). Parts left empty are dropped. */
export function dropTriangles(parts: readonly ModelPart[], { partStart }: Soup, triangles: readonly number[]): ModelPart[] {
  const drop = new Set(triangles);
  if (drop.size === 0) return parts.filter((part) => part.indices.length > 0);
  return parts
    .map((part, p) => {
      const start = partStart[p];
      return { ...part, indices: part.indices.filter((_, i) => !drop.has(start + Math.floor(i / 3))) };
    })
    .filter((part) => part.indices.length > 0);
}

export interface SideReport {
  /** Triangles at an edge that both sides run along in the same direction. */
  disagreeing: number[];
  /** Triangles at edges that more than two triangles share. */
  branching: number[];
  /** Triangles of closed pieces whose enclosed volume is negative: they are inside out. */
  insideOut: number[];
  /** Edges with a triangle on one side only. */
  openEdges: number;
}

export function checkSides(surface: Surface): SideReport {
  const { edges, piece, pieces, positions, indices } = surface;
  const disagreeing = new Set<number>();
  const branching = new Set<number>();
  const whole = new Uint8Array(pieces).fill(1);
  let openEdges = 0;
  for (let e = 0; e < edges.count; e++) {
    const total = edges.up[e] + edges.down[e];
    if (total === 1) openEdges++;
    if (total === 2 && edges.up[e] !== 1) {
      disagreeing.add(edges.first[e]);
      disagreeing.add(edges.second[e]);
    }
    if (total > 2) {
      branching.add(edges.first[e]);
      branching.add(edges.second[e]);
    }
    if (total !== 2 || edges.up[e] !== 1) whole[piece[edges.first[e]]] = 0;
  }
  const volume = new Float64Array(pieces);
  const min = new Float64Array(pieces * 3).fill(Infinity);
  const max = new Float64Array(pieces * 3).fill(-Infinity);
  for (let t = 0; t < piece.length; t++) {
    const p = piece[t];
    volume[p] += cone(positions, indices[t * 3], indices[t * 3 + 1], indices[t * 3 + 2]);
    for (let k = 0; k < 3; k++)
      for (let axis = 0; axis < 3; axis++) {
        const v = positions[indices[t * 3 + k] * 3 + axis];
        if (v < min[p * 3 + axis]) min[p * 3 + axis] = v;
        if (v > max[p * 3 + axis]) max[p * 3 + axis] = v;
      }
  }
  const negative = [...volume.keys()].filter((p) => whole[p] && volume[p] < 0);
  // A hollow's inner skin is rightly negative: it lies within a piece that is not.
  const within = (p: number, q: number) =>
    [0, 1, 2].every((axis) => min[p * 3 + axis] >= min[q * 3 + axis] && max[p * 3 + axis] <= max[q * 3 + axis]);
  const wrong = new Set(negative.filter((p) => ![...volume.keys()].some((q) => q !== p && volume[q] > 0 && within(p, q))));
  const insideOut = wrong.size === 0 ? [] : [...piece.keys()].filter((t) => wrong.has(piece[t]));
  return { disagreeing: [...disagreeing], branching: [...branching], insideOut, openEdges };
}

/**
 * Which triangles to turn so that neighbours agree and closed pieces face outwards. Open pieces keep the
 * side that most of their triangles have.
 */
export function trianglesToTurn(surface: Surface): Uint8Array {
  const { edges, corners, positions, indices, piece, pieces } = surface;
  const count = indices.length / 3;
  const neighbours: number[][] = Array.from({ length: count }, () => []);
  for (let e = 0; e < edges.count; e++) {
    if (edges.up[e] + edges.down[e] !== 2) continue;
    const [a, b] = [edges.first[e], edges.second[e]];
    const disagree = edges.up[e] !== 1;
    neighbours[a].push(disagree ? -b - 1 : b);
    neighbours[b].push(disagree ? -a - 1 : a);
  }
  const turn = new Uint8Array(count);
  const seen = new Uint8Array(count);
  for (let start = 0; start < count; start++) {
    if (seen[start] || corners[start * 3] === corners[start * 3 + 1]) continue;
    seen[start] = 1;
    const patch = [start];
    for (let i = 0; i < patch.length; i++) {
      for (const link of neighbours[patch[i]]) {
        const other = link < 0 ? -link - 1 : link;
        if (seen[other]) continue;
        seen[other] = 1;
        turn[other] = turn[patch[i]] ^ (link < 0 ? 1 : 0);
        patch.push(other);
      }
    }
    let volume = 0;
    for (const t of patch) volume += cone(positions, indices[t * 3], indices[t * 3 + 1], indices[t * 3 + 2]) * (turn[t] ? -1 : 1);
    const turned = patch.reduce((sum, t) => sum + turn[t], 0);
    const open = isOpen(edges, piece, pieces, piece[start]);
    if (open ? turned * 2 > patch.length : volume < 0) for (const t of patch) turn[t] ^= 1;
  }
  return turn;
}

/** Whether a piece has an edge with only one triangle. */
function isOpen(edges: Surface['edges'], piece: Uint32Array, pieces: number, wanted: number): boolean {
  let flags = openPieces.get(edges);
  if (!flags) {
    flags = new Uint8Array(pieces);
    for (let e = 0; e < edges.count; e++) if (edges.up[e] + edges.down[e] === 1) flags[piece[edges.first[e]]] = 1;
    openPieces.set(edges, flags);
  }
  return flags[wanted] === 1;
}
const openPieces = new WeakMap<Surface['edges'], Uint8Array>();

/** The parts with the flagged triangles (numbered through all parts) turned round. */
export function turnTriangles(parts: readonly ModelPart[], surface: Surface, turn: Uint8Array): ModelPart[] {
  return parts.map((part, p) => {
    const indices = part.indices.slice();
    for (let i = 0; i < indices.length; i += 3)
      if (turn[surface.partStart[p] + i / 3]) [indices[i + 1], indices[i + 2]] = [indices[i + 2], indices[i + 1]];
    return { ...part, indices };
  });
}
