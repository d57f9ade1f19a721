/**
 * The walkable floor of a map as convex polygons, made by Recast from the triangles of all that stops players.
 * Recast works with y up; everything here is handed out in map space, units.
 */

import { exportNavMesh, init, type NavMesh } from '@recast-navigation/core';
import { generateSoloNavMesh } from '@recast-navigation/generators';
import type { Vec3 } from '../../math/vec3.ts';
import { slopeOf } from '../../profile/player.ts';
import type { Profile } from '../../profile/schema.ts';

export interface Navmesh {
  vertices: Vec3[];
  polygons: NavPolygon[];
  /** The same as Detour stores it, y up, units. */
  detour: Uint8Array;
}

export interface NavPolygon {
  /** Indices of its corners, and beyond each edge (from that corner to the next) the polygon there, or -1. */
  corners: number[];
  neighbours: number[];
}

/** Recast's settings for a player, in cells where Recast counts cells. */
/** What navigation reads of the game's player. */
export const NAVIGATION_PLAYER = ['height', 'radius', 'stepHeight', 'runSpeed', 'jumpSpeed', 'gravity', 'maxSlope'] as const;
export type NavigationPlayer = Pick<Profile['player'], (typeof NAVIGATION_PLAYER)[number]>;

export function recastConfig(player: NavigationPlayer, cell: number) {
  const ch = Math.max(0.5, player.stepHeight / 4);
  return {
    cs: cell,
    ch,
    walkableSlopeAngle: slopeOf(player),
    walkableHeight: Math.ceil(player.height / ch),
    walkableClimb: Math.floor(player.stepHeight / ch),
    walkableRadius: Math.ceil(player.radius / cell),
    maxEdgeLen: Math.round((player.radius * 16) / cell),
    maxSimplificationError: 1.3,
    // Floors smaller than four times the player's own are not worth walking on.
    minRegionArea: Math.ceil((4 * player.radius) ** 2 / cell ** 2 / 4),
    mergeRegionArea: Math.ceil((8 * player.radius) ** 2 / cell ** 2 / 4),
    maxVertsPerPoly: 6,
    detailSampleDist: 6,
    detailSampleMaxError: 1,
  };
}

export const toRecast = (p: Vec3): Vec3 => [p[0], p[2], 0 - p[1]];
const fromRecast = (x: number, y: number, z: number): Vec3 => [x, 0 - z, y];

/**
 * @param triangles nine numbers each, map space
 * @throws Error where Recast fails on a map that has floors
 */
export async function buildNavmesh(triangles: ArrayLike<number>, player: NavigationPlayer, cell: number): Promise<Navmesh> {
  await init();
  const positions = new Float32Array(triangles.length);
  for (let i = 0; i < triangles.length; i += 3) positions.set(toRecast([triangles[i], triangles[i + 1], triangles[i + 2]]), i);
  const indices = Uint32Array.from({ length: positions.length / 3 }, (_, i) => i);
  if (indices.length === 0) return { vertices: [], polygons: [], detour: new Uint8Array(0) };
  const result = generateSoloNavMesh(positions, indices, recastConfig(player, cell));
  if (!result.success) {
    // Without any floor there is nothing to make a mesh of.
    if (/poly|vert|data/i.test(result.error)) return { vertices: [], polygons: [], detour: new Uint8Array(0) };
    throw new Error(`Recast could not make a navmesh: ${result.error}`);
  }
  const mesh = polygonsOf(result.navMesh);
  const detour = exportNavMesh(result.navMesh).slice();
  result.navMesh.destroy();
  return { ...mesh, detour };
}

function polygonsOf(navMesh: NavMesh): Pick<Navmesh, 'vertices' | 'polygons'> {
  const tile = navMesh.getTile(0);
  const header = tile.header();
  if (!header) return { vertices: [], polygons: [] };
  const vertices = Array.from({ length: header.vertCount() }, (_, i) => fromRecast(tile.verts(i * 3), tile.verts(i * 3 + 1), tile.verts(i * 3 + 2)));
  const polygons = Array.from({ length: header.polyCount() }, (_, i): NavPolygon => {
    const poly = tile.polys(i);
    const count = poly.vertCount();
    return {
      corners: Array.from({ length: count }, (_, k) => poly.verts(k)),
      // 0 is a wall; the others count from 1.
      neighbours: Array.from({ length: count }, (_, k) => poly.neis(k) - 1),
    };
  });
  return { vertices, polygons };
}

/** Number of the connected area of every polygon, from 0 in the order of first polygons. */
export function areasOf(polygons: readonly NavPolygon[]): number[] {
  const area = new Array<number>(polygons.length).fill(-1);
  let next = 0;
  polygons.forEach((_, first) => {
    if (area[first] >= 0) return;
    const queue = [first];
    area[first] = next;
    for (let at = queue.pop(); at !== undefined; at = queue.pop())
      for (const other of polygons[at].neighbours)
        if (other >= 0 && area[other] < 0) {
          area[other] = next;
          queue.push(other);
        }
    next++;
  });
  return area;
}

/** The nearest point of a polygon, seen from above; its height is the polygon's there. */
export function nearestOnPolygon({ vertices }: Pick<Navmesh, 'vertices'>, { corners }: NavPolygon, p: Vec3): Vec3 {
  const points = corners.map((c) => vertices[c]);
  const inside = points.every((a, i) => {
    const b = points[(i + 1) % points.length];
    return turn(a, b, p) * turn(points[0], points[1], points[2]) >= -1e-6;
  });
  if (inside) return [p[0], p[1], heightAt(points, p)];
  let best = points[0];
  let nearest = Infinity;
  points.forEach((a, i) => {
    const b = points[(i + 1) % points.length];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const t = Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
    const q: Vec3 = [a[0] + dx * t, a[1] + dy * t, a[2] + (b[2] - a[2]) * t];
    const away = Math.hypot(q[0] - p[0], q[1] - p[1]);
    if (away < nearest) [best, nearest] = [q, away];
  });
  return best;
}

const turn = (a: Vec3, b: Vec3, p: Vec3): number => (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]);

/** Height of a nearly flat polygon over a point, from the plane of its first three corners. */
function heightAt([a, b, c]: readonly Vec3[], p: Vec3): number {
  const area = turn(a, b, c);
  if (Math.abs(area) < 1e-9) return a[2];
  const v = turn(a, p, c) / area;
  const w = turn(a, b, p) / area;
  return a[2] + (b[2] - a[2]) * v + (c[2] - a[2]) * w;
}
