/** Vehicles of a running world: who rides them, how they go over ground and solids, and how they come to grief. */

import type { Box3 } from '../math/box3.ts';
import { composeTurns, type Pose } from '../math/pose.ts';
import { add, addScaled, cross, dot, length, lerp, normalise, scale, sub, type Vec3 } from '../math/vec3.ts';
import { numberOf, type Item } from '../part/part.ts';
import type { Profile } from '../profile/schema.ts';
import { sweepBox, type Obstacle } from './collide.ts';
import type { Fields } from './fields.ts';
import type { Intent, Walker } from './move.ts';
import type { TrialObject } from './objects.ts';
import { sledFrame, sledTurn, sledVelocity, touches, type SledFacts, type SledGround, type SledState, type SledWants } from './sled.ts';
import type { Wind } from './wind.ts';

export interface Vehicle {
  item: TrialObject;
  facts: SledFacts;
  state: SledState;
  wants: SledWants;
  /** Half its width and its height, units. */
  half: number;
  height: number;
  /** Seconds that it lies thrown over; null while it runs. */
  down: number | null;
  /** Seconds that its rider has wanted back. */
  calling: number;
}

/** What vehicles need of the world. */
export interface VehiclesWorld {
  readonly time: number;
  readonly profile: Profile;
  readonly fields: Fields;
  readonly wind: Wind;
  /** Everything firm that touches a box, but for the ground itself. */
  firm(box: Box3): Obstacle[];
  /** The space of an object. */
  boxOf(item: Item): Box3;
  emit(item: Item, event: string): void;
  say(text: string): void;
  /** It was thrown over: why. */
  crashed(vehicle: Vehicle, why: string): void;
  /** Where it comes back to: a place and a heading in radians. */
  backTo(vehicle: Vehicle): { at: Vec3; heading: number };
}

/** Seconds that a vehicle lies before it is back, and that one holds the key to be back sooner. */
const LIES = 1.5;
const CALLS = 0.6;

/** Normals that lean less than this are ground, others walls. */
const STEEPEST = 0.45;

/** Friction where a surface has none stated. */
const PLAIN = 0.1;

/** Bumps against the same step that are looked at. */
const BUMPS = 4;

export class Vehicles {
  private readonly list = new Map<string, Vehicle>();
  private readonly m: number;

  constructor(private readonly world: VehiclesWorld) {
    this.m = world.profile.unit.metres;
  }

  [Symbol.iterator](): Iterator<Vehicle> {
    return this.list.values();
  }

  get(id: string): Vehicle | undefined {
    return this.list.get(id);
  }

  /** Takes an object in as a vehicle, where it is one. */
  admit(item: TrialObject): void {
    if (!item.parts.some(({ part }) => part.id === 'vehicle')) return;
    const of = (name: string) => numberOf(item.properties[name]);
    const { min, max } = this.world.boxOf(item);
    const size = [0, 1, 2].map((k) => max[k] - min[k]);
    const facts: SledFacts = {
      mass: Math.max(1, of('mass')),
      glide: of('glide'),
      edge: of('edge'),
      steer: (of('steer') * Math.PI) / 180,
      brake: of('brake'),
      drag: of('drag'),
      kite: of('kite'),
      toughness: of('toughness'),
    };
    const state: SledState = {
      at: scale(item.object.position, this.m),
      velocity: [0, 0, 0],
      heading: (item.object.turn * Math.PI) / 180,
      up: [0, 0, 1],
      onGround: true,
      jolt: 0,
    };
    this.list.set(item.id, {
      item,
      facts,
      state,
      wants: { steer: 0, sheet: 0, brake: 1 },
      half: Math.min(size[0], size[1]) / 2,
      height: size[2],
      down: null,
      calling: 0,
    });
  }

  dismiss(id: string): void {
    this.list.delete(id);
  }

  /** What a rider wants, from where they want to go: ahead gives the kite line, back brakes, aside steers. */
  steer(vehicle: Vehicle, intent: Intent | null, dt: number): void {
    if (!intent) {
      vehicle.wants = { steer: 0, sheet: 0, brake: 1 };
      return;
    }
    const { heading } = vehicle.state;
    const [c, s] = [Math.cos(heading), Math.sin(heading)];
    const ahead = intent.move[0] * c + intent.move[1] * s;
    const left = -intent.move[0] * s + intent.move[1] * c;
    vehicle.wants = { steer: Math.max(-1, Math.min(1, left)), sheet: Math.max(0, Math.min(1, ahead)), brake: Math.max(0, Math.min(1, -ahead)) };
    vehicle.calling = intent.crouch ? vehicle.calling + dt : 0;
    if (vehicle.calling >= CALLS) this.bringBack(vehicle, 'Back at the last checkpoint.');
  }

