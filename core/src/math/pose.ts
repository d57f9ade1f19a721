/** Where a thing has gone: turned about a point, then moved. Right-handed; quaternions are x, y, z, w of length 1. */

import { add, cross, normalise, sub, type Vec3 } from './vec3.ts';

export type Quat = [number, number, number, number];

export interface Pose {
  /** How far its origin has moved, in units. */
  offset: Vec3;
  /** How it has turned about its origin. */
  turn: Quat;
}

export const NO_TURN: Quat = [0, 0, 0, 1];
export const AT_REST: Pose = { offset: [0, 0, 0], turn: NO_TURN };

export const isTurned = ({ turn }: Pose): boolean => turn[0] !== 0 || turn[1] !== 0 || turn[2] !== 0;
export const isAtRest = (pose: Pose): boolean => !isTurned(pose) && pose.offset.every((v) => v === 0);

/** A turn about an axis of any length but 0, counter-clockwise seen from where it points. */
export function turnAbout(axis: Vec3, degrees: number): Quat {
  const half = (degrees * Math.PI) / 360;
  const [x, y, z] = normalise(axis);
  const s = Math.sin(half);
  return [x * s, y * s, z * s, Math.cos(half)];
}

/** v' = v + 2 w (q × v) + 2 q × (q × v). */
export function turnVector([x, y, z, w]: Quat, v: Vec3): Vec3 {
  const q: Vec3 = [x, y, z];
  const t = cross(q, v).map((c) => 2 * c) as Vec3;
  return add(add(v, [w * t[0], w * t[1], w * t[2]]), cross(q, t));
}

/** First `b`, then `a` (the Hamilton product). */
export const composeTurns = ([ax, ay, az, aw]: Quat, [bx, by, bz, bw]: Quat): Quat => [
  aw * bx + ax * bw + ay * bz - az * by,
  aw * by - ax * bz + ay * bw + az * bx,
  aw * bz + ax * by - ay * bx + az * bw,
  aw * bw - ax * bx - ay * by - az * bz,
];

/** Where a point of the resting thing is now, `origin` being where its origin rests. */
export const posePoint = ({ offset, turn }: Pose, origin: Vec3, point: Vec3): Vec3 => add(add(origin, offset), turnVector(turn, sub(point, origin)));
