import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Intent } from '@violet-crate/core/trial/move';
import { TIME_STEP } from '@violet-crate/core/trial/world';

/** Radians per second that the arrow keys turn. */
const TURN_SPEED = 2.2;

/** What the held keys mean: a wanted direction in map space, and a turn in radians per second. */
export function readIntent(keys: ReadonlySet<string>, yaw: number, pitch: number, flying: boolean): { intent: Intent; turn: number } {
  const axis = (plus: string[], minus: string[]) => Number(plus.some((k) => keys.has(k))) - Number(minus.some((k) => keys.has(k)));
  const forward = axis(['w', 'ArrowUp'], ['s', 'ArrowDown']);
  const right = axis(['d'], ['a']);
  const turn = axis(['ArrowLeft'], ['ArrowRight']) * TURN_SPEED;
  const level = flying ? Math.cos(pitch) : 1;
  const move: Vec3 = [
    Math.cos(yaw) * forward * level + Math.sin(yaw) * right,
    Math.sin(yaw) * forward * level - Math.cos(yaw) * right,
    flying ? Math.sin(pitch) * forward + Number(keys.has(' ')) : 0,
  ];
  const size = Math.hypot(...move);
  if (size > 1) for (let i = 0; i < 3; i++) move[i] /= size;
  return { intent: { move, run: keys.has('Shift'), jump: keys.has(' ') && !flying, crouch: keys.has('c') && !flying }, turn };
}

/** The same while riding: keys are about where the vehicle heads, and the arrows steer too. */
export function readRide(keys: ReadonlySet<string>, heading: number): Intent {
  const held = (...names: string[]) => Number(names.some((key) => keys.has(key)));
  const forward = held('w', 'ArrowUp') - held('s', 'ArrowDown');
  const left = held('a', 'ArrowLeft') - held('d', 'ArrowRight');
  const [c, s] = [Math.cos(heading), Math.sin(heading)];
  return { move: [c * forward - s * left, s * forward + c * left, 0], run: false, jump: false, crouch: keys.has('c') };
}

/** The unit vector of where one looks; angles in radians, yaw about z from x, pitch above the horizon. */
export function lookDirection({ yaw, pitch }: { yaw: number; pitch: number }): Vec3 {
  return [Math.cos(yaw) * Math.cos(pitch), Math.sin(yaw) * Math.cos(pitch), Math.sin(pitch)];
}

/** Radians per second that a demonstration turns at most. */
const GUIDED_TURN = 3;

/** Turns for one step, the short way round. */
export function turnTowards(from: number, to: number): number {
  const difference = Math.atan2(Math.sin(to - from), Math.cos(to - from));
  const most = GUIDED_TURN * TIME_STEP;
  return from + Math.max(-most, Math.min(most, difference));
}
