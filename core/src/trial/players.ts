/** Those who play: where each is and looks, what it carries and can do, and what becomes of it. */

import type { Finding } from '../finding.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { add, addScaled, type Vec3 } from '../math/vec3.ts';
import type { Item } from '../part/part.ts';
import type { Profile } from '../profile/schema.ts';
import type { Bodies } from './bodies.ts';
import { overlapping, type Obstacle } from './collide.ts';
import type { Coverage } from './coverage.ts';
import { climbAt, dragOn, waterAt } from './environment.ts';
import { Fate, type FateWorld } from './fate.ts';
import { Hands } from './hands.ts';
import { heightOf, newWalker, STILL, stepWalker, type Intent, type Walker } from './move.ts';
import { isGone, type TrialObject, type TrialObjects } from './objects.ts';
import { reachedAhead } from './reach.ts';
import type { Race } from './race.ts';
import type { Rivals } from './rivals.ts';
import type { Traffic } from './traffic.ts';
import type { Vehicles } from './vehicles.ts';

export interface Player {
  /** 0 is whose run it is; others may come and go. */
  readonly index: number;
  readonly name: string;
  readonly walker: Walker;
  readonly hands: Hands | null;
  readonly fate: Fate;
  /** Where it looks. */
  look: Vec3;
  /** Units walked since the last footstep was heard. */
  walked: number;
  /** Id of the vehicle that it rides, or null. */
  riding: string | null;
}

/** What a player can do with what is before it. */
export interface Offer {
  does: 'operate' | 'talk to' | 'pick up' | 'set down' | 'ride' | 'get off';
  name: string;
}

/** What players need of the world. */
export interface PlayersWorld {
  readonly time: number;
  ended: 'won' | 'fell' | 'died' | null;
  readonly profile: Profile;
  readonly mapName: string;
  readonly findings: Finding[];
  readonly objects: TrialObjects;
  readonly bodies: Bodies | null;
  readonly coverage: Coverage | undefined;
  print(kind: 'system', text: string): void;
  emit(item: Item, event: string): void;
  near(box: Box3): Obstacle[];
  /** What stands still or is moved by parts; loose things give way themselves. */
  firm(box: Box3): Obstacle[];
  use(item: TrialObject): void;
  readonly vehicles: Vehicles;
  readonly race: Race | null;
  readonly rivals: Rivals;
  play(sound: string, volume: number): void;
  inSpace(item: Item, box: Box3, space: Box3): boolean;
}

/** Steps of height by which a player is lifted out of what was edited around it. */
const RISES = 40;
/** Length of a stride, in radii of a player. */
const STRIDE = 6;

export class Players {
  private readonly list: Player[] = [];
  private next = 0;

  /**
   * @param start where the first begins; null is the origin
   * @param floor height below which nothing is any more
   */
  constructor(
    private readonly world: PlayersWorld,
    readonly start: TrialObject | null,
    private readonly floor: number,
  ) {
    this.join('');
  }

  [Symbol.iterator](): Iterator<Player> {
    return this.list.values();
  }

  get first(): Player {
    return this.list[0];
  }

  /** A player by its number; the first where there is none such. */
  of(index: number): Player {
    return this.list.find((player) => player.index === index) ?? this.first;
  }

  get walkers(): Walker[] {
    return this.list.map(({ walker }) => walker);
  }

  /** Somebody comes in, at a start of their own where the map has as many. Answers their number. */
  join(name: string): number {
    const { world } = this;
    const index = this.next++;
    const starts = startsOf(world.objects);
    const start = index === 0 ? this.start : (starts[index % Math.max(1, starts.length)] ?? null);
    const walker = newWalker(start ? [...start.object.position] : [0, 0, 0]);
    const dropped = (id: string) => world.print('system', `${world.objects.get(id)?.object.name ?? id} slipped out of hand.`);
    const hands = world.bodies && new Hands(world.bodies, world.profile, dropped);
    const { health = null } = world.profile.player;
    const fate = new Fate(around(world, index, walker), world.mapName, health, this.floor, start, (item, event) => world.emit(item, event));
    this.list.push({ index, name, walker, hands, fate, look: [1, 0, 0], walked: 0, riding: null });
    if (index > 0) world.print('system', `${name} has come in.`);
    return index;
  }

