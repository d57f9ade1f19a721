/** Corners and edges of solids, and moving them while the solid stays convex. */

import earcut from 'earcut';
import type { Solid } from '../document/schema.ts';
import { add, cross, dot, length, sub, type Vec3 } from '../math/vec3.ts';
import { mergeSolids } from './cut.ts';
import { hullSolid } from './hull.ts';
import { shapeOf } from './shape.ts';
import { solidVolume } from './solid.ts';
import { ON_PLANE, planeSide } from './winding.ts';

export interface Skeleton {
  corners: Vec3[];
  /** Pairs of corners, each edge once. */
  edges: [number, number][];
  /** Corners of every face that bounds the solid, counter-clockwise from outside. */
  faces: { face: number; ring: number[] }[];
}

const skeletons = new WeakMap<Solid, Skeleton>();

/** Corners, edges and faces of a solid by index. Corners are numbered in the order in which faces name them. */
export function skeletonOf(solid: Solid): Skeleton {
  const known = skeletons.get(solid);
  if (known) return known;
  const corners: Vec3[] = [];
  const number = (p: Vec3): number => {
    const at = corners.findIndex((c) => length(sub(c, p)) < ON_PLANE * 4);
    return at >= 0 ? at : corners.push(p) - 1;
  };
  const faces = shapeOf(solid).polygons.map(({ face, winding }) => ({
    face,
    ring: winding.map(number).filter((c, i, ring) => c !== ring[(i + 1) % ring.length]),
  }));
  const edges = new Map<string, [number, number]>();
  for (const { ring } of faces)
    ring.forEach((a, i) => {
      const b = ring[(i + 1) % ring.length];
      edges.set(`${Math.min(a, b)}-${Math.max(a, b)}`, [Math.min(a, b), Math.max(a, b)]);
    });
  const skeleton = { corners, edges: [...edges.values()], faces };
  skeletons.set(solid, skeleton);
  return skeleton;
}

export type Reshaped = { solids: Solid[] } | { reason: string };

/**
 * The solid with some corners moved by `by`. What stays convex is one solid. A dent is split into convex
 * parts where `split` allows it and its parts can all be seen from the solid's middle; else the answer says why not.
 */
export function moveCorners(solid: Solid, moved: readonly number[], by: Vec3, split = false): Reshaped {
  const { corners, faces } = skeletonOf(solid);
  const chosen = new Set(moved);
  const next = corners.map((c, i) => (chosen.has(i) ? add(c, by) : c));
  for (let i = 0; i < next.length; i++)
    for (let j = 0; j < i; j++)
      if (chosen.has(i) !== chosen.has(j) && length(sub(next[i], next[j])) < ON_PLANE)
        return { reason: 'Two corners would meet: the edge between them would vanish.' };
  const hull = hullSolid(next, solid.faces);
  if (!hull) return { reason: 'The solid would be flat.' };
  // A corner of a convex solid lies on three faces or more, one within an edge on two; fewer mean a dent.
  const sunk = next.filter((p) => hull.faces.filter((face) => Math.abs(planeSide(face, p)) < ON_PLANE * 4).length < 2);
  const details = solid.detail ? { detail: true } : {};
  // A face that only bends outwards is taken up by the hull with one more edge.
  if (sunk.length === 0) return { solids: [{ ...hull, ...details }] };
  if (!split)
    return {
      reason: `The solid would be concave: ${sunk.length === 1 ? 'that corner would' : 'corners would'} lie inside it. Cut it first, or split it.`,
    };
  const triangles = faces.flatMap(({ face, ring }) =>
    ringTriangles(ring, next, chosen, solid.faces[face].normal).map((corner) => corner.map((i) => next[i]) as [Vec3, Vec3, Vec3]),
  );
  const volume = triangles.reduce((sum, [a, b, c]) => sum + dot(a, cross(b, c)) / 6, 0);
  const middle = (points: readonly Vec3[]) => [0, 1, 2].map((axis) => points.reduce((sum, p) => sum + p[axis], 0) / points.length) as Vec3;
  // All of the surface has to be seen from one point; what stayed lies further from the dent than what moved.
  const stayed = next.filter((_, i) => !chosen.has(i));
  let answer: Reshaped = { reason: 'It cannot be split into convex parts there.' };
  for (const from of [middle(stayed), middle(next)]) {
    answer = splitConcave(triangles, from, solid, volume, details);
    if ('solids' in answer) return answer;
  }
  return answer;
}

