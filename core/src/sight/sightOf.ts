/** What somebody in a map sees, and what the game has them see: the two differ where it does not ask for walls. */

import type { CrateWorld } from '../crate/world.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import { surfaceBelow, type Collider } from '../map/member/collider.ts';
import { collidersOf } from '../map/member/members.ts';
import { hasPart } from '../profile/parts.ts';
import { raySolid, rayBox } from '../solid/ray.ts';
import { isWithin, visiblePolygon, type Point2, type Segment } from './visible.ts';
import { wallsAt } from './slice.ts';

export interface Sight {
  from: Point2;
  /** Height of the eyes in the map. */
  z: number;
  /** Radius by the game’s rule, in units, and where one looks, radians. */
  radius: number;
  angle: number;
  /** Radians; a whole turn for all around. */
  width: number;
  /** Outline of what is really seen. */
  seen: Point2[];
}

/** Steps that somebody sees; 0 for who does not look. */
export const stepsOf = ({ properties }: Pick<MapObject, 'properties'>): number => (typeof properties.sight === 'number' ? properties.sight : 0);

/** Null for what is nobody, and where the game has no sight. */
export function sightOf(world: CrateWorld, map: GameMap, object: MapObject, walls?: readonly Segment[]): Sight | null {
  const { sight } = world.profile;
  const steps = stepsOf(object);
  if (!sight || steps <= 0 || !hasPart(world.profile, object.class, 'actor')) return null;
  const from: Point2 = [object.position[0], object.position[1]];
  const z = object.position[2] + sight.height;
  const radius = steps * sight.step;
  const cone = typeof object.properties.cone === 'number' && object.properties.cone > 0 ? object.properties.cone : 360;
  const [angle, width] = [(object.turn * Math.PI) / 180, (Math.min(360, cone) * Math.PI) / 180];
  const reach = { min: [from[0] - radius, from[1] - radius, 0], max: [from[0] + radius, from[1] + radius, 0] } as const;
  const around = walls ?? wallsAt(world, map, z, { min: [...reach.min], max: [...reach.max] });
  return { from, z, radius, angle, width, seen: visiblePolygon(around, { from, radius, towards: { angle, width } }) };
}

/** A place that the game has somebody see although something is between. */
export interface SeenThrough {
  at: Point2;
  away: number;
}

/**
 * Places that a player can be at and that are within the game's radius, but behind something. Looked for on a grid of a
 * player's radius; nearest first.
 */
export function seenThrough(world: CrateWorld, map: GameMap, object: MapObject, sight: Sight): SeenThrough[] {
  const { player } = world.profile;
  const colliders = collidersOf(map).filter(({ box }) => box.max[0] >= sight.from[0] - sight.radius && box.min[0] <= sight.from[0] + sight.radius);
  const found: SeenThrough[] = [];
  const step = player.radius;
  const count = Math.ceil(sight.radius / step);
  for (let i = -count; i <= count; i++)
    for (let j = -count; j <= count; j++) {
      const at: Point2 = [sight.from[0] + i * step, sight.from[1] + j * step];
      const away = Math.hypot(at[0] - sight.from[0], at[1] - sight.from[1]);
      // The rim of the outline has sides: what is beyond it by a hair is not behind anything.
      if (away === 0 || away > sight.radius * 0.998 || !looksThere(sight, at) || isWithin(sight.seen, at)) continue;
      if (canStand(colliders, [...at, object.position[2]], player)) found.push({ at, away });
    }
  return found.sort((a, b) => a.away - b.away);
}

function looksThere({ from, angle, width }: Sight, [x, y]: Point2): boolean {
  const off = Math.abs(((((Math.atan2(y - from[1], x - from[0]) - angle) % (Math.PI * 2)) + Math.PI * 3) % (Math.PI * 2)) - Math.PI);
  return off <= width / 2;
}

/** Whether a player can stand near a level: a floor within a step and head room over it. */
function canStand(colliders: readonly Collider[], [x, y, z]: [number, number, number], player: { height: number; stepHeight: number }): boolean {
  const here = colliders.filter(({ box }) => box.min[0] <= x && box.max[0] >= x && box.min[1] <= y && box.max[1] >= y);
  const floor = surfaceBelow(here, [x, y, z + player.stepHeight * 1.01]);
  if (floor === null || floor < z - player.stepHeight) return false;
  // Nothing from a little above the floor up to the head.
  const from: [number, number, number] = [x, y, floor + player.stepHeight * 0.1];
  return !here.some((one) => {
    if (one.box.max[2] <= from[2] || one.box.min[2] >= floor + player.height) return false;
    const inside = one.solid.faces.every(({ normal, distance }) => normal[0] * from[0] + normal[1] * from[1] + normal[2] * from[2] <= distance);
    if (inside) return true;
    const hit = rayBox(one.box, from, [0, 0, 1]) < player.height ? raySolid(one.solid, from, [0, 0, 1]) : null;
    return hit !== null && hit.t < player.height;
  });
}

/** Most steps from which nothing behind anything is seen; 0 where one step is too many. */
export function safeSteps(world: CrateWorld, places: readonly SeenThrough[], steps: number): number {
  const { step } = world.profile.sight!;
  const [nearest] = places;
  return nearest ? Math.max(0, Math.min(steps, Math.ceil(nearest.away / step) - 1)) : steps;
}
