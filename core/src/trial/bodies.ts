/**
 * What moves by itself in a test run: rigid bodies (Rapier) among everything that stands still, is driven by parts, or
 * walks. Physics counts in metres; everything that comes in and goes out is in units.
 */

import type { RigidBody, World } from '@dimforge/rapier3d-deterministic-compat';
import type { MapObject } from '../document/schema.ts';
import { boxOfPoints, boxesTouch, type Box3 } from '../math/box3.ts';
import { AT_REST, turnAbout, turnVector, type Pose } from '../math/pose.ts';
import { add, dot, length, scale, sub, type Vec3 } from '../math/vec3.ts';
import type { Rapier } from '../physics/rapier.ts';
import { massOf } from '../profile/player.ts';
import type { Profile } from '../profile/schema.ts';
import { hullSolid } from '../solid/hull.ts';
import { solidVolume } from '../solid/solid.ts';
import { PLAIN_FRICTION, type ModelBody } from '../stages/pack/bodies.ts';
import type { CollisionGround } from '../stages/pack/collisionBin.ts';
import { obstacleFromPlanes, poseObstacle, type Obstacle } from './collide.ts';
import { heightOf, type Walker } from './move.ts';
import { StillColliders } from './stillColliders.ts';

/** Kilograms per cubic metre of fresh water (ISO 80000-4 gives 1000 as the reference density). */
const WATER = 1000;
/** Share of its speed that a body under water loses in a second, about (from memory; a matter of taste). */
const WATER_DRAG = 2;
/**
 * By what share of its radius the player's body is smaller than the player: walking ends before things, and physics must
 * not take that for a blow.
 */
const SLACK = 0.1;
/** Side of a cell of what stands still, in heights of a player; and how far ahead of a fast thing cells are looked for, in units. */
const CELL = 3;
const AHEAD = 1000;
/** How far from a surface something may be and still lie on it, in units. */
const ON_TOP = 0.5;
/** Bodies that one run simulates; more are left lying. */
export const BODY_LIMIT = 2000;
/** Bits of the collision groups: all but players, and players. What is carried does not meet who carries it. */
const THINGS = 0xffffffff;
const CARRIED = 0x0001fffd;
const PLAYER = 0x0002ffff;

/** Water, or anything else that floats things. */
export interface Liquid {
  space: Box3;
  /** Units per second. */
  flow: Vec3;
}

interface Loose {
  object: MapObject;
  body: RigidBody;
  /** Convex parts about the object's origin as it is placed; where they are now is made when asked for. */
  parts: Obstacle[];
  now: { obstacles: Obstacle[]; box: Box3 } | null;
  /** Cubic metres. */
  volume: number;
  pose: Pose;
  /** How far it went in the last step. */
  moved: Vec3;
  /** Before the last step, in newton seconds. */
  momentum: number;
}

export class Bodies {
  private readonly world: World;
  private readonly loose = new Map<string, Loose>();
  private readonly idOf = new Map<number, string>();
  private readonly shapes = new WeakMap<ModelBody['hulls'], Map<number, { parts: Obstacle[]; volume: number }>>();
  private readonly driven = new Map<string, RigidBody>();
  private readonly still: StillColliders;
  /** Boxes of those who play, and how high each is. */
  private readonly players: { body: RigidBody; height: number }[] = [];
  private freed = false;
  private readonly m: number;

  constructor(
    private readonly rapier: Rapier,
    private readonly profile: Profile,
    dt: number,
  ) {
    this.m = profile.unit.metres;
    this.world = new rapier.World({ x: 0, y: 0, z: -profile.player.gravity * this.m });
    this.world.timestep = dt;
    this.still = new StillColliders(
      profile.player.height * CELL,
      (obstacle) => {
        const shape = this.hull(obstacle.corners);
        return shape && this.world.createCollider(shape.setFriction(this.frictionOf(obstacle)));
      },
      (collider) => this.world.removeCollider(collider, true),
    );
    this.players.push(this.standIn());
  }

  /** What stands still under an id from now on. */
  setFixed(id: string, obstacles: readonly Obstacle[]): void {
    this.still.set(id, obstacles);
  }

