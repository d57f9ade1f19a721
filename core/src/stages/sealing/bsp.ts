/**
 * A binary partition of space by the planes of solids. Every leaf is a convex cell that is wholly inside
 * some solid or wholly outside all, decided by the solids' own fragments rather than by which side of the
 * last plane the leaf lies on: that holds for any overlaps and for touching faces.
 */

import type { Solid } from '../../document/schema.ts';
import { boxOfPoints, type Box3 } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { block } from '../../solid/primitives.ts';
import { solidPolygons } from '../../solid/solid.ts';
import {
  baseWinding,
  clipBehind,
  flipPlane,
  ON_PLANE,
  planeSide,
  samePlane,
  splitWinding,
  windingArea,
  type Plane,
  type Winding,
} from '../../solid/winding.ts';

export interface BspLeaf {
  kind: 'leaf';
  index: number;
  solid: boolean;
}

export interface BspNode {
  kind: 'node';
  plane: Plane;
  front: BspTree;
  back: BspTree;
}

export type BspTree = BspNode | BspLeaf;

export interface Bsp {
  root: BspTree;
  leaves: BspLeaf[];
  /** The partitioned space: the solids' box grown by WORLD_MARGIN. */
  world: Box3;
}

/** Free space left around all solids, so that "outside" is one connected cell region. In units. */
export const WORLD_MARGIN = 64;

/** A face of a fragment; `used` once its plane has become a boundary of the cell. */
interface FragmentFace {
  plane: Plane;
  winding: Winding;
  used: boolean;
}

type Fragment = FragmentFace[];

export interface BspOptions {
  /** Volumes that are no obstacle but split the free cells which they reach into, for visibility. */
  dividers?: readonly Solid[];
  /** Points that have to lie within the partitioned space. */
  extra?: readonly Vec3[];
  onProgress?: (fraction: number) => void;
}

const fragmentOf = (solid: Solid): Fragment => solidPolygons(solid).map(({ face, winding }) => ({ plane: solid.faces[face], winding, used: false }));

export function buildBsp(solids: readonly Solid[], { dividers = [], extra = [], onProgress = () => {} }: BspOptions = {}): Bsp {
  const fragments: Fragment[] = solids.map(fragmentOf);
  const box = boxOfPoints([...fragments.flatMap((f) => f.flatMap((face) => face.winding)), ...extra, [0, 0, 0]]);
  const world: Box3 = {
    min: box.min.map((v) => v - WORLD_MARGIN) as Vec3,
    max: box.max.map((v) => v + WORLD_MARGIN) as Vec3,
  };
  const leaves: BspLeaf[] = [];
  let done = 0;

  const grow = (inside: Fragment[], hints: Fragment[], share: number): BspTree => {
    const filling = inside.some((fragment) => fragment.every((face) => face.used));
    // Dividers come last, so that they split the cells which they reach into and nothing else.
    const splitter = filling ? null : (chooseSplitter(inside) ?? chooseSplitter(hints));
    if (!splitter) {
      const leaf: BspLeaf = { kind: 'leaf', index: leaves.length, solid: filling };
      leaves.push(leaf);
      done += share;
      onProgress(Math.min(1, done));
      return leaf;
    }
    const own = splitAll(inside, splitter);
    const rest = splitAll(hints, splitter);
    const weight = own.front.length / (own.front.length + own.back.length || 1);
    return {
      kind: 'node',
      plane: splitter,
      front: grow(own.front, rest.front, share * weight),
      back: grow(own.back, rest.back, share * (1 - weight)),
    };
  };

  return { root: grow(fragments, dividers.map(fragmentOf), 1), leaves, world };
}

/** How many candidate planes are weighed at a node; more gives smaller trees but takes longer. */
const CANDIDATES = 24;

