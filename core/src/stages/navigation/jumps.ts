/** Places where a player gets from one walkable area to another by a jump or a drop, from the profile's movement. */

import { raySolid } from '../../solid/ray.ts';
import { jumpReach } from '../../map/measure.ts';
import type { Solid } from '../../document/schema.ts';
import { boxOfPoints, type Box3 } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { shapeOf } from '../../solid/shape.ts';
import { areasOf, type Navmesh, type NavigationPlayer } from './navmesh.ts';

export interface JumpLink {
  from: Vec3;
  to: Vec3;
  /** Areas of both ends, as `areasOf` numbers them. */
  fromArea: number;
  toArea: number;
}

/** Deepest drop that is looked at, in heights of the player. Deeper ones are no way that a map means. */
const DEEPEST = 6;
/** Between two areas so many links are kept: the shortest, apart from each other. */
const PER_PAIR = 3;

interface Rim {
  at: Vec3;
  area: number;
}

export function jumpLinks(mesh: Navmesh, player: NavigationPlayer, solids: readonly Solid[]): JumpLink[] {
  const areas = areasOf(mesh.polygons);
  const rims: Rim[] = [];
  mesh.polygons.forEach(({ corners, neighbours }, i) =>
    corners.forEach((corner, k) => {
      if (neighbours[k] >= 0) return;
      const [a, b] = [mesh.vertices[corner], mesh.vertices[corners[(k + 1) % corners.length]]];
      const steps = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / (player.radius * 3)));
      for (let s = 0; s <= steps; s++) rims.push({ at: [0, 1, 2].map((n) => a[n] + ((b[n] - a[n]) * s) / steps) as Vec3, area: areas[i] });
    }),
  );
  const farthest = jumpReach(player, -DEEPEST * player.height) ?? 0;
  const grid = new Map<string, Rim[]>();
  const cell = Math.max(farthest, 1);
  const key = (x: number, y: number) => `${Math.floor(x / cell)}/${Math.floor(y / cell)}`;
  for (const rim of rims) {
    const list = grid.get(key(rim.at[0], rim.at[1]));
    if (list) list.push(rim);
    else grid.set(key(rim.at[0], rim.at[1]), [rim]);
  }
  const found = new Map<string, { link: JumpLink; away: number }[]>();
  for (const { at, area } of rims) {
    for (let dx = -1; dx <= 1; dx++)
      for (let dy = -1; dy <= 1; dy++)
        for (const other of grid.get(key(at[0] + dx * cell, at[1] + dy * cell)) ?? []) {
          if (other.area === area) continue;
          const rise = other.at[2] - at[2];
          if (rise < -DEEPEST * player.height) continue;
          const reach = jumpReach(player, rise);
          const away = Math.hypot(other.at[0] - at[0], other.at[1] - at[1]);
          // The navmesh ends a radius before every rim; so much is walked on both sides and not jumped.
          if (reach === null || away - 2 * player.radius > reach) continue;
          const pair = `${area}>${other.area}`;
          const list = found.get(pair) ?? [];
          if (list.length >= 64 && away >= list[list.length - 1].away) continue;
          list.push({ link: { from: at, to: other.at, fromArea: area, toArea: other.area }, away: away + Math.abs(rise) });
          list.sort((p, q) => p.away - q.away);
          found.set(pair, list.slice(0, 64));
        }
  }
  const boxes = solids.map((solid) => shapeOf(solid).box);
  return [...found.values()].flatMap((list) => {
    const kept: JumpLink[] = [];
    for (const { link } of list) {
      if (kept.length >= PER_PAIR) break;
      if (kept.some((k) => Math.hypot(k.from[0] - link.from[0], k.from[1] - link.from[1]) < player.radius * 6)) continue;
      if (flightIsFree(link, player, solids, boxes)) kept.push(link);
    }
    return kept;
  });
}

/** Whether nothing stands in the way of feet, middle and head along the parabola of a jump. */
function flightIsFree({ from, to }: JumpLink, player: NavigationPlayer, solids: readonly Solid[], boxes: readonly Box3[]): boolean {
  const up = player.jumpSpeed ** 2 / (2 * player.gravity);
  // Over the higher end by what the jump leaves, at most by its whole height.
  const top = Math.max(from[2] + 1, Math.min(from[2] + up, Math.max(from[2], to[2]) + player.stepHeight));
  const middle: Vec3 = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2, Math.max(top, to[2] + 1)];
  for (const lift of [1, player.height / 2, player.height - 1]) {
    for (const [a, b] of [
      [from, middle],
      [middle, to],
    ]) {
      const origin: Vec3 = [a[0], a[1], a[2] + lift];
      const direction: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
      const way = boxOfPoints([origin, [b[0], b[1], b[2] + lift]]);
      for (let i = 0; i < solids.length; i++) {
        const { min, max } = boxes[i];
        if ([0, 1, 2].some((k) => min[k] > way.max[k] || max[k] < way.min[k])) continue;
        const hit = raySolid(solids[i], origin, direction);
        if (hit && hit.t > 0 && hit.t < 1) return false;
      }
    }
  }
  return true;
}
