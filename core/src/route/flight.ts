/** A jump: the flight from a take-off to the ground, without air (s = s₀ + v t − g t² / 2), and what its landing is like. */

import type { GameMap } from '../document/schema.ts';
import { dot, type Vec3 } from '../math/vec3.ts';
import { groundBelow, groundsOf } from '../terrain/ground.ts';

export interface TakeOff {
  at: Vec3;
  /** Units per second, along the ground's slope. */
  speed: number;
  /** Radians: where it leads from +x, and how far above the horizon. */
  heading: number;
  pitch: number;
}

export interface Flight {
  /** Places, from the take-off to the landing. */
  path: Vec3[];
  /** Null where it never comes down on ground. */
  landing: Vec3 | null;
  seconds: number;
  /** Level distance, and highest above the straight line down to the landing's height, units. */
  distance: number;
  height: number;
  /** Degrees between the way and the ground where it comes down; 0 is along it. */
  angle: number;
  /** Speed into the ground, units per second. */
  into: number;
  /** What the landing weighs, in g, if the rider's knees and runners give way by so much: v² / 2 s g. */
  g: number;
}

/** Seconds between places, longest flight, and how far knees and runners give, in metres (from memory; a matter of taste). */
const STEP = 1 / 60;
const LONGEST = 20;
const GIVES = 0.5;

/** @param gravity units per second squared; @param metres per unit */
export function fly(map: Pick<GameMap, 'terrains' | 'tiles'>, from: TakeOff, gravity: number, metres: number): Flight {
  const grounds = groundsOf(map);
  const level = from.speed * Math.cos(from.pitch);
  const velocity: Vec3 = [level * Math.cos(from.heading), level * Math.sin(from.heading), from.speed * Math.sin(from.pitch)];
  const at = (t: number): Vec3 => [from.at[0] + velocity[0] * t, from.at[1] + velocity[1] * t, from.at[2] + velocity[2] * t - 0.5 * gravity * t * t];
  const over = (t: number): number | null => {
    const p = at(t);
    const ground = groundBelow(grounds, p[0], p[1]);
    return ground && p[2] - ground.height;
  };
  const path: Vec3[] = [from.at];
  for (let t = STEP; t <= LONGEST; t += STEP) {
    const above = over(t);
    if (above === null) return { path, landing: null, seconds: t, distance: level * t, height: 0, angle: 0, into: 0, g: 0 };
    if (above > 0 || t < 3 * STEP) {
      path.push(at(t));
      continue;
    }
    let [low, high] = [t - STEP, t];
    for (let n = 0; n < 30; n++) {
      const middle = (low + high) / 2;
      if ((over(middle) ?? 0) > 0) low = middle;
      else high = middle;
    }
    const landing = at(low);
    path.push(landing);
    const normal = groundBelow(grounds, landing[0], landing[1])!.ground.normalAt(landing[0], landing[1]);
    const way: Vec3 = [velocity[0], velocity[1], velocity[2] - gravity * low];
    const into = Math.max(0, -dot(way, normal));
    const speed = Math.hypot(...way);
    return {
      path,
      landing,
      seconds: low,
      distance: level * low,
      height: path.reduce((top, p) => Math.max(top, p[2]), landing[2]) - landing[2],
      angle: (Math.asin(Math.min(1, into / (speed || 1))) * 180) / Math.PI,
      into,
      g: (into * metres) ** 2 / (2 * GIVES) / (gravity * metres),
    };
  }
  return { path, landing: null, seconds: LONGEST, distance: level * LONGEST, height: 0, angle: 0, into: 0, g: 0 };
}

/** The speed that a take-off needs to come down at a level distance and height from it; null where no speed does. */
export function speedFor(pitch: number, distance: number, drop: number, gravity: number): number | null {
  // distance = v cos p t, −drop = v sin p t − g t²/2  ⇒  v² = g d² / (2 cos² p (d tan p + drop)).
  const under = distance * Math.tan(pitch) + drop;
  return under <= 0 ? null : Math.sqrt((gravity * distance * distance) / (2 * Math.cos(pitch) ** 2 * under));
}

/** Where a flight that takes off there comes down at a level distance, and the speed that it needs for it; null where none does. */
export function landingAt(
  map: Pick<GameMap, 'terrains' | 'tiles'>,
  { at, heading, pitch }: Omit<TakeOff, 'speed'>,
  distance: number,
  gravity: number,
): { landing: Vec3; speed: number } | null {
  const [x, y] = [at[0] + Math.cos(heading) * distance, at[1] + Math.sin(heading) * distance];
  const height = groundBelow(groundsOf(map), x, y)?.height;
  if (height === undefined || distance <= 0) return null;
  const speed = speedFor(pitch, distance, at[2] - height, gravity);
  return speed === null ? null : { landing: [x, y, height], speed };
}