/**
 * A ring in triangles. Seen along its old normal it may have become concave, and is cut along its ears; else the
 * fan begins just before the moved corners, so that triangles without one stay in the old plane.
 */
function ringTriangles(ring: readonly number[], next: readonly Vec3[], moved: ReadonlySet<number>, normal: Vec3): number[][] {
  const drop = [0, 1, 2].reduce((best, axis) => (Math.abs(normal[axis]) > Math.abs(normal[best]) ? axis : best), 0);
  const [u, v] = normal[drop] > 0 ? [(drop + 1) % 3, (drop + 2) % 3] : [(drop + 2) % 3, (drop + 1) % 3];
  const flat = ring.map((i) => [next[i][u], next[i][v]]);
  const turns = flat.map((p, i) => {
    const [q, r] = [flat[(i + 1) % flat.length], flat[(i + 2) % flat.length]];
    return (q[0] - p[0]) * (r[1] - q[1]) - (q[1] - p[1]) * (r[0] - q[0]);
  });
  if (turns.some((turn) => turn < -1e-6)) {
    const cut = earcut(flat.flat());
    return Array.from({ length: cut.length / 3 }, (_, t) => {
      const [a, b, c] = [0, 1, 2].map((k) => cut[t * 3 + k]);
      const area = (flat[b][0] - flat[a][0]) * (flat[c][1] - flat[a][1]) - (flat[b][1] - flat[a][1]) * (flat[c][0] - flat[a][0]);
      return (area > 0 ? [a, b, c] : [a, c, b]).map((i) => ring[i]);
    });
  }
  const first = Math.max(
    0,
    ring.findIndex((c, i) => !moved.has(c) && moved.has(ring[(i + 1) % ring.length])),
  );
  const turned = [...ring.slice(first), ...ring.slice(0, first)];
  return turned.slice(2).map((c, i) => [turned[0], turned[i + 1], c]);
}

/** Tetrahedra from the middle to every triangle of the surface, merged wherever two stay convex together. */
function splitConcave(triangles: readonly [Vec3, Vec3, Vec3][], middle: Vec3, solid: Solid, volume: number, details: { detail?: boolean }): Reshaped {
  let parts: Solid[] = [];
  for (const triangle of triangles) {
    const [a, b, c] = triangle.map((p) => sub(p, middle));
    const size = dot(a, cross(b, c)) / 6;
    if (size < -1e-6) return { reason: 'Part of it would turn inside out. Move it less far.' };
    if (size < 1e-3) continue;
    const part = hullSolid([...triangle, middle], solid.faces);
    if (part) parts.push({ ...part, ...details });
  }
  for (let merged = true; merged;) {
    merged = false;
    for (let i = 0; i < parts.length && !merged; i++) {
      for (let j = i + 1; j < parts.length && !merged; j++) {
        const both = mergeSolids([parts[i], parts[j]]);
        if (typeof both === 'string') continue;
        parts = [...parts.filter((_, k) => k !== i && k !== j), both];
        merged = true;
      }
    }
  }
  const total = parts.reduce((sum, part) => sum + solidVolume(part), 0);
  if (parts.length === 0 || Math.abs(total - volume) > Math.max(0.1, volume * 1e-4)) return { reason: 'It cannot be split into convex parts there.' };
  return { solids: parts };
}
