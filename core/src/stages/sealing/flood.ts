/** Flood fill through portals: what is inside, and the shortest trail from an object to the outside. */

import { distance, lerp, type Vec3 } from '../../math/vec3.ts';
import { windingCentre } from '../../solid/winding.ts';
import { leafAt, segmentIsFree, type Bsp, type Portal } from './bsp.ts';

export interface FloodSource {
  /** Id of the object. */
  id: string;
  point: Vec3;
}

export interface Leak {
  source: FloodSource;
  /** From the object to a point outside, bending only where it must. */
  trail: Vec3[];
  /** Where the trail leaves the enclosed space, and the free cross-section there in units squared. */
  hole: Vec3;
  holeArea: number;
}

export interface FloodResult {
  /** Indices of the free leaves that an object reaches. */
  inside: Set<number>;
  /** Objects whose point lies in a solid. */
  buried: FloodSource[];
  /** The shortest way out through every opening of its own, the shortest of all first. */
  leaks: Leak[];
}

interface Link {
  to: number;
  centre: Vec3;
}

/** Most openings that are told apart: a map without a whole wall has as many as one likes. */
const MOST_LEAKS = 12;

/** @param most openings that are looked for */
export function flood(bsp: Bsp, portals: readonly Portal[], sources: readonly FloodSource[], most = MOST_LEAKS): FloodResult {
  const links = linksOf(portals);
  const { min } = bsp.world;
  const outsidePoint: Vec3 = [min[0] + 1, min[1] + 1, min[2] + 1];
  const outside = leafAt(bsp, outsidePoint).index;

  const inside = new Set<number>();
  const buried: FloodSource[] = [];
  const free: { source: FloodSource; leaf: number }[] = [];
  for (const source of sources) {
    const leaf = leafAt(bsp, source.point);
    if (leaf.solid) {
      buried.push(source);
      continue;
    }
    free.push({ source, leaf: leaf.index });
    if (!inside.has(leaf.index)) for (const index of reach(links, [leaf.index])) inside.add(index);
  }

  // Every opening that is found is closed in thought, and the flood looks for the next.
  const leaks: Leak[] = [];
  let open = portals;
  while (leaks.length < most) {
    const left = leaks.length === 0 ? links : linksOf(open);
    const exterior = reach(left, [outside]);
    let shortest: Leak | null = null;
    for (const { source, leaf } of free) {
      if (!exterior.has(leaf)) continue;
      const found = shortestTrail(bsp, left, source, leaf, outside, outsidePoint);
      if (!shortest || trailLength(found.trail) < trailLength(shortest.trail)) shortest = found;
    }
    if (!shortest) break;
    const { hole, holeArea } = shortest;
    const closed = open.filter((portal) => !portal.winding.some((p) => distance(p, hole) < Math.sqrt(holeArea)) && !around(portal, hole));
    // An object that stands in the open has no opening to close.
    if (closed.length === open.length || leaks.some((known) => distance(known.hole, hole) < 1)) {
      leaks.push(shortest);
      break;
    }
    leaks.push(shortest);
    open = closed;
  }
  return { inside, buried, leaks };
}

/** Whether a point lies in the box about a portal. */
function around({ winding }: Portal, point: Vec3): boolean {
  return [0, 1, 2].every((k) => {
    const along = winding.map((p) => p[k]);
    return point[k] >= Math.min(...along) - 1 && point[k] <= Math.max(...along) + 1;
  });
}

function linksOf(portals: readonly Portal[]): Map<number, Link[]> {
  const links = new Map<number, Link[]>();
  const connect = (from: number, to: number, centre: Vec3) => {
    const list = links.get(from);
    if (list) list.push({ to, centre });
    else links.set(from, [{ to, centre }]);
  };
  for (const portal of portals) {
    const centre = windingCentre(portal.winding);
    connect(portal.a, portal.b, centre);
    connect(portal.b, portal.a, centre);
  }
  return links;
}

function reach(links: Map<number, Link[]>, start: number[]): Set<number> {
  const seen = new Set(start);
  const queue = [...start];
  for (let at = queue.pop(); at !== undefined; at = queue.pop()) {
    for (const link of links.get(at) ?? []) {
      if (seen.has(link.to)) continue;
      seen.add(link.to);
      queue.push(link.to);
    }
  }
  return seen;
}

const trailLength = (trail: readonly Vec3[]): number => trail.slice(1).reduce((sum, p, i) => sum + distance(trail[i], p), 0);

