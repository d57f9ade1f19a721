/** Measuring, and what the player can do: from the profile's size, speed, jump and gravity. */

import { cross, distance, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';

export interface Measure {
  distance: number;
  /** Parts along the axes. */
  along: Vec3;
  /** Horizontal part. */
  level: number;
  /** Degrees over the horizon from the first point to the second. */
  slope: number;
}

export function measureDistance(a: Vec3, b: Vec3): Measure {
  const along = sub(b, a);
  const level = Math.hypot(along[0], along[1]);
  return { distance: distance(a, b), along, level, slope: (Math.atan2(along[2], level) * 180) / Math.PI };
}

/** Angle at `corner` between the ways to `a` and `b`, in degrees. */
export function measureAngle(a: Vec3, corner: Vec3, b: Vec3): number {
  const [u, v] = [normalise(sub(a, corner)), normalise(sub(b, corner))];
  return (Math.atan2(length(cross(u, v)), dot(u, v)) * 180) / Math.PI;
}

/** Area within a ring of points in space: half the length of the sum of cross products. */
export function measureArea(points: readonly Vec3[]): number {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 1; i + 1 < points.length; i++) {
    const part = cross(sub(points[i], points[0]), sub(points[i + 1], points[0]));
    for (let axis = 0; axis < 3; axis++) sum[axis] += part[axis];
  }
  return length(sum) / 2;
}

type Player = Profile['player'];

/** How high the feet come in a jump: v² / 2g. */
export const jumpHeight = (player: Player): number => player.jumpSpeed ** 2 / (2 * player.gravity);

/**
 * How far a running jump carries to a landing `rise` above the take-off (below when negative), or null where it
 * is too high: run speed × time of flight, t = (v + √(v² - 2 g rise)) / g, the later root of projectile motion.
 */
export function jumpReach(player: Pick<Player, 'runSpeed' | 'jumpSpeed' | 'gravity'>, rise: number): number | null {
  const under = player.jumpSpeed ** 2 - 2 * player.gravity * rise;
  return under < 0 ? null : (player.runSpeed * (player.jumpSpeed + Math.sqrt(under))) / player.gravity;
}

export interface Ability {
  what: 'step' | 'jump up' | 'jump across' | 'fit through';
  can: boolean;
  says: string;
}

/** What the player can do between two points: step or jump up, jump across, or fit through a gap that wide. */
export function playerCan(player: Player, a: Vec3, b: Vec3): Ability[] {
  const { along, level } = measureDistance(a, b);
  const rise = along[2];
  const round = (v: number) => Math.round(v * 10) / 10;
  const high = jumpHeight(player);
  // Two radii of the player hang over the edges: the feet need not cross all of the gap.
  const reach = jumpReach(player, rise);
  const needed = Math.max(0, level - player.radius * 2);
  return [
    { what: 'step', can: Math.abs(rise) <= player.stepHeight, says: `${round(Math.abs(rise))} high; steps reach ${round(player.stepHeight)}` },
    { what: 'jump up', can: rise <= high, says: `${round(Math.max(0, rise))} up; jumps reach ${round(high)}` },
    {
      what: 'jump across',
      can: reach !== null && needed <= reach,
      says: reach === null ? 'the landing is too high' : `${round(level)} wide; a running jump carries ${round(reach + player.radius * 2)}`,
    },
    {
      what: 'fit through',
      can: level === 0 ? Math.abs(rise) >= player.height : level >= player.radius * 2,
      says:
        level === 0
          ? `${round(Math.abs(rise))} of headroom; the player is ${player.height} tall`
          : `${round(level)} wide; the player is ${round(player.radius * 2)}`,
    },
  ];
}
