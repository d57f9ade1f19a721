/** First-person movement: walking with step height, sliding along walls, jumping, falling, crouching, swimming, free flight. */

import { slopeOf } from '../profile/player.ts';
import type { Profile } from '../profile/schema.ts';
import { addScaled, dot, length, type Vec3 } from '../math/vec3.ts';
import type { Climb } from '../part/part.ts';
import { overlapping, sweepBox, type Half, type Obstacle } from './collide.ts';

export interface Walker {
  /** Centre of the bottom of the player's box. */
  feet: Vec3;
  velocity: Vec3;
  onGround: boolean;
  /** Holds on to something that is climbed. */
  climbing: boolean;
  flying: boolean;
  crouching: boolean;
  swimming: boolean;
  /** What it stands on: its id and the kind of its surface, empty where none is stated. */
  ground: { id: string; surface: string } | null;
  /** What it walked against in its last step, and the normal of that. */
  against: { id: string; normal: Vec3 }[];
}

export const newWalker = (feet: Vec3): Walker => ({
  feet,
  velocity: [0, 0, 0],
  onGround: false,
  climbing: false,
  flying: false,
  crouching: false,
  swimming: false,
  ground: null,
  against: [],
});

export interface Intent {
  /** Wanted direction in the horizontal plane (and z when flying or swimming), at most of length 1. */
  move: Vec3;
  run: boolean;
  jump: boolean;
  crouch?: boolean;
  /** Where the player looks; unchanged without it. */
  look?: Vec3;
}

/** Wants nothing. */
export const STILL: Intent = { move: [0, 0, 0], run: false, jump: false };

/** What is around the player that changes how they move. */
export interface Surroundings {
  /** Share of the walking speed that is left, as in water. */
  drag?: number;
  /** What can be climbed here. */
  climb?: Climb | null;
  /** How much of the player is under water, 0..1, and where it flows, in units per second. */
  water?: { depth: number; flow: Vec3 } | null;
}

type Player = Profile['player'];

/** Share of the walking speed at which players climb, crouch and swim. */
const CLIMBING = 0.6;
const CROUCHED = 0.5;
const SWIMMING = 0.7;
/** Share of the player that has to be under water before it swims, and that stays under when it does nothing. */
const SWIM_FROM = 0.6;
const AFLOAT = 0.8;
/** Share of its height by which a swimmer gets out over an edge. */
const HAUL = 0.75;

/** Least z of a normal on which a player can stand. */
const standable = (player: Player): number => Math.cos((slopeOf(player) * Math.PI) / 180) - 1e-6;

/** Height of a player as it is now. */
export const heightOf = (player: Player, { crouching }: Pick<Walker, 'crouching'>): number =>
  crouching && player.crouchHeight ? player.crouchHeight : player.height;

/**
 * One fixed step of `dt` seconds. Falling uses the average of the old and the new speed, which is exact
 * for constant acceleration: s = g t²/2 at every step.
 */
export function stepWalker(
  walker: Walker,
  intent: Intent,
  obstacles: readonly Obstacle[],
  player: Player,
  dt: number,
  { drag = 1, climb = null, water = null }: Surroundings = {},
): void {
  walker.against = [];
  if (walker.flying) {
    walker.velocity = [0, 0, 0];
    walker.onGround = false;
    walker.ground = null;
    walker.feet = addScaled(walker.feet, intent.move, player.runSpeed * 1.5 * dt);
    return;
  }
  crouch(walker, intent, obstacles, player);
  const half: Half = [player.radius, player.radius, heightOf(player, walker) / 2];
  const speed = (intent.run && !walker.crouching ? player.runSpeed : player.walkSpeed) * drag * (walker.crouching ? CROUCHED : 1);
  if (stepClimber(walker, intent, obstacles, half, climb, player.walkSpeed * drag * CLIMBING * dt)) return;
  if (water && water.depth >= SWIM_FROM) return swim(walker, intent, obstacles, half, player, dt, water);
  walker.swimming = false;
  const steep = standable(player);
  const centre = (): Vec3 => [walker.feet[0], walker.feet[1], walker.feet[2] + half[2]];
  const setCentre = (c: Vec3) => (walker.feet = [c[0], c[1], c[2] - half[2]]);

  if (walker.onGround && intent.jump) {
    walker.velocity[2] = player.jumpSpeed;
    walker.onGround = false;
    walker.ground = null;
  }
  // In the air the wanted direction still steers, but slowly.
  const grip = walker.onGround ? 1 : 1 - Math.exp(-2 * dt);
  const flow = water ? addScaled([0, 0, 0], water.flow, water.depth) : [0, 0, 0];
  walker.velocity[0] += (intent.move[0] * speed + flow[0] - walker.velocity[0]) * grip;
  walker.velocity[1] += (intent.move[1] * speed + flow[1] - walker.velocity[1]) * grip;
  const fallBefore = walker.velocity[2];
  if (!walker.onGround) walker.velocity[2] -= player.gravity * dt;
  const rise = ((fallBefore + walker.velocity[2]) / 2) * dt;

  const flat: Vec3 = [walker.velocity[0] * dt, walker.velocity[1] * dt, 0];
  const wasOnGround = walker.onGround;
  if (flat[0] !== 0 || flat[1] !== 0) {
    const start = centre();
    const slid = slide(obstacles, start, half, flat);
    let best = slid.at;
    if (slid.hits.length > 0 && wasOnGround) {
      const stepped = stepUp(obstacles, start, half, flat, player.stepHeight, steep);
      if (stepped && along(stepped, start, flat) > along(best, start, flat) + 1e-6) best = stepped;
    }
    walker.against = slid.hits;
    setCentre(best);
  }

  if (walker.onGround) {
    // Stay on the ground when it falls away by less than a step.
    const down = sweepBox(obstacles, centre(), half, [0, 0, -player.stepHeight]);
    if (down.normal && down.normal[2] >= steep) {
      setCentre(addScaled(centre(), [0, 0, -1], player.stepHeight * down.fraction));
      walker.ground = { id: down.obstacle!.id, surface: down.surface };
    } else {
      walker.onGround = false;
      walker.ground = null;
      walker.velocity[2] = 0;
    }
    return;
  }
  const fall = sweepBox(obstacles, centre(), half, [0, 0, rise]);
  setCentre(addScaled(centre(), [0, 0, rise], fall.fraction));
  if (fall.normal) {
    if (fall.normal[2] >= steep) {
      walker.onGround = true;
      walker.ground = { id: fall.obstacle!.id, surface: fall.surface };
    }
    if (fall.normal[2] > 0 && fall.normal[2] < steep) setCentre(slide(obstacles, centre(), half, [0, 0, rise * (1 - fall.fraction)]).at);
    walker.velocity[2] = 0;
  }
}