  /** All vehicles take a step; those without a rider too, until they stand. */
  step(dt: number): void {
    for (const vehicle of this.list.values()) {
      if (vehicle.down !== null) {
        vehicle.down += dt;
        if (vehicle.down >= LIES) this.bringBack(vehicle, 'Up again at the last checkpoint.');
      } else this.move(vehicle, dt);
      this.place(vehicle);
    }
  }

  bringBack(vehicle: Vehicle, text: string): void {
    const { at, heading } = this.world.backTo(vehicle);
    const under = this.world.fields.under(at);
    const feet: Vec3 = under ? [at[0], at[1], Math.max(at[2], under.height)] : at;
    Object.assign(vehicle, { down: null, calling: 0, wants: { steer: 0, sheet: 0, brake: 0 } });
    vehicle.state = { at: scale(feet, this.m), velocity: [0, 0, 0], heading, up: [0, 0, 1], onGround: true, jolt: 0 };
    this.world.say(text);
    this.place(vehicle);
  }

  /** Has it lie where it is. */
  throwOver(vehicle: Vehicle, why: string): void {
    if (vehicle.down !== null) return;
    vehicle.down = 0;
    vehicle.state.velocity = [0, 0, 0];
    this.world.crashed(vehicle, why);
  }

  /** Where whoever rides it sits, and how fast, in units. */
  carry({ state, item }: Vehicle, walker: Walker): void {
    const seat = numberOf(item.properties.seat);
    walker.feet = addScaled(scale(state.at, 1 / this.m), state.up, seat);
    walker.velocity = scale(state.velocity, 1 / this.m);
    walker.onGround = state.onGround;
  }

  private groundAt(at: Vec3): SledGround | null {
    const { fields, profile } = this.world;
    const under = fields.under(scale(at, 1 / this.m));
    if (!under) return null;
    const friction = profile.surfaces.find(({ id }) => id === under.surface)?.friction ?? PLAIN;
    return { height: under.height * this.m, normal: under.normal, friction };
  }

  private move(vehicle: Vehicle, dt: number): void {
    const { state, facts, wants } = vehicle;
    const gravity = this.world.profile.player.gravity * this.m;
    const wind = scale(this.world.wind.at(this.world.time), this.m);
    state.heading += sledTurn(state, facts, wants, dt);
    const below = this.groundAt(state.at);
    const on = state.onGround && touches(state.at, below) ? below : null;
    const stood = state.onGround && !on ? this.standing(vehicle) : null;
    const next = sledVelocity(state, facts, wants, wind, on ?? stood, gravity, dt);
    // The mean of both velocities: exact for constant forces.
    const motion = scale(add(state.velocity, next), dt / 2);
    const before = state.velocity;
    state.velocity = next;
    state.onGround = stood !== null;
    this.slideAlong(vehicle, motion);
    if (vehicle.down !== null) return;
    this.settle(vehicle, on !== null, gravity, dt);
    state.jolt = Math.max(length(sub(state.velocity, before)) / dt / gravity, state.jolt * 0.9);
    if (!state.onGround) state.up = normalise(lerp(state.up, [0, 0, 1], Math.min(1, dt)));
    const { lowest } = this.world.fields;
    if (this.world.fields.any && state.at[2] < (lowest - 40) * this.m) this.throwOver(vehicle, 'fell off the ground');
  }

  /** What of the solids it stands on, if it does. */
  private standing(vehicle: Vehicle): SledGround | null {
    const centre = this.centre(vehicle);
    const half: Vec3 = [vehicle.half, vehicle.half, vehicle.height / 2];
    const probe: Vec3 = [0, 0, -0.06 / this.m];
    const hit = sweepBox(this.world.firm(around(centre, half, probe)), centre, half, probe);
    if (!hit.normal || hit.normal[2] < STEEPEST) return null;
    const friction = this.world.profile.surfaces.find(({ id }) => id === hit.surface)?.friction ?? PLAIN;
    return { height: vehicle.state.at[2], normal: hit.normal, friction };
  }

  private centre({ state, height }: Vehicle): Vec3 {
    return addScaled(scale(state.at, 1 / this.m), [0, 0, 1], height / 2 + 0.02 / this.m);
  }

