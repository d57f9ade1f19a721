/** The shape that players and physics meet: none, box, convex hull, several convex parts, or the mesh itself. */

import { MeshoptSimplifier } from 'meshoptimizer';
import { boundsOf, cone, isClosed, volumeOf, type Surface } from './surface.ts';
import { convexHull, type Hull } from './hull.ts';
import { TIMBER, type ModelOptions } from '../model/options.ts';

export interface CollisionShape {
  kind: ModelOptions['collision'];
  /** Convex bodies, or the mesh itself for "exact". Metres, y up. */
  bodies: Hull[];
  /** Cubic metres of all bodies. */
  volume: number;
  /** Cubic metres that the mesh encloses, null where it is not closed. */
  meshVolume: number | null;
  /** Kilograms. */
  mass: number;
}

/** Triangles above this are simplified while cuts are sought; the chosen ones are made on the full model. */
const ENOUGH = 500;
/** A split has to save at least this share of the whole hull. */
const WORTH = 0.02;
const CUTS = 7;

export async function collisionShape(
  surface: Surface,
  options: Pick<ModelOptions, 'collision' | 'collisionParts' | 'mass'>,
): Promise<CollisionShape | null> {
  if (options.collision === 'none') return null;
  const closed = isClosed(surface);
  const bodies = await bodiesOf(surface, options);
  if (bodies.length === 0) return null;
  const volume = bodies.reduce((sum, body) => sum + Math.abs(volumeOf(body.positions, body.indices)), 0);
  const meshVolume = closed ? volumeOf(surface.positions, surface.indices) : null;
  const mass = options.mass > 0 ? options.mass : (meshVolume && meshVolume > 0 ? meshVolume : volume) * TIMBER;
  return { kind: options.collision, bodies, volume, meshVolume, mass };
}

async function bodiesOf(surface: Surface, options: Pick<ModelOptions, 'collision' | 'collisionParts'>): Promise<Hull[]> {
  if (options.collision === 'exact') return [{ positions: surface.positions, indices: surface.indices }];
  if (options.collision === 'box') return [boxBody(surface.positions)];
  const whole = convexHull(distinctPoints(surface)) ?? boxBody(surface.positions);
  return options.collision === 'hull' ? [whole] : await convexParts(surface, whole, options.collisionParts);
}

/** Every place of the surface once. */
function distinctPoints({ positions, indices, corners }: Surface): Float32Array {
  const seen = new Uint8Array(positions.length / 3);
  const out = new Float32Array(positions.length);
  let at = 0;
  for (let i = 0; i < corners.length; i++) {
    if (seen[corners[i]]) continue;
    seen[corners[i]] = 1;
    const from = indices[i] * 3;
    out[at++] = positions[from];
    out[at++] = positions[from + 1];
    out[at++] = positions[from + 2];
  }
  return out.slice(0, at);
}

/** The bounding box as a body, given a little thickness where the model is flat. */
function boxBody(positions: Float32Array): Hull {
  const { min, max } = boundsOf(positions);
  const least = Math.max(1e-3, 1e-3 * Math.max(...max.map((v, axis) => v - min[axis])));
  const lo = min.map((v, axis) => (max[axis] - v < least ? v - least / 2 : v));
  const hi = max.map((v, axis) => (v - min[axis] < least ? v + least / 2 : v));
  const corners = Float32Array.from({ length: 24 }, (_, i) => ((Math.floor(i / 3) >> (i % 3)) & 1 ? hi : lo)[i % 3]);
  return convexHull(corners)!;
}

interface Region {
  min: number[];
  max: number[];
  volume: number;
}

/**
 * Cuts the model along axis-parallel planes, always where that saves most volume of hull, until no cut is
 * worth it or there are enough parts. The hull of a region is that of the surface clipped to it and of the
 * region's corners that lie inside a closed model.
 */
