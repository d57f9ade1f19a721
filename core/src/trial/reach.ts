/** Which of several things a player can take hold of: near enough, ahead, and not behind something else. */

import type { Box3 } from '../math/box3.ts';
import { distance, dot, length, lerp, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { sweepBox, type Obstacle } from './collide.ts';

/** Cosine of the angle about the line of sight within which things count as ahead. */
const AHEAD = 0.8;
/** Half the side of the box that is sent from the eye to see whether anything is between. */
const GAZE = 0.01;

export interface Reachable {
  id: string;
  box: Box3;
  position: Vec3;
}

/**
 * The thing that is meant by looking along `direction`, nearest and straightest ahead; null where none is in reach.
 *
 * @param reach in units
 */
export function reachedAhead<T extends Reachable>(
  things: readonly T[],
  eye: Vec3,
  direction: Vec3,
  reach: number,
  obstacles: readonly Obstacle[],
): T | null {
  const ahead = normalise(direction);
  let best: T | null = null;
  let bestScore = Infinity;
  for (const thing of things) {
    const { box, position } = thing;
    const far = Math.min(reach, distance(eye, position));
    const target = [0, 1, 2].map((a) => Math.min(box.max[a], Math.max(box.min[a], eye[a] + ahead[a] * far))) as Vec3;
    const to = sub(target, eye);
    const away = length(to);
    // What lies deeper than the reach is looked at just there, and rounding must not put it beyond.
    if (away > reach + 1e-6) continue;
    const facing = away < 1e-6 ? 1 : dot(normalise(to), ahead);
    if (facing < AHEAD) continue;
    const score = away * (2 - facing);
    if (score >= bestScore || !seen(obstacles, eye, target, thing.id)) continue;
    bestScore = score;
    best = thing;
  }
  return best;
}

/** Whether nothing but the thing itself is between. */
function seen(obstacles: readonly Obstacle[], from: Vec3, to: Vec3, self: string): boolean {
  const others = obstacles.filter((o) => o.id !== self);
  return sweepBox(others, from, [GAZE, GAZE, GAZE], sub(lerp(from, to, 0.98), from)).fraction >= 1;
}