function chooseSplitter(fragments: readonly Fragment[]): Plane | null {
  const planes: Plane[] = [];
  for (const fragment of fragments) for (const face of fragment) if (!face.used) planes.push(face.plane);
  if (planes.length === 0) return null;
  const stride = Math.max(1, Math.floor(planes.length / CANDIDATES));
  let best: Plane = planes[0];
  let bestScore = Infinity;
  for (let i = 0; i < planes.length; i += stride) {
    const plane = planes[i];
    let front = 0;
    let back = 0;
    let cut = 0;
    for (const fragment of fragments) {
      const side = fragmentSide(fragment, plane);
      if (side === 'both') cut++;
      else if (side === 'front') front++;
      else back++;
    }
    const axial = Math.max(...plane.normal.map(Math.abs)) > 1 - 1e-9;
    const score = cut * 4 + Math.abs(front - back) + (axial ? 0 : fragments.length * 0.5);
    if (score < bestScore) {
      bestScore = score;
      best = plane;
    }
  }
  return best;
}

function fragmentSide(fragment: Fragment, plane: Plane): 'front' | 'back' | 'both' {
  let front = false;
  let back = false;
  for (const face of fragment) {
    for (const point of face.winding) {
      const d = planeSide(plane, point);
      if (d > ON_PLANE) front = true;
      else if (d < -ON_PLANE) back = true;
      if (front && back) return 'both';
    }
  }
  return front ? 'front' : 'back';
}

function splitAll(fragments: readonly Fragment[], plane: Plane): { front: Fragment[]; back: Fragment[] } {
  const front: Fragment[] = [];
  const back: Fragment[] = [];
  for (const fragment of fragments) {
    const split = splitFragment(fragment, plane);
    if (split.front) front.push(split.front);
    if (split.back) back.push(split.back);
  }
  return { front, back };
}

/** Cuts a fragment. Its faces in the plane are marked as used: they bound the cell from now on. */
function splitFragment(fragment: Fragment, plane: Plane): { front: Fragment | null; back: Fragment | null } {
  const side = fragmentSide(fragment, plane);
  if (side !== 'both') {
    const flipped = flipPlane(plane);
    const marked = fragment.map((face) =>
      face.used || !(samePlane(face.plane, plane) || samePlane(face.plane, flipped)) ? face : { ...face, used: true },
    );
    return side === 'front' ? { front: marked, back: null } : { front: null, back: marked };
  }
  const front: Fragment = [];
  const back: Fragment = [];
  for (const face of fragment) {
    const split = splitWinding(face.winding, plane);
    if (split.front) front.push({ ...face, winding: split.front });
    if (split.back) back.push({ ...face, winding: split.back });
  }
  let cap: Winding | null = baseWinding(plane);
  for (const face of fragment) cap = cap && clipBehind(cap, face.plane);
  if (cap) {
    back.push({ plane, winding: cap, used: true });
    front.push({ plane: flipPlane(plane), winding: [...cap].reverse(), used: true });
  }
  return { front, back };
}

/** The leaf that contains a point; points on a plane belong to its front. */
export function leafAt(bsp: Bsp, point: Vec3): BspLeaf {
  let at = bsp.root;
  while (at.kind === 'node') at = planeSide(at.plane, point) >= 0 ? at.front : at.back;
  return at;
}

/** All leaves that a winding passes through. */
export function leavesOfWinding(tree: BspTree, winding: Winding, found: Set<BspLeaf> = new Set()): Set<BspLeaf> {
  if (tree.kind === 'leaf') return found.add(tree);
  const split = splitWinding(winding, tree.plane);
  if (split.on || split.front) leavesOfWinding(tree.front, split.front ?? winding, found);
  if (split.on || split.back) leavesOfWinding(tree.back, split.back ?? winding, found);
  return found;
}