  /** Ground of heights, for what rolls and lies on it. */
  setGrounds(grounds: readonly CollisionGround[]): void {
    for (const { nx, ny, spacing, origin, heights } of grounds) {
      // Rapier's fields lie along x and z, y upwards: turned upright, its rows run against y.
      const columns = new Float32Array(nx * ny);
      for (let i = 0; i < nx; i++) for (let j = 0; j < ny; j++) columns[i * ny + (ny - 1 - j)] = heights[j * nx + i] * this.m;
      const [w, d] = [(nx - 1) * spacing * this.m, (ny - 1) * spacing * this.m];
      const field = this.rapier.ColliderDesc.heightfield(ny - 1, nx - 1, columns, { x: w, y: 1, z: d });
      const [x, y] = [origin[0] * this.m + w / 2, origin[1] * this.m + d / 2];
      this.world.createCollider(
        field.setTranslation(x, y, 0).setRotation({ x: Math.SQRT1_2, y: 0, z: 0, w: Math.SQRT1_2 }).setFriction(PLAIN_FRICTION),
      );
    }
  }

  /** A thing that parts move, as it rests. */
  setDriven(id: string, obstacle: Obstacle | null): void {
    const known = this.driven.get(id);
    if (known) this.world.removeRigidBody(known);
    this.driven.delete(id);
    const shape = obstacle && this.hull(obstacle.corners);
    if (!shape) return;
    const body = this.world.createRigidBody(this.rapier.RigidBodyDesc.kinematicPositionBased());
    this.world.createCollider(shape.setFriction(this.frictionOf(obstacle)), body);
    this.driven.set(id, body);
  }

  /** Where a driven thing is to be at the end of the step, as a turn about `origin` and a way from there. */
  drive(id: string, { offset, turn }: Pose, origin: Vec3): void {
    const body = this.driven.get(id);
    if (!body) return;
    // Its corners are in the map's space: turning about the origin of the object moves the body's own origin.
    const at = sub(add(origin, offset), turnVector(turn, origin));
    const now = body.translation();
    const to = this.metres(at);
    const turned = body.rotation();
    if (now.x === to.x && now.y === to.y && now.z === to.z && turned.w === turn[3]) return;
    body.setNextKinematicTranslation(to);
    body.setNextKinematicRotation({ x: turn[0], y: turn[1], z: turn[2], w: turn[3] });
  }

  /** Lets an object move freely; false where its shape is none or there are too many. */
  addLoose(id: string, object: MapObject, { mass, friction, hulls }: ModelBody): boolean {
    this.remove(id);
    if (this.loose.size >= BODY_LIMIT) return false;
    const { parts, volume } = this.shapeOf(hulls, object.turn);
    const shapes = parts.flatMap(({ corners }) => this.hull(corners) ?? []);
    if (shapes.length === 0) return false;
    const [x, y, z] = object.position.map((v) => v * this.m);
    const body = this.world.createRigidBody(this.rapier.RigidBodyDesc.dynamic().setTranslation(x, y, z));
    for (const shape of shapes) this.world.createCollider(shape.setDensity(mass / volume).setFriction(friction), body);
    body.recomputeMassPropertiesFromColliders();
    this.loose.set(id, {
      object,
      body,
      parts: parts.map((part) => ({ ...part, id })),
      now: null,
      volume,
      pose: AT_REST,
      moved: [0, 0, 0],
      momentum: 0,
    });
    this.idOf.set(body.handle, id);
    return true;
  }