/** Dijkstra over portal centres, then every bend that a straight line can replace is dropped. */
function shortestTrail(bsp: Bsp, links: Map<number, Link[]>, source: FloodSource, from: number, outside: number, outsidePoint: Vec3): Leak {
  const best = new Map<number, { cost: number; at: Vec3; via: number }>();
  best.set(from, { cost: 0, at: source.point, via: -1 });
  const open = new Set([from]);
  while (open.size > 0) {
    let current = -1;
    for (const index of open) if (current < 0 || best.get(index)!.cost < best.get(current)!.cost) current = index;
    open.delete(current);
    if (current === outside) break;
    const here = best.get(current)!;
    for (const link of links.get(current) ?? []) {
      const cost = here.cost + distance(here.at, link.centre);
      if (cost >= (best.get(link.to)?.cost ?? Infinity)) continue;
      best.set(link.to, { cost, at: link.centre, via: current });
      open.add(link.to);
    }
  }
  const bends: Vec3[] = [outsidePoint];
  for (let index = outside; index !== from; index = best.get(index)!.via) bends.push(best.get(index)!.at);
  bends.push(source.point);
  bends.reverse();
  const hole = findHole(bsp, bends);
  return { source, trail: straighten(bsp, hole.trail, hole.at), hole: hole.at, holeArea: hole.area };
}

/** Most steps with which a trail is looked along for its hole. */
const LOOKS = 400;

/**
 * Walks along a way from inside to outside. The hole is where it was last enclosed (fewer than three free
 * axis directions); the way is cut off where it first stands in the open after that.
 */
function findHole(bsp: Bsp, bends: readonly Vec3[]): { at: Vec3; area: number; trail: Vec3[] } {
  const step = Math.max(2, trailLength(bends) / LOOKS);
  const looks: { at: Vec3; leg: number; open: number }[] = [];
  for (let leg = 1; leg < bends.length; leg++) {
    const count = Math.max(1, Math.ceil(distance(bends[leg - 1], bends[leg]) / step));
    for (let i = 0; i <= count; i++) {
      const at = lerp(bends[leg - 1], bends[leg], i / count);
      looks.push({ at, leg, open: openDirections(bsp, at) });
    }
  }
  let last = 0;
  looks.forEach((look, i) => {
    if (look.open < 3) last = i;
  });
  const end = looks.findIndex((look, i) => i > last && look.open >= 4);
  const { at, leg } = looks[last];
  const out = looks[end < 0 ? looks.length - 1 : end];
  const trail = [...bends.slice(0, leg), at, ...bends.slice(leg, out.leg), out.at];
  return { at, area: openingArea(bsp, at, looks[Math.min(looks.length - 1, last + 1)].at), trail };
}

/** Free cross-section at a point, across the axis along which the way leads on. Units squared. */
function openingArea(bsp: Bsp, at: Vec3, towards: Vec3): number {
  const along = [0, 1, 2].reduce((most, axis) => (Math.abs(towards[axis] - at[axis]) > Math.abs(towards[most] - at[most]) ? axis : most), 0);
  let area = 1;
  for (let axis = 0; axis < 3; axis++)
    if (axis !== along) area *= freeDistance(bsp, at, axis, bsp.world.min[axis]) + freeDistance(bsp, at, axis, bsp.world.max[axis]);
  return area;
}

/** How far one gets from a point along an axis before meeting a solid, at most to `end`. */
function freeDistance(bsp: Bsp, from: Vec3, axis: number, end: number): number {
  const reaches = (t: number): boolean => {
    const to: Vec3 = [...from];
    to[axis] += (end - from[axis]) * t;
    return segmentIsFree(bsp.root, from, to);
  };
  if (reaches(1)) return Math.abs(end - from[axis]);
  let [low, high] = [0, 1];
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2;
    if (reaches(middle)) low = middle;
    else high = middle;
  }
  return Math.abs(end - from[axis]) * low;
}

/** How many of the six axis directions lead from a point out of the world without meeting a solid. */
function openDirections(bsp: Bsp, point: Vec3): number {
  let open = 0;
  for (let axis = 0; axis < 3; axis++) {
    for (const end of [bsp.world.min[axis], bsp.world.max[axis]]) {
      const target: Vec3 = [...point];
      target[axis] = end;
      if (segmentIsFree(bsp.root, point, target)) open++;
    }
  }
  return open;
}

/** Keeps the hole on the trail, so that the trail visibly leads through it. */
function straighten(bsp: Bsp, bends: readonly Vec3[], keep: Vec3): Vec3[] {
  const trail: Vec3[] = [bends[0]];
  let at = 0;
  while (at < bends.length - 1) {
    const pinned = bends.findIndex((p, i) => i > at && distance(p, keep) < 1e-6);
    const limit = pinned > 0 ? pinned : bends.length - 1;
    let next = at + 1;
    for (let i = limit; i > at + 1; i--) {
      if (segmentIsFree(bsp.root, bends[at], bends[i])) {
        next = i;
        break;
      }
    }
    trail.push(bends[next]);
    at = next;
  }
  return trail;
}