/** Whether the open segment from a to b runs through free space only. */
export function segmentIsFree(tree: BspTree, a: Vec3, b: Vec3): boolean {
  if (tree.kind === 'leaf') return !tree.solid;
  const da = planeSide(tree.plane, a);
  const db = planeSide(tree.plane, b);
  if (da >= -1e-6 && db >= -1e-6) {
    // A segment within the plane is free if either side lets it pass.
    if (da < 1e-6 && db < 1e-6) return segmentIsFree(tree.front, a, b) || segmentIsFree(tree.back, a, b);
    return segmentIsFree(tree.front, a, b);
  }
  if (da <= 1e-6 && db <= 1e-6) return segmentIsFree(tree.back, a, b);
  const t = da / (da - db);
  const middle: Vec3 = [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
  const [near, far] = da > 0 ? [tree.front, tree.back] : [tree.back, tree.front];
  return segmentIsFree(near, a, middle) && segmentIsFree(far, middle, b);
}

export interface Portal {
  /** Indices of the two leaves that meet here; both are free. */
  a: number;
  b: number;
  winding: Winding;
  area: number;
}

/** The openings between free leaves. Every pair of neighbouring free cells is joined by at least one. */
export function findPortals(bsp: Bsp): Portal[] {
  const portals: Portal[] = [];
  const worldPlanes = block(bsp.world, '').faces as Plane[];

  const pieces = (tree: BspTree, winding: Winding, visit: (leaf: BspLeaf, piece: Winding) => void): void => {
    if (tree.kind === 'leaf') {
      if (!tree.solid) visit(tree, winding);
      return;
    }
    const split = splitWinding(winding, tree.plane);
    if (split.front || split.on) pieces(tree.front, split.front ?? winding, visit);
    if (split.back) pieces(tree.back, split.back, visit);
  };

  const walk = (tree: BspTree, bounds: Plane[]): void => {
    if (tree.kind === 'leaf') return;
    let winding: Winding | null = baseWinding(tree.plane);
    for (const bound of bounds) winding = winding && clipBehind(winding, bound);
    if (winding) {
      pieces(tree.front, winding, (front, frontPiece) => {
        pieces(tree.back, frontPiece, (back, piece) => {
          const area = windingArea(piece);
          if (area > 1e-3) portals.push({ a: front.index, b: back.index, winding: piece, area });
        });
      });
    }
    walk(tree.front, [...bounds, flipPlane(tree.plane)]);
    walk(tree.back, [...bounds, tree.plane]);
  };

  walk(bsp.root, worldPlanes);
  return portals;
}

/** A tree as plain arrays, for keeping and for `visibility.bin`. */
export interface FlatBsp {
  /** Four numbers per node: normal and distance. Points with normal · p >= distance lie in front. */
  planes: number[];
  /** Two per node, front and back: the index of a node, or -1 - leaf. Node 0 is the root; without nodes leaf 0 is all there is. */
  children: number[];
  /** 1 for leaves inside solids. */
  solid: number[];
  world: Box3;
}

export function flattenBsp({ root, leaves, world }: Bsp): FlatBsp {
  const planes: number[] = [];
  const children: number[] = [];
  const add = (tree: BspTree): number => {
    if (tree.kind === 'leaf') return -1 - tree.index;
    const at = planes.length / 4;
    planes.push(...tree.plane.normal, tree.plane.distance);
    children.push(0, 0);
    children[at * 2] = add(tree.front);
    children[at * 2 + 1] = add(tree.back);
    return at;
  };
  add(root);
  return { planes, children, solid: leaves.map((leaf) => (leaf.solid ? 1 : 0)), world };
}

export function unflattenBsp({ planes, children, solid, world }: FlatBsp): Bsp {
  const leaves = solid.map((inside, index): BspLeaf => ({ kind: 'leaf', index, solid: inside === 1 }));
  const grow = (at: number): BspTree => {
    if (at < 0) return leaves[-1 - at];
    const plane: Plane = { normal: [planes[at * 4], planes[at * 4 + 1], planes[at * 4 + 2]], distance: planes[at * 4 + 3] };
    return { kind: 'node', plane, front: grow(children[at * 2]), back: grow(children[at * 2 + 1]) };
  };
  return { root: planes.length > 0 ? grow(0) : leaves[0], leaves, world };
}