  /** Convex parts about the origin, turned about z, and their cubic metres; the same for all things of a model that look one way. */
  private shapeOf(hulls: ModelBody['hulls'], turn: number): { parts: Obstacle[]; volume: number } {
    const turns = this.shapes.get(hulls) ?? new Map<number, { parts: Obstacle[]; volume: number }>();
    this.shapes.set(hulls, turns);
    const known = turns.get(turn);
    if (known) return known;
    const placed = turnAbout([0, 0, 1], turn);
    const solids = hulls.flatMap((flat) => {
      const corners = Array.from({ length: flat.length / 3 }, (_, i): Vec3 => turnVector(placed, [flat[i * 3], flat[i * 3 + 1], flat[i * 3 + 2]]));
      return hullSolid(corners, [{ normal: [0, 0, 1], distance: 0, material: '' }]) ?? [];
    });
    const made = {
      parts: solids.map(({ faces }) =>
        obstacleFromPlanes(
          '',
          faces.map(({ normal, distance }) => [...normal, distance]),
        ),
      ),
      volume: solids.reduce((sum, solid) => sum + solidVolume(solid), 0) * this.m ** 3,
    };
    turns.set(turn, made);
    return made;
  }

  remove(id: string): void {
    const known = this.loose.get(id);
    if (known) {
      this.idOf.delete(known.body.handle);
      this.world.removeRigidBody(known.body);
    }
    this.loose.delete(id);
  }

  has(id: string): boolean {
    return this.loose.has(id);
  }

  /** Where an object has got to. */
  pose(id: string): Pose | null {
    return this.loose.get(id)?.pose ?? null;
  }

  /** How far an object went in the last step. */
  moved(id: string): Vec3 {
    return this.loose.get(id)?.moved ?? [0, 0, 0];
  }

  massOf(id: string): number {
    return this.loose.get(id)?.body.mass() ?? 0;
  }

  /** Units per second. */
  velocity(id: string): Vec3 {
    const v = this.loose.get(id)?.body.linvel();
    return v ? [v.x / this.m, v.y / this.m, v.z / this.m] : [0, 0, 0];
  }

  /** Its space now. */
  boxOf(id: string): Box3 | null {
    const loose = this.loose.get(id);
    return loose ? this.present(loose).box : null;
  }

  ids(): Iterable<string> {
    return this.loose.keys();
  }

  /** Bodies near a box, as what stops a player; what is carried stops nobody. */
  near(box: Box3, carried: ReadonlySet<string>): Obstacle[] {
    const found: Obstacle[] = [];
    for (const [id, loose] of this.loose) {
      if (carried.has(id)) continue;
      const { obstacles, box: own } = this.present(loose);
      if (boxesTouch(own, box)) found.push(...obstacles.filter((obstacle) => boxesTouch(obstacle.box, box)));
    }
    return found;
  }

  /**
   * Pushes a body along, for one step: with no more than the player's force, and no faster than it walks.
   *
   * @param direction level unit vector
   * @param speed units per second
   */
  push(id: string, direction: Vec3, speed: number): void {
    const loose = this.loose.get(id);
    const force = this.profile.player.strength?.push ?? 0;
    if (!loose || force === 0) return;
    const lacking = (speed - dot(this.velocity(id), direction)) * this.m;
    if (lacking <= 0) return;
    const impulse = Math.min(force * this.world.timestep, loose.body.mass() * lacking);
    this.impulse(loose.body, scale(direction, impulse));
  }

  /** Moves along what lies on a surface, by friction alone: `flow` is in units per second. */
  convey({ min, max }: Box3, flow: Vec3): void {
    if (flow.every((v) => v === 0)) return;
    const on: Box3 = { min: [min[0], min[1], max[2] - ON_TOP], max: [max[0], max[1], max[2] + ON_TOP] };
    for (const [id, { body, now }] of this.loose) {
      const box = now?.box ?? this.boxOf(id)!;
      if (!boxesTouch(box, on) || box.min[2] < on.min[2]) continue;
      const lacking = scale(sub(flow, this.velocity(id)), this.m);
      // The surface itself stands still, so that what it gives is twice its friction: once to make up for that.
      const grip = PLAIN_FRICTION * this.profile.player.gravity * this.m * this.world.timestep;
      const far = length(lacking);
      if (far > 1e-6) this.impulse(body, scale(lacking, (body.mass() * (grip + Math.min(grip, far))) / far));
    }
  }

