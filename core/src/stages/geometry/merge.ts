/** Joins convex polygons of one plane that share a whole edge, while the whole stays convex. */

import { cross, dot, sub, type Vec3 } from '../../math/vec3.ts';
import type { Winding } from '../../solid/winding.ts';

export interface Mergeable {
  winding: Winding;
  normal: Vec3;
  /** Only polygons of equal keys are joined. */
  key: string;
}

/** Corners that lie within this of each other are one. */
const CLOSE = 1e-3;
/** How far inwards a corner may bend and still count as straight: the sine of the angle. */
const STRAIGHT = 1e-5;
/** Polygons with more corners than this are left as they are: long rims make poor triangles. */
const MOST_CORNERS = 32;

const pointKey = (p: Vec3): string => `${Math.round(p[0] / CLOSE)},${Math.round(p[1] / CLOSE)},${Math.round(p[2] / CLOSE)}`;

/**
 * @param join what becomes of two that are joined; `a` is the one that came first
 * @returns what is left, in the order of the first of each
 */
export function mergePolygons<T extends Mergeable>(polygons: readonly T[], join: (a: T, b: T, winding: Winding) => T): T[] {
  const byKey = new Map<string, number[]>();
  polygons.forEach(({ key }, i) => {
    const list = byKey.get(key);
    if (list) list.push(i);
    else byKey.set(key, [i]);
  });
  const result: (T | null)[] = [...polygons];
  for (const indices of byKey.values()) if (indices.length > 1) mergeGroup(result, indices, join);
  return result.filter((p) => p !== null);
}

function mergeGroup<T extends Mergeable>(polygons: (T | null)[], indices: readonly number[], join: (a: T, b: T, winding: Winding) => T): void {
  /** Owner of every directed edge. */
  const edges = new Map<string, number>();
  const edgeKeys = ({ winding }: T): string[] => {
    const keys = winding.map(pointKey);
    return keys.map((key, i) => `${key}>${keys[(i + 1) % keys.length]}`);
  };
  const turned = (key: string): string => key.split('>').reverse().join('>');
  for (const i of indices) for (const key of edgeKeys(polygons[i]!)) edges.set(key, i);
  const queue = [...indices];
  for (let at = queue.shift(); at !== undefined; at = queue.shift()) {
    const own = polygons[at];
    if (!own) continue;
    for (const key of edgeKeys(own)) {
      const other = edges.get(turned(key));
      if (other === undefined || other === at || !polygons[other]) continue;
      const winding = joined(own.winding, polygons[other].winding, own.normal);
      if (!winding) continue;
      const [first, second] = at < other ? [at, other] : [other, at];
      for (const i of [first, second]) for (const k of edgeKeys(polygons[i]!)) edges.delete(k);
      polygons[first] = join(polygons[first]!, polygons[second]!, winding);
      polygons[second] = null;
      for (const k of edgeKeys(polygons[first])) edges.set(k, first);
      queue.push(first);
      break;
    }
  }
}

/** Two convex windings as one along their shared edge, or null where that would not be convex. */
function joined(a: Winding, b: Winding, normal: Vec3): Winding | null {
  const [keysA, keysB] = [a.map(pointKey), b.map(pointKey)];
  for (let i = 0; i < a.length; i++) {
    const next = keysA[(i + 1) % a.length];
    const j = keysB.findIndex((key, k) => key === next && keysB[(k + 1) % b.length] === keysA[i]);
    if (j < 0) continue;
    // a from behind the edge round to its start, then b from behind its edge round.
    const ring: Winding = [];
    for (let k = 1; k <= a.length; k++) ring.push(a[(i + k) % a.length]);
    for (let k = 2; k < b.length; k++) ring.push(b[(j + k) % b.length]);
    const clean: Winding = [];
    for (let k = 0; k < ring.length; k++) {
      const [p, q, r] = [ring[(k + ring.length - 1) % ring.length], ring[k], ring[(k + 1) % ring.length]];
      const bend = bendAt(p, q, r, normal);
      if (bend < -STRAIGHT) return null;
      // Straight corners are dropped where the two met, since only there can they be new.
      const met = k === 0 || k === a.length - 1;
      if (!met || bend > STRAIGHT) clean.push(q);
    }
    return clean.length >= 3 && clean.length <= MOST_CORNERS ? clean : null;
  }
  return null;
}

/** Sine of the turn at q, positive to the left as seen against the normal. */
function bendAt(p: Vec3, q: Vec3, r: Vec3, normal: Vec3): number {
  const [e, f] = [sub(q, p), sub(r, q)];
  return dot(cross(e, f), normal) / (Math.hypot(...e) * Math.hypot(...f) || 1);
}
