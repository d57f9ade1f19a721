/** First-person movement: walking with step height, sliding along walls, jumping, falling, free flight. */

import type { Profile } from '../profile/schema.ts';
import { addScaled, dot, type Vec3 } from '../math/vec3.ts';
import type { Climb } from '../part/part.ts';
import { sweepBox, type Half, type Obstacle } from './collide.ts';

export interface Walker {
  /** Centre of the bottom of the player's box. */
  feet: Vec3;
  velocity: Vec3;
  onGround: boolean;
  /** Holds on to something that is climbed. */
  climbing: boolean;
  flying: boolean;
}

export interface Intent {
  /** Wanted direction in the horizontal plane (and z when flying), at most of length 1. */
  move: Vec3;
  run: boolean;
  jump: boolean;
}

/** What is around the player that changes how they move. */
export interface Surroundings {
  /** Share of the walking speed that is left, as in water. */
  drag?: number;
  /** What can be climbed here. */
  climb?: Climb | null;
}

/** Share of the walking speed at which players climb. */
const CLIMBING = 0.6;

/** Least z of a normal on which a player can stand: slopes up to 45°. */
const STANDABLE = 0.7;

/**
 * One fixed step of `dt` seconds. Falling uses the average of the old and the new speed, which is exact
 * for constant acceleration: s = g t²/2 at every step.
 */
export function stepWalker(
  walker: Walker,
  intent: Intent,
  obstacles: readonly Obstacle[],
  player: Profile['player'],
  dt: number,
  { drag = 1, climb = null }: Surroundings = {},
): void {
  const half: Half = [player.radius, player.radius, player.height / 2];
  const speed = (intent.run ? player.runSpeed : player.walkSpeed) * drag;
  if (walker.flying) {
    walker.velocity = [0, 0, 0];
    walker.onGround = false;
    walker.feet = addScaled(walker.feet, intent.move, player.runSpeed * 1.5 * dt);
    return;
  }
  if (stepClimber(walker, intent, obstacles, half, climb, speed * CLIMBING * dt)) return;
  const centre = (): Vec3 => [walker.feet[0], walker.feet[1], walker.feet[2] + half[2]];
  const setCentre = (c: Vec3) => (walker.feet = [c[0], c[1], c[2] - half[2]]);

  if (walker.onGround && intent.jump) {
    walker.velocity[2] = player.jumpSpeed;
    walker.onGround = false;
  }
  // In the air the wanted direction still steers, but slowly.
  const grip = walker.onGround ? 1 : 1 - Math.exp(-2 * dt);
  walker.velocity[0] += (intent.move[0] * speed - walker.velocity[0]) * grip;
  walker.velocity[1] += (intent.move[1] * speed - walker.velocity[1]) * grip;
  const fallBefore = walker.velocity[2];
  if (!walker.onGround) walker.velocity[2] -= player.gravity * dt;
  const rise = ((fallBefore + walker.velocity[2]) / 2) * dt;

  const flat: Vec3 = [walker.velocity[0] * dt, walker.velocity[1] * dt, 0];
  const wasOnGround = walker.onGround;
  if (flat[0] !== 0 || flat[1] !== 0) {
    const start = centre();
    const slid = slide(obstacles, start, half, flat);
    let best = slid.at;
    if (slid.hit && wasOnGround) {
      const stepped = stepUp(obstacles, start, half, flat, player.stepHeight);
      if (stepped && along(stepped, start, flat) > along(best, start, flat) + 1e-6) best = stepped;
    }
    setCentre(best);
  }

  if (walker.onGround) {
    // Stay on the ground when it falls away by less than a step.
    const down = sweepBox(obstacles, centre(), half, [0, 0, -player.stepHeight]);
    if (down.normal && down.normal[2] >= STANDABLE) setCentre(addScaled(centre(), [0, 0, -1], player.stepHeight * down.fraction));
    else {
      walker.onGround = false;
      walker.velocity[2] = 0;
    }
    return;
  }
  const fall = sweepBox(obstacles, centre(), half, [0, 0, rise]);
  setCentre(addScaled(centre(), [0, 0, rise], fall.fraction));
  if (fall.normal) {
    if (fall.normal[2] >= STANDABLE) walker.onGround = true;
    if (fall.normal[2] > 0 && fall.normal[2] < STANDABLE) setCentre(slide(obstacles, centre(), half, [0, 0, rise * (1 - fall.fraction)]).at);
    walker.velocity[2] = 0;
  }
}

/**
 * One step of a player who holds on: forward to what is climbed is up, backward is down, and either moves along it
 * too, so that whoever has come over its top walks on. A jump lets go. Answers whether that was all of the step.
 */
function stepClimber(walker: Walker, intent: Intent, obstacles: readonly Obstacle[], half: Half, climb: Climb | null, pace: number): boolean {
  const into = climb ? -dot(intent.move, climb.outwards) : 0;
  const was = walker.climbing;
  walker.climbing = climb !== null && !intent.jump && (into > 0 || (was && !(walker.onGround && into < 0)));
  if (!walker.climbing) return false;
  const at: Vec3 = [walker.feet[0], walker.feet[1], walker.feet[2] + half[2]];
  const { at: beside } = slide(obstacles, at, half, [intent.move[0] * pace, intent.move[1] * pace, 0]);
  const rise: Vec3 = [0, 0, into * pace];
  const sweep = sweepBox(obstacles, beside, half, rise);
  walker.feet = addScaled(addScaled(beside, rise, sweep.fraction), [0, 0, -1], half[2]);
  walker.velocity = [0, 0, 0];
  walker.onGround = into < 0 && sweep.normal !== null;
  return true;
}

const along = (to: Vec3, from: Vec3, direction: Vec3): number => (to[0] - from[0]) * direction[0] + (to[1] - from[1]) * direction[1];

/** Moves as far as possible, then on along what was hit, at most four times. */
function slide(obstacles: readonly Obstacle[], start: Vec3, half: Half, motion: Vec3): { at: Vec3; hit: boolean } {
  let at = start;
  let rest = motion;
  let hit = false;
  for (let i = 0; i < 4; i++) {
    const sweep = sweepBox(obstacles, at, half, rest);
    at = addScaled(at, rest, sweep.fraction);
    if (!sweep.normal) break;
    hit = true;
    const remaining: Vec3 = [rest[0] * (1 - sweep.fraction), rest[1] * (1 - sweep.fraction), rest[2] * (1 - sweep.fraction)];
    rest = addScaled(remaining, sweep.normal, -dot(remaining, sweep.normal));
    if (dot(rest, motion) <= 0) break;
  }
  return { at, hit };
}

/** Up by a step, forward, and down again; null where that does not end on standable ground. */
function stepUp(obstacles: readonly Obstacle[], start: Vec3, half: Half, flat: Vec3, height: number): Vec3 | null {
  const up = sweepBox(obstacles, start, half, [0, 0, height]);
  const raised = addScaled(start, [0, 0, height], up.fraction);
  const forward = slide(obstacles, raised, half, flat).at;
  const down = sweepBox(obstacles, forward, half, [0, 0, -height * 1.05]);
  if (!down.normal || down.normal[2] < STANDABLE) return null;
  return addScaled(forward, [0, 0, -height * 1.05], down.fraction);
}