async function convexParts(surface: Surface, whole: Hull, most: number): Promise<Hull[]> {
  const mesh = await lighter(surface);
  const solid = isClosed(surface);
  const insides = new Map<string, boolean>();
  const inside = (p: number[]): boolean => {
    const key = p.join();
    let known = insides.get(key);
    if (known === undefined) insides.set(key, (known = Math.abs(windingNumber(mesh, p)) > 0.5));
    return known;
  };
  const hullOf = (source: Pick<Surface, 'positions' | 'indices'>, lo: number[], hi: number[]): Hull | null => {
    const points = clippedPoints(source, lo, hi);
    for (let corner = 0; solid && corner < 8; corner++) {
      const p = [0, 1, 2].map((axis) => ((corner >> axis) & 1 ? hi : lo)[axis]);
      if (inside(p)) points.push(...p);
    }
    return convexHull(Float32Array.from(points));
  };
  const region = (lo: number[], hi: number[]): Region | null => {
    const hull = hullOf(mesh, lo, hi);
    return hull && { min: lo, max: hi, volume: Math.abs(volumeOf(hull.positions, hull.indices)) };
  };
  const { min, max } = boundsOf(surface.positions);
  const wholeVolume = Math.abs(volumeOf(whole.positions, whole.indices));
  const regions: Region[] = [{ min: [...min], max: [...max], volume: wholeVolume }];
  const settled = new Set<Region>();
  while (regions.length < most) {
    const next = regions.filter((r) => !settled.has(r)).sort((a, b) => b.volume - a.volume)[0];
    if (!next) break;
    let best: { halves: Region[]; saved: number } | null = null;
    for (let axis = 0; axis < 3; axis++) {
      for (let cut = 1; cut <= CUTS; cut++) {
        const at = next.min[axis] + ((next.max[axis] - next.min[axis]) * cut) / (CUTS + 1);
        const sides = [
          [next.min, next.max.with(axis, at)],
          [next.min.with(axis, at), next.max],
        ];
        const halves = sides.map(([lo, hi]) => region(lo, hi));
        // The simplified model may have lost what the full one still has on that side.
        if (sides.some(([lo, hi], i) => halves[i] === null && clippedPoints(surface, lo, hi).length > 0)) continue;
        const kept = halves.filter((half) => half !== null);
        const saved = next.volume - kept.reduce((sum, half) => sum + half.volume, 0);
        if (kept.length > 0 && (!best || saved > best.saved)) best = { halves: kept, saved };
      }
    }
    if (best && best.saved > WORTH * wholeVolume) regions.splice(regions.indexOf(next), 1, ...best.halves);
    else settled.add(next);
  }
  if (regions.length === 1) return [whole];
  return regions.flatMap((r) => hullOf(surface, r.min, r.max) ?? []);
}

async function lighter(surface: Surface): Promise<Pick<Surface, 'positions' | 'indices'>> {
  // Vertices that only differ in shading are one place; the numbers of the first stand for all.
  const firstOf = new Map<number, number>();
  const indices = surface.indices.map((vertex, i) => {
    const point = surface.corners[i];
    const known = firstOf.get(point);
    if (known !== undefined) return known;
    firstOf.set(point, vertex);
    return vertex;
  });
  if (indices.length / 3 <= ENOUGH) return { positions: surface.positions, indices };
  await MeshoptSimplifier.ready;
  const [simpler] = MeshoptSimplifier.simplify(indices, surface.positions, 3, ENOUGH * 3, 0.02);
  return { positions: surface.positions, indices: simpler };
}

/** Points of the triangles clipped to a box (Sutherland and Hodgman 1974). */
function clippedPoints(mesh: Pick<Surface, 'positions' | 'indices'>, lo: number[], hi: number[]): number[] {
  const points: number[] = [];
  for (let t = 0; t < mesh.indices.length; t += 3) {
    let polygon = [0, 1, 2].map((k) => [0, 1, 2].map((axis) => mesh.positions[mesh.indices[t + k] * 3 + axis]));
    for (let axis = 0; axis < 3 && polygon.length > 0; axis++) {
      polygon = clip(polygon, axis, lo[axis], 1);
      polygon = clip(polygon, axis, hi[axis], -1);
    }
    for (const p of polygon) points.push(...p);
  }
  return points;
}

function clip(polygon: number[][], axis: number, limit: number, side: 1 | -1): number[][] {
  const inside = (p: number[]) => (p[axis] - limit) * side >= 0;
  if (polygon.every(inside)) return polygon;
  const out: number[][] = [];
  polygon.forEach((p, i) => {
    const q = polygon[(i + 1) % polygon.length];
    if (inside(p)) out.push(p);
    if (inside(p) !== inside(q)) {
      const share = (limit - p[axis]) / (q[axis] - p[axis]);
      out.push(p.map((v, k) => (k === axis ? limit : v + (q[k] - v) * share)));
    }
  });
  return out;
}

/** How often the surface winds around a point: 1 inside, 0 outside (solid angles by van Oosterom and Strackee 1983). */
function windingNumber(mesh: Pick<Surface, 'positions' | 'indices'>, p: number[]): number {
  let sum = 0;
  const local = new Float64Array(9);
  for (let t = 0; t < mesh.indices.length; t += 3) {
    for (let k = 0; k < 9; k++) local[k] = mesh.positions[mesh.indices[t + Math.floor(k / 3)] * 3 + (k % 3)] - p[k % 3];
    const size = (i: number) => Math.sqrt(local[i] * local[i] + local[i + 1] * local[i + 1] + local[i + 2] * local[i + 2]);
    const [a, b, c] = [size(0), size(3), size(6)];
    const dot = (i: number, j: number) => local[i] * local[j] + local[i + 1] * local[j + 1] + local[i + 2] * local[j + 2];
    sum += Math.atan2(cone(local, 0, 1, 2), a * b * c + dot(0, 3) * c + dot(3, 6) * a + dot(6, 0) * b);
  }
  return sum / (2 * Math.PI);
}