  /** The greatest momentum that came against a driven thing in the last step, in newton seconds. */
  struck(id: string): number {
    const body = this.driven.get(id);
    let most = 0;
    if (body && body.numColliders() > 0)
      this.world.contactPairsWith(body.collider(0), (other) => {
        const loose = this.loose.get(this.idOf.get(other.parent()?.handle ?? -1) ?? '');
        if (!loose) return;
        this.world.contactPair(body.collider(0), other, (manifold) => {
          if (manifold.numContacts() > 0) most = Math.max(most, loose.momentum);
        });
      });
    return most;
  }

  /** Gives a body an impulse in newton seconds. */
  kick(id: string, impulse: Vec3): void {
    const loose = this.loose.get(id);
    if (loose) this.impulse(loose.body, impulse);
  }

  /** Takes a body in hand, or lets go of it: carried, it does not fall and does not meet its bearer. */
  carry(id: string, carried: boolean): void {
    const body = this.loose.get(id)?.body;
    if (!body) return;
    body.setGravityScale(carried ? 0 : 1, true);
    body.setEnabledRotations(!carried, !carried, !carried, true);
    body.enableCcd(!carried);
    body.setLinvel({ x: 0, y: 0, z: 0 }, true);
    for (let i = 0; i < body.numColliders(); i++) body.collider(i).setCollisionGroups(carried ? CARRIED : THINGS);
  }

  /** Moves a carried body towards a point for its centre, no faster than `speed` units per second. Answers how far it is off. */
  haul(id: string, to: Vec3, speed: number): number {
    const body = this.loose.get(id)?.body;
    if (!body) return Infinity;
    const c = body.worldCom();
    const away = sub(to, [c.x / this.m, c.y / this.m, c.z / this.m]);
    const far = length(away);
    const wanted = scale(away, Math.min(1 / this.world.timestep / 6, far > 1e-6 ? speed / far : 0));
    body.setLinvel(this.metres(wanted), true);
    return far;
  }

  /** One step, after parts and the player have moved. */
  step(walkers: readonly Walker[], liquids: readonly Liquid[]): void {
    while (this.players.length < walkers.length) this.players.push(this.standIn());
    this.players.forEach((player, i) => this.follow(player, walkers[i]));
    for (const walker of walkers) if (walker.ground && this.loose.has(walker.ground.id)) this.weigh(this.loose.get(walker.ground.id)!, walker);
    if (liquids.length > 0) for (const loose of this.loose.values()) this.float(loose, liquids);
    for (const loose of this.loose.values()) {
      loose.momentum = 0;
      if (loose.body.isSleeping()) continue;
      const v = loose.body.linvel();
      const speed = Math.hypot(v.x, v.y, v.z);
      loose.momentum = loose.body.mass() * speed;
      const { min, max } = this.present(loose).box;
      const margin = Math.min(AHEAD, (speed / this.m) * this.world.timestep * 4) + this.profile.player.height;
      this.still.wake({ min: [min[0] - margin, min[1] - margin, min[2]], max: [max[0] + margin, max[1] + margin, max[2]] });
    }
    this.world.step();
    for (const loose of this.loose.values()) {
      loose.moved = [0, 0, 0];
      if (loose.body.isSleeping()) continue;
      const { x, y, z } = loose.body.translation();
      const q = loose.body.rotation();
      const offset = sub([x / this.m, y / this.m, z / this.m], loose.object.position);
      loose.moved = sub(offset, loose.pose.offset);
      loose.pose = { offset, turn: [q.x, q.y, q.z, q.w] };
      loose.now = null;
    }
  }

  /** Gives back what it holds outside of JavaScript's memory; nothing may be asked of it afterwards. */
  free(): void {
    if (!this.freed) this.world.free();
    this.freed = true;
  }

  private present(loose: Loose): { obstacles: Obstacle[]; box: Box3 } {
    if (!loose.now) {
      const pose = { offset: add(loose.object.position, loose.pose.offset), turn: loose.pose.turn };
      const obstacles = loose.parts.map((part) => poseObstacle(part, pose, [0, 0, 0]));
      loose.now = { obstacles, box: boxOfPoints(obstacles.flatMap(({ box }) => [box.min, box.max])) };
    }
    return loose.now;
  }