  /** Somebody who came in later goes. What they carried stays where it is. */
  leave(index: number): void {
    const at = this.list.findIndex((player) => player.index === index);
    if (at <= 0) return;
    const [player] = this.list.splice(at, 1);
    player.hands?.release();
    this.world.print('system', `${player.name} has gone.`);
  }

  /** What each wants in a step, in the order of the players; who wants nothing stands still. */
  wanted(first: Intent, guests: Readonly<Record<number, Intent>>): Intent[] {
    return this.list.map((player) => {
      const intent = player.index === 0 ? first : (guests[player.index] ?? STILL);
      if (intent.look) player.look = intent.look;
      return intent;
    });
  }

  walk(wanted: readonly Intent[], traffic: Traffic, dt: number): void {
    const { vehicles, rivals } = this.world;
    const ridden = new Map(this.list.flatMap((player, i) => (player.riding === null ? [] : [[player.riding, wanted[i]]])));
    for (const vehicle of vehicles) vehicles.steer(vehicle, ridden.get(vehicle.item.id) ?? rivals.wants(vehicle.item.id), dt);
    vehicles.step(dt);
    this.list.forEach((player, i) => {
      const vehicle = player.riding === null ? undefined : vehicles.get(player.riding);
      if (vehicle && !player.walker.flying) return vehicles.carry(vehicle, player.walker);
      this.ride(player.walker, traffic, dt);
      this.walkOne(player, wanted[i], dt);
    });
  }

  private board(player: Player, item: TrialObject): void {
    this.mount(player, item.id);
    this.world.use(item);
  }

  /** Somebody gets on a vehicle, or off the one that they ride. */
  mount(player: Player, id: string | null): void {
    const vehicle = this.world.vehicles.get(player.riding ?? '');
    player.riding = id;
    if (id !== null || !vehicle) return;
    // Beside it, on whatever is there.
    const { heading } = vehicle.state;
    const aside = vehicle.half + this.world.profile.player.radius * 2;
    const { feet } = player.walker;
    this.put(player, [feet[0] - Math.sin(heading) * aside, feet[1] + Math.cos(heading) * aside, feet[2] + this.world.profile.player.stepHeight]);
  }

  /** Moves a player along with what carries whoever stands on it. */
  private ride(walker: Walker, traffic: Traffic, dt: number): void {
    const ground = walker.ground && this.world.objects.get(walker.ground.id);
    for (const { part, life } of ground?.parts ?? []) {
      const carried = part.carries?.(life);
      if (carried) traffic.ride(walker, carried.map((v) => v * dt) as Vec3);
    }
  }

  carry(wanted: readonly Intent[], dt: number): void {
    this.list.forEach((player, i) => player.hands?.step(player.walker, this.eye(player), player.look, wanted[i].move, dt));
  }

  /** After all have moved. */
  moved(dt: number): void {
    for (const { walker, fate } of this.list) {
      this.world.coverage?.stay(walker.feet, dt);
      fate.moved();
    }
  }

  /** Ids of what is in anybody's hands. */
  carried(): ReadonlySet<string> {
    return new Set(this.list.flatMap(({ hands }) => hands?.held ?? []));
  }

  release(id: string): void {
    for (const { hands } of this.list) if (hands?.held === id) hands.release();
  }

  /** The map was edited around them: nobody is lost by it. */
  edited(): void {
    for (const { fate, walker } of this.list) {
      fate.forgive();
      this.rise(walker);
    }
  }

  put({ walker }: Player, feet: Vec3): void {
    Object.assign(walker, { feet: [...feet], velocity: [0, 0, 0], onGround: false, climbing: false, ground: null });
    this.rise(walker);
  }

  eye({ walker }: Player): Vec3 {
    const { player } = this.world.profile;
    return addScaled(walker.feet, [0, 0, 1], player.eyeHeight - (player.height - heightOf(player, walker)));
  }

  boxOf({ feet: [x, y, z], crouching }: Walker): Box3 {
    const { player } = this.world.profile;
    const { radius } = player;
    return { min: [x - radius, y - radius, z], max: [x + radius, y + radius, z + heightOf(player, { crouching })] };
  }

  /** Those who are within the space of an object. */
  within(item: Item): Player[] {
    const space = this.world.objects.boxOf(item);
    return this.list.filter(({ walker }) => this.world.inSpace(item, this.boxOf(walker), space));
  }

