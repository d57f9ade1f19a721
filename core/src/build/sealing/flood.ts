/** Flood fill through portals: what is inside, and the shortest trail from an object to the outside. */

import { distance, type Vec3 } from '../../math/vec3.ts';
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
  /** Centre and area of the opening at which the trail leaves the enclosed space. */
  hole: Vec3;
  holeArea: number;
}

export interface FloodResult {
  /** Indices of the free leaves that an object reaches. */
  inside: Set<number>;
  /** Objects whose point lies in a solid. */
  buried: FloodSource[];
  leak: Leak | null;
}

interface Link {
  to: number;
  portal: Portal;
  centre: Vec3;
}

export function flood(bsp: Bsp, portals: readonly Portal[], sources: readonly FloodSource[]): FloodResult {
  const links = new Map<number, Link[]>();
  const connect = (from: number, to: number, portal: Portal, centre: Vec3) => {
    const list = links.get(from);
    if (list) list.push({ to, portal, centre });
    else links.set(from, [{ to, portal, centre }]);
  };
  for (const portal of portals) {
    const centre = windingCentre(portal.winding);
    connect(portal.a, portal.b, portal, centre);
    connect(portal.b, portal.a, portal, centre);
  }

  const { min } = bsp.world;
  const outsidePoint: Vec3 = [min[0] + 1, min[1] + 1, min[2] + 1];
  const outside = leafAt(bsp, outsidePoint).index;
  const exterior = reach(links, [outside]);

  const inside = new Set<number>();
  const buried: FloodSource[] = [];
  let leak: Leak | null = null;
  for (const source of sources) {
    const leaf = leafAt(bsp, source.point);
    if (leaf.solid) {
      buried.push(source);
      continue;
    }
    if (exterior.has(leaf.index)) {
      const found = shortestTrail(bsp, links, source, leaf.index, outside, outsidePoint);
      if (!leak || trailLength(found.trail) < trailLength(leak.trail)) leak = found;
    }
    if (!inside.has(leaf.index)) for (const index of reach(links, [leaf.index])) inside.add(index);
  }
  return { inside, buried, leak };
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
  const best = new Map<number, { cost: number; at: Vec3; via: number; portal: Portal | null }>();
  best.set(from, { cost: 0, at: source.point, via: -1, portal: null });
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
      best.set(link.to, { cost, at: link.centre, via: current, portal: link.portal });
      open.add(link.to);
    }
  }
  const steps: { at: Vec3; portal: Portal }[] = [];
  for (let index = outside; index !== from; ) {
    const step = best.get(index)!;
    if (step.portal) steps.push({ at: step.at, portal: step.portal });
    index = step.via;
  }
  steps.reverse();
  // The hole is the last opening that is still enclosed; behind it the trail soon stands in the open.
  let hole = 0;
  for (let i = 0; i < steps.length; i++) if (openDirections(bsp, steps[i].at) < 3) hole = i;
  let end = hole + 1;
  while (end < steps.length - 1 && openDirections(bsp, steps[end].at) < 4) end++;
  const bends = [source.point, ...steps.slice(0, end + 1).map((step) => step.at)];
  if (end >= steps.length) bends.push(outsidePoint);
  return { source, trail: straighten(bsp, bends, steps[hole].at), hole: steps[hole].at, holeArea: steps[hole].portal.area };
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