  private standIn(): { body: RigidBody; height: number } {
    return { body: this.world.createRigidBody(this.rapier.RigidBodyDesc.kinematicPositionBased()), height: 0 };
  }

  /** A player is a box that follows where it has walked to, so that things land on it and do not fall through. Without a walker it has left. */
  private follow(player: { body: RigidBody; height: number }, walker: Walker | undefined): void {
    const { profile, m } = this;
    const { body } = player;
    const height = !walker || walker.flying ? 0 : heightOf(profile.player, walker);
    if (height !== player.height) {
      if (body.numColliders() > 0) this.world.removeCollider(body.collider(0), true);
      const slack = profile.player.radius * SLACK;
      const side = (profile.player.radius - slack) * m;
      if (height > 0)
        this.world.createCollider(
          this.rapier.ColliderDesc.cuboid(side, side, (height / 2 - slack) * m)
            .setTranslation(0, 0, (height * m) / 2)
            .setFriction(0)
            .setCollisionGroups(PLAYER),
          body,
        );
      player.height = height;
    }
    if (!walker) return;
    const to = this.metres(walker.feet);
    const from = body.translation();
    // Who is put elsewhere does not sweep through what lies between.
    if (Math.hypot(to.x - from.x, to.y - from.y, to.z - from.z) > profile.player.radius * m) body.setTranslation(to, true);
    body.setNextKinematicTranslation(to);
  }

  /** The player's weight on what it stands on, where it stands; who stands over an edge presses on the edge. */
  private weigh(loose: Loose, { feet }: Walker): void {
    const pull = massOf(this.profile.player) * this.profile.player.gravity * this.m * this.world.timestep;
    const { min, max } = this.present(loose).box;
    const at = feet.map((v, axis) => Math.min(max[axis], Math.max(min[axis], v))) as Vec3;
    loose.body.applyImpulseAtPoint({ x: 0, y: 0, z: -pull }, this.metres(at), true);
  }

  /** Archimedes' principle: the weight of the water that the part of its box below the surface displaces. */
  private float(loose: Loose, liquids: readonly Liquid[]): void {
    const { box } = this.present(loose);
    for (const { space, flow } of liquids) {
      if (!boxesTouch(box, space)) continue;
      const share = [0, 1, 2].reduce(
        (product, axis) =>
          (product * (Math.min(box.max[axis], space.max[axis]) - Math.max(box.min[axis], space.min[axis]))) /
          Math.max(1e-6, box.max[axis] - box.min[axis]),
        1,
      );
      if (share <= 0) continue;
      const dt = this.world.timestep;
      const { body } = loose;
      const lift = WATER * loose.volume * share * this.profile.player.gravity * this.m * dt;
      const v = body.linvel();
      const slip: Vec3 = [flow[0] * this.m - v.x, flow[1] * this.m - v.y, flow[2] * this.m - v.z];
      const drag = Math.min(1, WATER_DRAG * share * dt) * body.mass();
      this.impulse(body, add(scale(slip, drag), [0, 0, lift]));
      const w = body.angvel();
      const calm = 1 - Math.min(1, WATER_DRAG * share * dt);
      body.setAngvel({ x: w.x * calm, y: w.y * calm, z: w.z * calm }, true);
    }
  }

  private impulse(body: RigidBody, [x, y, z]: Vec3): void {
    body.applyImpulse({ x, y, z }, true);
  }

  private hull(corners: readonly Vec3[]) {
    return this.rapier.ColliderDesc.convexHull(Float32Array.from(corners.flat(), (v) => v * this.m));
  }

  private frictionOf({ surfaces }: Obstacle): number {
    const kinds = (surfaces ?? []).flatMap((id) => this.profile.surfaces.find((surface) => surface.id === id)?.friction ?? []);
    return kinds.length > 0 ? kinds.reduce((sum, friction) => sum + friction, 0) / kinds.length : PLAIN_FRICTION;
  }

  private metres = ([x, y, z]: Vec3) => ({ x: x * this.m, y: y * this.m, z: z * this.m });
}