  /** What can be done along a line of sight, and how. */
  choice(player: Player, look: Vec3): (Offer & { act(): void }) | null {
    const { world } = this;
    const { hands } = player;
    const nameOf = (id: string) => world.objects.get(id)?.object.name ?? id;
    if (player.riding !== null) return { does: 'get off', name: nameOf(player.riding), act: () => this.mount(player, null) };
    if (hands?.held) return { does: 'set down', name: nameOf(hands.held), act: () => void hands.release() };
    const usable = this.usable(player, look);
    if (usable && world.vehicles.get(usable.id)) return { does: 'ride', name: usable.object.name, act: () => this.board(player, usable) };
    if (usable && usable.properties.talk && usable.parts.some(({ part }) => part.person))
      return { does: 'talk to', name: usable.object.name, act: () => world.use(usable) };
    if (usable) return { does: 'operate', name: usable.object.name, act: () => world.use(usable) };
    const liftable = hands?.liftable(this.eye(player), look, this.withinReach(player));
    return hands && liftable ? { does: 'pick up', name: nameOf(liftable), act: () => hands.take(liftable) } : null;
  }

  /** The usable object that a player looking along `direction` can reach, or null. */
  usable(player: Player, direction: Vec3): TrialObject | null {
    const { objects, profile } = this.world;
    const { reach } = profile.player;
    const eye = this.eye(player);
    const things = [];
    for (const item of objects) {
      if (!item.parts.some(({ part }) => part.objective === 'operate') || isGone(item) || this.world.rivals.rides(item.id)) continue;
      const box = objects.boxNow(item);
      if (boxesTouch(box, { min: eye, max: eye }, reach))
        things.push({ id: item.id, item, box, position: add(item.object.position, item.pose.offset) });
    }
    return things.length > 0 ? (reachedAhead(things, eye, direction, reach, this.withinReach(player))?.item ?? null) : null;
  }

  private withinReach(player: Player): Obstacle[] {
    const { reach } = this.world.profile.player;
    const eye = this.eye(player);
    return this.world.near({ min: eye.map((v) => v - reach) as Vec3, max: eye.map((v) => v + reach) as Vec3 });
  }

  /** Lifts a player out of what was built around it, as far as there is anything free above. */
  private rise(walker: Walker): void {
    const { player } = this.world.profile;
    const half: Vec3 = [player.radius, player.radius, heightOf(player, walker) / 2];
    for (let i = 0; i < RISES; i++) {
      if (overlapping(this.world.firm(this.boxOf(walker)), addScaled(walker.feet, [0, 0, 1], half[2]), half).length === 0) return;
      walker.feet = addScaled(walker.feet, [0, 0, 1], player.stepHeight);
    }
  }

  private walkOne(who: Player, intent: Intent, dt: number): void {
    const { objects, profile } = this.world;
    const { player, surfaces } = profile;
    const { walker } = who;
    const before: Vec3 = [...walker.feet];
    const far = player.runSpeed * dt + Math.abs(walker.velocity[2]) * dt + player.stepHeight + player.height;
    const box = this.boxOf(walker);
    const around: Box3 = { min: box.min.map((v) => v - far) as Vec3, max: box.max.map((v) => v + far) as Vec3 };
    stepWalker(walker, intent, this.world.near(around), player, dt, {
      drag: dragOn(objects),
      climb: climbAt(objects, box),
      water: waterAt(objects, box),
    });
    if (walker.onGround) who.walked += Math.hypot(walker.feet[0] - before[0], walker.feet[1] - before[1]);
    if (who.walked < STRIDE * player.radius) return;
    who.walked = 0;
    const footstep = surfaces.find(({ id }) => id === walker.ground?.surface)?.footstep;
    if (footstep) this.world.play(footstep, walker.crouching ? 0.2 : 0.5);
  }
}

/** Objects at which players begin. */
export const startsOf = (objects: Iterable<TrialObject>): TrialObject[] => [...objects].filter((item) => item.parts.some(({ part }) => part.start));

/** The world as what becomes of a player sees it. A guest ends no run: it comes back to its start. */
function around(world: PlayersWorld, index: number, walker: Walker): FateWorld {
  return {
    guest: index > 0,
    walker,
    findings: world.findings,
    get time() {
      return world.time;
    },
    get ended() {
      return world.ended;
    },
    set ended(how) {
      world.ended = how;
    },
    print: (kind, text) => world.print(kind, text),
    lost: (how) => world.coverage?.lose(how, walker.feet),
  };
}