  /** Moves it along, past what stands in the way; into it, it may be thrown over. */
  private slideAlong(vehicle: Vehicle, motion: Vec3): void {
    const { state, facts } = vehicle;
    const half: Vec3 = [vehicle.half, vehicle.half, vehicle.height / 2];
    let left = scale(motion, 1 / this.m);
    for (let n = 0; n < BUMPS && length(left) > 1e-9; n++) {
      const centre = this.centre(vehicle);
      const near = this.world.firm(around(centre, half, left));
      const hit = sweepBox(near, centre, half, left);
      state.at = addScaled(state.at, left, hit.fraction * this.m);
      if (!hit.normal || hit.stuck) return;
      const into = -dot(state.velocity, hit.normal);
      if (hit.normal[2] >= STEEPEST) state.onGround = true;
      else if (into > facts.toughness)
        return this.throwOver(vehicle, `ran into ${hit.obstacle ? hit.obstacle.id : 'something'} at ${into.toFixed(1)} m/s`);
      if (into > 0) state.velocity = addScaled(state.velocity, hit.normal, into);
      left = scale(left, 1 - hit.fraction);
      const still = dot(left, hit.normal);
      if (still < 0) left = addScaled(left, hit.normal, -still);
    }
  }

  /** Puts it on the ground where it has come below it, and feels how hard. */
  private settle(vehicle: Vehicle, was: boolean, gravity: number, dt: number): void {
    const { state, facts } = vehicle;
    const ground = this.groundAt(state.at);
    if (!ground) return;
    const gap = state.at[2] - ground.height;
    if (gap > 0 && !(was && touches(state.at, ground))) return;
    const into = -dot(state.velocity, ground.normal);
    if (gap <= 0) {
      state.at = [state.at[0], state.at[1], ground.height];
      // What a step's own gravity adds is no landing.
      if (!was && into - gravity * dt > facts.toughness) return this.throwOver(vehicle, `came down at ${into.toFixed(1)} m/s`);
      if (was && into > facts.toughness) return this.throwOver(vehicle, `ran into the ground at ${into.toFixed(1)} m/s`);
      if (into > 0) state.velocity = addScaled(state.velocity, ground.normal, into);
    }
    state.onGround = true;
    state.up = normalise(lerp(state.up, ground.normal, Math.min(1, dt * 12)));
  }

  /** Where it is, as a pose of its object. */
  private place({ item, state, down }: Vehicle): void {
    const { ahead, left } = sledFrame(state);
    const up = cross(ahead, left);
    const own = (item.object.turn * Math.PI) / 180;
    const turned = turnOf(ahead, left, up);
    const back: Pose['turn'] = [0, 0, Math.sin(-own / 2), Math.cos(-own / 2)];
    const over: Pose['turn'] = down === null ? [0, 0, 0, 1] : [Math.sin(0.6), 0, 0, Math.cos(0.6)];
    item.driven = { offset: sub(scale(state.at, 1 / this.m), item.object.position), turn: composeTurns(composeTurns(turned, over), back) };
  }
}

const around = (centre: Vec3, half: Vec3, motion: Vec3): Box3 => ({
  min: [0, 1, 2].map((k) => centre[k] - half[k] + Math.min(0, motion[k]) - 1) as Vec3,
  max: [0, 1, 2].map((k) => centre[k] + half[k] + Math.max(0, motion[k]) + 1) as Vec3,
});

/** The turn that leads the axes to three unit vectors square to each other, as a quaternion (K. Shoemake, 1985). */
function turnOf(x: Vec3, y: Vec3, z: Vec3): Pose['turn'] {
  const trace = x[0] + y[1] + z[2];
  if (trace > 0) {
    const s = Math.sqrt(trace + 1) * 2;
    return [(y[2] - z[1]) / s, (z[0] - x[2]) / s, (x[1] - y[0]) / s, s / 4];
  }
  if (x[0] > y[1] && x[0] > z[2]) {
    const s = Math.sqrt(1 + x[0] - y[1] - z[2]) * 2;
    return [s / 4, (y[0] + x[1]) / s, (z[0] + x[2]) / s, (y[2] - z[1]) / s];
  }
  if (y[1] > z[2]) {
    const s = Math.sqrt(1 + y[1] - x[0] - z[2]) * 2;
    return [(y[0] + x[1]) / s, s / 4, (z[1] + y[2]) / s, (z[0] - x[2]) / s];
  }
  const s = Math.sqrt(1 + z[2] - x[0] - y[1]) * 2;
  return [(z[0] + x[2]) / s, (z[1] + y[2]) / s, s / 4, (x[1] - y[0]) / s];
}
