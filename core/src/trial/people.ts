/** People of a running world: how they stand, look about, walk, follow and see, and the movement sequences that they play. */

import { PLAYER } from '../document/schema.ts';
import { pathLength, pointAlong } from '../document/path.ts';
import { chance } from '../math/chance.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { turnAbout } from '../math/pose.ts';
import { add, sub, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import { SequencePlayer, turnTo, type Mover, type MovementWorld } from '../movement/play.ts';
import { paceOf } from '../part/actor.ts';
import { numberOf, type Item } from '../part/part.ts';
import { hasPart } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import type { Obstacle } from './collide.ts';
import type { Leg } from './exploreGround.ts';
import type { Walker } from './move.ts';
import type { TrialObject, TrialObjects } from './objects.ts';

/** What people need of the world. */
export interface PeopleWorld {
  readonly profile: Profile;
  readonly map: RuntimeMap;
  readonly objects: TrialObjects;
  readonly walker: Walker;
  /** What stands in the way near a box, people and players left out. */
  firm(box: Box3): Obstacle[];
  ground(at: Vec3): number | null;
  playerBox(): Box3;
  play(sound: string, at: Vec3): void;
  print(kind: 'system' | 'error', text: string): void;
  emit(item: Item, event: string): void;
}

/** A way on foot over the navmesh, or null where there is none. */
export type WayFinder = (from: Vec3, to: Vec3) => Leg[] | null;

interface Person {
  item: TrialObject;
  mover: Mover;
  home: Vec3;
  random: () => number;
  /** Points still to be walked to; seconds until something new is thought of. */
  way: Vec3[];
  rest: number;
  along: number;
  following: { gap: number; trail: Vec3[] } | null;
  /** Where it was put last. */
  placed: { position: Vec3; turn: number };
}

/** Seconds between two thoughts of somebody who looks about or wanders, least and most. */
const REST = [1.5, 4];
const TURN_SPEED = 180;

export class People {
  private readonly people = new Map<string, Person>();
  private readonly scenes: { name: string; player: SequencePlayer; movers: Map<string, Mover> }[] = [];
  private way: WayFinder | null = null;
  private readonly player: Mover;

  constructor(private readonly world: PeopleWorld) {
    const { profile } = world;
    this.player = { position: [0, 0, 0], turn: 0, walk: profile.player.walkSpeed, run: profile.player.runSpeed, hidden: false, rising: null };
    for (const item of world.objects) this.admit(item);
  }

  /** Whether anybody has to find ways. */
  get wander(): boolean {
    return [...this.people.values()].some(({ item }) => item.properties.moves === 'wanders');
  }

  has(id: string): boolean {
    return this.people.has(id);
  }

  walkBy(way: WayFinder): void {
    this.way = way;
  }

  admit(item: TrialObject): void {
    const { profile } = this.world;
    if (!hasPart(profile, item.object.class, 'actor')) return;
    const walk = paceOf(item.properties, profile.player.walkSpeed);
    const seed = [...item.id].reduce((hash, letter) => Math.imul(hash, 31) + letter.charCodeAt(0), 7);
    // Who was edited while they were somewhere else goes on from there.
    const position = item.driven ? add(item.object.position, item.driven.offset) : item.object.position;
    this.people.set(item.id, {
      item,
      mover: { position, turn: item.object.turn, walk, run: walk * 1.7, hidden: false, rising: null },
      home: item.object.position,
      random: chance(seed),
      way: [],
      rest: 1,
      along: 0,
      following: null,
      placed: { position, turn: item.object.turn },
    });
  }

  dismiss(id: string): void {
    this.people.delete(id);
  }

  /** Whether the player is moved by a sequence, and walks for nobody else. */
  get leads(): boolean {
    return this.scenes.some(({ movers }) => movers.has(PLAYER));
  }

  get moving(): boolean {
    return this.scenes.length > 0;
  }

  /** Begins a sequence by its name or id; false where there is none. */
  play(name: string): boolean {
    const { map } = this.world;
    const found = Object.entries(map.sequences ?? {}).find(([id, sequence]) => sequence.name === name || id === name);
    if (!found) return false;
    const steps = found[1].steps.filter((step) => step.do !== 'end');
    const named = new Set(steps.flatMap((step) => (step.do === 'follow' ? [step.who, step.whom] : [step.who])));
    const movers = new Map<string, Mover>();
    for (const id of named) {
      const person = this.people.get(id);
      if (person) {
        movers.set(id, person.mover);
        person.following = null;
        person.way = [];
      } else if (id === PLAYER) movers.set(PLAYER, this.player);
    }
    // Who is followed only is not led.
    if (!steps.some(({ who }) => who === PLAYER)) movers.delete(PLAYER);
    const seen = new Map(movers);
    if (named.has(PLAYER)) seen.set(PLAYER, this.player);
    this.scenes.push({ name: found[1].name, player: new SequencePlayer(steps, seen, this.forMovement()), movers });
    this.world.print('system', `${found[1].name} begins.`);
    return true;
  }

  follow(id: string, gap?: number): void {
    const person = this.people.get(id);
    if (person) person.following = { gap: gap ?? this.world.profile.player.radius * 4, trail: [] };
  }

  stay(id: string): void {
    const person = this.people.get(id);
    if (person) {
      person.following = null;
      person.way = [];
      person.home = person.mover.position;
    }
  }

  turn(name: string, to: string): void {
    const person = [...this.people.values()].find(({ item }) => item.object.name === name || item.properties.record === name);
    const other = to === '' ? this.world.walker.feet : this.world.objects.named(to)?.object.position;
    if (!person || !other) return;
    const [dx, dy] = sub(other, person.mover.position);
    person.mover.turn = (Math.atan2(dy, dx) * 180) / Math.PI;
    this.place(person);
  }

  step(seconds: number): void {
    if (this.people.size === 0 && this.scenes.length === 0) return;
    const { walker } = this.world;
    this.player.position = walker.feet;
    const playing = new Set<string>();
    for (const scene of this.scenes) {
      scene.player.step(seconds);
      for (const id of scene.movers.keys()) playing.add(id);
      if (scene.movers.has(PLAYER)) {
        walker.feet = this.player.position;
        walker.velocity = [0, 0, 0];
      }
    }
    for (const { name, player } of this.scenes.filter((scene) => scene.player.over || scene.player.stalled > 5)) {
      if (!player.over) this.world.print('error', `${name} does not end: step ${player.at + 1} waits for something that cannot happen.`);
      for (const { who, whom, gap } of player.following()) if (whom === PLAYER) this.follow(who, gap);
      this.world.print('system', `${name} is over.`);
    }
    this.scenes.splice(0, this.scenes.length, ...this.scenes.filter(({ player }) => !player.over && player.stalled <= 5));
    for (const person of this.people.values()) {
      if (!playing.has(person.item.id)) this.live(person, seconds);
      const actor = person.item.parts.find(({ part }) => part.id === 'actor')!.life.state as { hidden: boolean; seeing: boolean };
      if (playing.has(person.item.id)) actor.hidden = person.mover.hidden;
      else person.mover.hidden = actor.hidden;
      this.look(person, actor);
      this.place(person);
    }
  }

  private live(person: Person, seconds: number): void {
    const { mover, item } = person;
    if (person.following) return this.goAfter(person, person.following, seconds);
    const { moves, path: pathId, area } = item.properties;
    if (moves === 'path') {
      const path = own(this.world.map.paths, String(pathId));
      if (!path) return;
      const whole = pathLength(path);
      const along = person.along + mover.walk * seconds;
      const to = pointAlong(path, path.loop ? along % whole : back(along, whole));
      if (this.walk(person, to, seconds) !== 'blocked') person.along = along;
      return;
    }
    if (person.way.length > 0) {
      const went = this.walk(person, person.way[0], seconds);
      if (went === 'there') person.way.shift();
      else if (went === 'blocked') person.way = [];
      return;
    }
    person.rest -= seconds;
    if (person.rest > 0 || (moves !== 'looks' && moves !== 'wanders')) return;
    person.rest = REST[0] + person.random() * (REST[1] - REST[0]);
    const angle = person.random() * 360;
    if (moves === 'looks') {
      mover.turn = angle;
      return;
    }
    const away = Math.sqrt(person.random()) * numberOf(area);
    const to: Vec3 = [
      person.home[0] + Math.cos((angle * Math.PI) / 180) * away,
      person.home[1] + Math.sin((angle * Math.PI) / 180) * away,
      person.home[2],
    ];
    const legs = this.way ? this.way(mover.position, to) : null;
    if (legs?.every(({ how }) => how === 'walk')) person.way = legs.map((leg) => leg.to);
  }

  /** Along the way that the player has gone, so that no wall is in it. */
  private goAfter(person: Person, following: { gap: number; trail: Vec3[] }, seconds: number): void {
    const { trail, gap } = following;
    const { feet } = this.world.walker;
    const { radius } = this.world.profile.player;
    const last = trail[trail.length - 1];
    if (!last || Math.hypot(last[0] - feet[0], last[1] - feet[1]) > radius) trail.push([...feet]);
    const { mover } = person;
    if (Math.hypot(feet[0] - mover.position[0], feet[1] - mover.position[1], feet[2] - mover.position[2]) <= gap) {
      trail.splice(0, trail.length - 1);
      return;
    }
    if (trail[0] && this.walk(person, trail[0], seconds, mover.run) === 'there') trail.shift();
  }

  private walk({ item, mover }: Person, to: Vec3, seconds: number, speed = mover.walk): 'there' | 'went' | 'blocked' {
    const [dx, dy] = [to[0] - mover.position[0], to[1] - mover.position[1]];
    const away = Math.hypot(dx, dy);
    if (away < 1e-6) return 'there';
    const share = Math.min(1, (speed * seconds) / away);
    const flat: Vec3 = [mover.position[0] + dx * share, mover.position[1] + dy * share, mover.position[2]];
    const next: Vec3 = [flat[0], flat[1], this.floor(flat) ?? flat[2]];
    turnTo(mover, (Math.atan2(dy, dx) * 180) / Math.PI, TURN_SPEED * 2 * seconds);
    if (!this.free(item.id, next)) return 'blocked';
    mover.position = next;
    return share >= 1 ? 'there' : 'went';
  }

  private look({ item, mover }: Person, actor: { hidden: boolean; seeing: boolean }): void {
    const { sight } = this.world.profile;
    const steps = numberOf(item.properties.sight);
    if (!sight || steps <= 0) return;
    const { feet } = this.world.walker;
    const [dx, dy, dz] = sub(feet, mover.position);
    const cone = numberOf(item.properties.cone) || 360;
    const off = Math.abs((((((Math.atan2(dy, dx) * 180) / Math.PI - mover.turn) % 360) + 540) % 360) - 180);
    const near = !actor.hidden && Math.hypot(dx, dy) <= steps * sight.step && Math.abs(dz) <= sight.height && off <= cone / 2;
    const seeing = near && (!sight.walls || this.clear(mover.position, feet));
    if (seeing === actor.seeing) return;
    actor.seeing = seeing;
    this.world.emit(item, seeing ? 'sees' : 'loses');
  }

  /** Whether nothing stands between the eyes at two places. */
  private clear(from: Vec3, to: Vec3): boolean {
    const height = this.world.profile.sight!.height;
    const [a, b] = [from, to].map(([x, y, z]): Vec3 => [x, y, z + height]);
    const box: Box3 = {
      min: a.map((v, i) => Math.min(v, b[i])) as Vec3,
      max: a.map((v, i) => Math.max(v, b[i])) as Vec3,
    };
    return !this.world.firm(box).some(({ planes, id }) => !this.people.has(id) && meets(planes, a, b));
  }

  private floor = (at: Vec3): number | null => {
    const { stepHeight, height } = this.world.profile.player;
    const from: Vec3 = [at[0], at[1], at[2] + stepHeight];
    const to: Vec3 = [at[0], at[1], at[2] - height];
    let best = this.world.ground(from);
    for (const { planes, id } of this.world.firm({ min: [at[0], at[1], to[2]], max: [at[0], at[1], from[2]] })) {
      if (this.people.has(id)) continue;
      const top = entry(planes, from, to);
      if (top !== null && top > 0 && (best === null || from[2] + (to[2] - from[2]) * top > best)) best = from[2] + (to[2] - from[2]) * top;
    }
    return best;
  };

  /** Whether somebody's body has room at a place; what they step onto does not count. */
  private free(id: string, at: Vec3): boolean {
    const { radius, height, stepHeight } = this.world.profile.player;
    const slim = radius * 0.7;
    const box: Box3 = { min: [at[0] - slim, at[1] - slim, at[2] + stepHeight], max: [at[0] + slim, at[1] + slim, at[2] + height * 0.95] };
    if (boxesTouch(box, this.world.playerBox(), radius * 0.1)) return false;
    return !this.world.firm(box).some((obstacle) => obstacle.id !== id && within(obstacle.planes, box));
  }

  private forMovement(): MovementWorld {
    const { profile } = this.world;
    return {
      gravity: profile.player.gravity,
      jumpSpeed: profile.player.jumpSpeed,
      floor: this.floor,
      free: (who, _from, to) => this.free(who, to),
      sound: (who, sound) => this.world.play(sound, this.people.get(who)?.mover.position ?? this.world.walker.feet),
    };
  }

  private place({ item, mover, placed }: Person): void {
    const { position, turn } = item.object;
    // Who stands still stays the same value, which nothing has to look at again.
    if (placed.position === mover.position && placed.turn === mover.turn) return;
    placed.position = mover.position;
    placed.turn = mover.turn;
    item.driven = { offset: sub(mover.position, position), turn: turnAbout([0, 0, 1], mover.turn - turn) };
  }
}

/** There and back along an open path. */
const back = (along: number, whole: number): number => {
  const at = along % (whole * 2);
  return at > whole ? whole * 2 - at : at;
};

/** Share of a way at which it comes into a convex obstacle; null where it does not. */
function entry(planes: Obstacle['planes'], from: Vec3, to: Vec3): number | null {
  let [enter, leave] = [0, 1];
  for (const [x, y, z, d] of planes) {
    const [a, b] = [x * from[0] + y * from[1] + z * from[2] - d, x * to[0] + y * to[1] + z * to[2] - d];
    if (a > 0 && b > 0) return null;
    if (a > 0) enter = Math.max(enter, a / (a - b));
    else if (b > 0) leave = Math.min(leave, a / (a - b));
  }
  return enter < leave ? enter : null;
}

const meets = (planes: Obstacle['planes'], from: Vec3, to: Vec3): boolean => entry(planes, from, to) !== null;

/** Whether a box shares room with a convex obstacle. */
const within = (planes: Obstacle['planes'], { min, max }: Box3): boolean =>
  planes.every(([x, y, z, d]) => x * (x > 0 ? min[0] : max[0]) + y * (y > 0 ? min[1] : max[1]) + z * (z > 0 ? min[2] : max[2]) < d - 1e-6);
