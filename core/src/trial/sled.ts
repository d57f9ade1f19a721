/**
 * How a vehicle on runners moves: a point of mass with a heading and an upright, over ground that is asked for its height. Metres,
 * seconds, kilograms; the world turns units into metres. Along the runners friction is Coulomb's (μ N against the motion), across
 * them it is that of the edges; the air brakes by ½ ρ c A v², and a kite pulls by ½ ρ c A of the wind that it feels.
 */

import { addScaled, cross, dot, length, normalise, scale, sub, type Vec3 } from '../math/vec3.ts';

/** Kilograms per cubic metre of dry air at 15 °C and 101 325 Pa (ISO 2533, standard atmosphere). */
const AIR = 1.225;

/** What a vehicle is. */
export interface SledFacts {
  /** Kilograms, with whoever rides it. */
  mass: number;
  /** What the friction of a surface is multiplied by under its runners. */
  glide: number;
  /** Friction of its edges, across the runners. */
  edge: number;
  /** Greatest turning, radians a second. */
  steer: number;
  /** Friction that the brake adds. */
  brake: number;
  /** Drag area (drag coefficient times area), square metres. */
  drag: number;
  /** Area of the kite, square metres. */
  kite: number;
  /** Speed at which it is thrown over, metres a second: against what stands in its way, and into the ground. */
  toughness: number;
}

export interface SledState {
  /** Middle between its runners, metres. */
  at: Vec3;
  velocity: Vec3;
  /** Radians from +x, counter-clockwise. */
  heading: number;
  /** Unit vector. */
  up: Vec3;
  onGround: boolean;
  /** Acceleration of the last landing, in g; fades. */
  jolt: number;
}

export interface SledWants {
  /** -1 right … 1 left; 0..1 how much of the kite pulls; 0..1. */
  steer: number;
  sheet: number;
  brake: number;
}

/** The ground below a point: its height in metres, its normal, and its friction. */
export interface SledGround {
  height: number;
  normal: Vec3;
  friction: number;
}

/** What a kite does at most beside straight downwind: radians, and what is left of its pull there. */
const REACH = (75 * Math.PI) / 180;
const BROAD = 0.55;

/** Highest above the ground that still counts as on it, metres: the surface is made of flat triangles. */
const CONTACT = 0.03;

/** Below this speed along its runners friction holds it, metres a second. */
const STANDING = 0.02;

/**
 * Pull of a kite, newtons. It flies downwind or up to an angle beside that, towards where the vehicle heads; the farther beside, the
 * weaker. Where the vehicle outruns the wind it falls.
 */
export function kitePull(area: number, heading: number, air: Vec3): Vec3 {
  const speed = Math.hypot(air[0], air[1]);
  if (speed < 0.1 || area <= 0) return [0, 0, 0];
  const down = Math.atan2(air[1], air[0]);
  const off = Math.atan2(Math.sin(heading - down), Math.cos(heading - down));
  const beside = Math.max(-REACH, Math.min(REACH, off));
  const share = 1 - (1 - BROAD) * (Math.abs(beside) / REACH);
  const force = 0.5 * AIR * area * share * speed * speed;
  const way = down + beside;
  // Where it would pull backwards it is let go.
  return Math.cos(way - heading) <= 0 ? [0, 0, 0] : [Math.cos(way) * force, Math.sin(way) * force, 0];
}

/** Unit vectors ahead and to the left, along the ground. */
export function sledFrame({ heading, up }: Pick<SledState, 'heading' | 'up'>): { ahead: Vec3; left: Vec3 } {
  const flat: Vec3 = [Math.cos(heading), Math.sin(heading), 0];
  const left = normalise(cross(up, flat));
  return { ahead: normalise(cross(left, up)), left };
}

/**
 * The velocity after a step of `dt` seconds on ground or in the air, before anything stops it. On the ground what leads into it is
 * taken away; falling is exact, since whoever moves it uses the mean of the old and the new velocity.
 */
export function sledVelocity(
  state: SledState,
  facts: SledFacts,
  wants: SledWants,
  wind: Vec3,
  ground: SledGround | null,
  gravity: number,
  dt: number,
): Vec3 {
  const { velocity, heading } = state;
  const through = sub(velocity, wind);
  const drag = scale(through, (-0.5 * AIR * facts.drag * length(through)) / facts.mass);
  const pull = scale(kitePull(facts.kite * wants.sheet, heading, scale(through, -1)), 1 / facts.mass);
  let next = addScaled(addScaled(addScaled(velocity, [0, 0, -gravity], dt), drag, dt), pull, dt);
  if (!ground) return next;
  const { normal, friction } = ground;
  const into = dot(next, normal);
  // The ground carries what presses on it; a hollow presses more than gravity alone.
  const pressed = Math.max(0, gravity * normal[2], into < 0 ? -into / dt : 0);
  if (into < 0) next = addScaled(next, normal, -into);
  const { ahead, left } = sledFrame({ heading, up: normal });
  const along = dot(next, ahead);
  const across = dot(next, left);
  const slows = (facts.glide * friction + facts.brake * wants.brake) * Math.min(pressed, gravity * 3) * dt;
  next = addScaled(next, ahead, -Math.sign(along) * Math.min(Math.abs(along), slows));
  const grips = facts.edge * Math.min(pressed, gravity * 3) * dt;
  next = addScaled(next, left, -Math.sign(across) * Math.min(Math.abs(across), grips));
  return length(next) < STANDING && wants.sheet === 0 && Math.abs(along) <= slows ? [0, 0, 0] : next;
}

/** Turning in a step: full at a walking pace, none while standing, little in the air. */
export function sledTurn({ velocity, onGround }: SledState, { steer }: SledFacts, wants: SledWants, dt: number): number {
  const speed = Math.hypot(velocity[0], velocity[1]);
  return wants.steer * steer * dt * (onGround ? Math.min(1, speed / 2) : 0.25);
}

/** Whether a point counts as on the ground. */
export const touches = (at: Vec3, ground: SledGround | null): boolean => ground !== null && at[2] - ground.height <= CONTACT;