/** Goes down at once, and up again as soon as there is room. */
function crouch(walker: Walker, intent: Intent, obstacles: readonly Obstacle[], player: Player): void {
  if (!player.crouchHeight) return;
  if (intent.crouch) walker.crouching = true;
  else if (walker.crouching) {
    const half: Half = [player.radius, player.radius, player.height / 2];
    walker.crouching = overlapping(obstacles, addScaled(walker.feet, [0, 0, 1], half[2]), half).length > 0;
  }
}

/** One step in deep water: in every direction, up with a jump, down crouched; over an edge with both forward and a jump. */
function swim(
  walker: Walker,
  intent: Intent,
  obstacles: readonly Obstacle[],
  half: Half,
  player: Player,
  dt: number,
  { depth, flow }: { depth: number; flow: Vec3 },
): void {
  walker.swimming = true;
  walker.onGround = false;
  walker.ground = null;
  const pace = player.walkSpeed * SWIMMING;
  const lift = intent.jump ? 1 : intent.crouch ? -1 : Math.max(-0.3, Math.min(0.3, (depth - AFLOAT) * 3));
  const wanted: Vec3 = [intent.move[0] * pace + flow[0], intent.move[1] * pace + flow[1], (intent.move[2] + lift) * pace + flow[2]];
  // Nobody swims up out of the water.
  if (depth <= SWIM_FROM + 0.02 && wanted[2] > 0) wanted[2] = 0;
  const grip = 1 - Math.exp(-6 * dt);
  walker.velocity = walker.velocity.map((v, axis) => v + (wanted[axis] - v) * grip) as Vec3;
  const at: Vec3 = [walker.feet[0], walker.feet[1], walker.feet[2] + half[2]];
  const motion = addScaled([0, 0, 0], walker.velocity, dt);
  const slid = slide(obstacles, at, half, motion);
  walker.against = slid.hits;
  let to = slid.at;
  const level: Vec3 = [intent.move[0] * player.radius, intent.move[1] * player.radius, 0];
  const walled = slid.hits.some(({ normal }) => Math.abs(normal[2]) < 0.5);
  if (intent.jump && walled && length(level) > 0) {
    const out = stepUp(obstacles, at, half, level, player.height * HAUL, standable(player));
    if (out && along(out, to, level) > dot(level, level) / 2) to = out;
  }
  walker.feet = addScaled(to, [0, 0, -1], half[2]);
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
function slide(obstacles: readonly Obstacle[], start: Vec3, half: Half, motion: Vec3): { at: Vec3; hits: { id: string; normal: Vec3 }[] } {
  let at = start;
  let rest = motion;
  const hits: { id: string; normal: Vec3 }[] = [];
  for (let i = 0; i < 4; i++) {
    const sweep = sweepBox(obstacles, at, half, rest);
    at = addScaled(at, rest, sweep.fraction);
    if (!sweep.normal) break;
    hits.push({ id: sweep.obstacle!.id, normal: sweep.normal });
    const remaining: Vec3 = [rest[0] * (1 - sweep.fraction), rest[1] * (1 - sweep.fraction), rest[2] * (1 - sweep.fraction)];
    rest = addScaled(remaining, sweep.normal, -dot(remaining, sweep.normal));
    if (dot(rest, motion) <= 0) break;
  }
  return { at, hits };
}

/** Up by a step, forward, and down again; null where that does not end on standable ground. */
function stepUp(obstacles: readonly Obstacle[], start: Vec3, half: Half, flat: Vec3, height: number, steep: number): Vec3 | null {
  const up = sweepBox(obstacles, start, half, [0, 0, height]);
  const raised = addScaled(start, [0, 0, height], up.fraction);
  const forward = slide(obstacles, raised, half, flat).at;
  const down = sweepBox(obstacles, forward, half, [0, 0, -height * 1.05]);
  if (!down.normal || down.normal[2] < steep) return null;
  return addScaled(forward, [0, 0, -height * 1.05], down.fraction);
}
