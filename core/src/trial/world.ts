/**
 * The simulation of a built map: one player, objects with their parts, signals with delays, things that physics moves,
 * and scripts. It knows nothing of screens; the browser and the headless run drive the same class in fixed steps.
 */

import type { Finding } from '../finding.ts';
import { effectOf } from '../effect/effects.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { addScaled, scale, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import type { Item, PartHost } from '../part/part.ts';
import { loadRapier, type Rapier } from '../physics/rapier.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import { boxInSolid } from '../solid/boxInSolid.ts';
import type { Collision } from '../stages/pack/collisionBin.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import { Bodies, BODY_LIMIT } from './bodies.ts';
import { obstacleFromPlanes, type Obstacle } from './collide.ts';
import { TrialConsole, type ConsoleLine } from './console.ts';
import { liquidsOf } from './environment.ts';
import { Fields } from './fields.ts';
import type { Hands } from './hands.ts';
import type { LiveEdit } from './liveMap.ts';
import { STILL, type Intent, type Walker } from './move.ts';
import { TrialObjects, type TrialObject } from './objects.ts';
import { Ground } from './exploreGround.ts';
import { People } from './people.ts';
import { Talking } from './talking.ts';
import { Players, startsOf, type Offer, type PlayersWorld } from './players.ts';
import { Moods } from './moods.ts';
import { onLine, Race } from './race.ts';
import { Rivals, withRivals } from './rivals.ts';
import { TrialScripts, type ScriptWorld, type TrialWatcher } from './scripts.ts';
import { Signals } from './signals.ts';
import { Surround } from './surround.ts';
import { PENDING_LIMIT, Timetable } from './timetable.ts';
import { Traffic } from './traffic.ts';
import { Vehicles, type Vehicle, type VehiclesWorld } from './vehicles.ts';
import { Wind, type WindSetting } from './wind.ts';

/** Seconds per step. */
export const TIME_STEP = 1 / 60;

export interface TrialInputs {
  profile: Profile;
  map: RuntimeMap;
  collision: Collision;
  scripts: Record<string, string>;
  /** Tables and conversations by path; none without it. */
  data?: Record<string, string>;
  /** Id of the object at which the player begins; the first that is a start without it. */
  start?: string;
  wasmUri?: string;
  /** In place of the wind as the map's weather alone has it. */
  wind?: WindSetting;
}

/** A sound that was asked for; `subtitles` is the path of its file, or empty. */
export interface PlayedSound {
  sound: string;
  volume: number;
  subtitles: string;
  /** Where it comes from; everywhere without it. */
  at?: Vec3;
}

/** Sounds that are kept for whoever plays them. */
const SOUND_LIMIT = 100;
export class TrialWorld {
  readonly console = new TrialConsole();
  readonly findings: Finding[] = [];
  time = 0;
  ended: 'won' | 'fell' | 'died' | null = null;
  /** Sounds asked for since the last look, for whoever can play them. */
  readonly sounds: PlayedSound[] = [];
  readonly signals: Signals;
  readonly bodies: Bodies | null;
  readonly objects: TrialObjects;
  readonly fields: Fields;
  readonly moods: Moods;
  readonly wind: Wind;
  readonly vehicles: Vehicles;
  /** The race of the first player; null where the map has no route. */
  readonly race: Race | null;
  readonly rivals: Rivals;
  /** What became of vehicles: where and why they were thrown over. */
  readonly crashes: { time: number; at: Vec3; why: string }[] = [];
  private readonly surround: Surround;
  /** Those who play; the first is whose run it is. */
  readonly players: Players;
  readonly people: People;
  readonly talking: Talking;
  private readonly timetable = new Timetable();
  readonly scripts: TrialScripts;
  private readonly traffic: Traffic;

  private readonly inputs: TrialInputs;

  private constructor(
    given: TrialInputs,
    private readonly watcher: TrialWatcher,
    rapier: Rapier | null,
  ) {
    // Edits change it while it runs, and it belongs to whoever began the run.
    const raced = withRivals(given.profile, given.map, given.data ?? {});
    this.inputs = { ...given, map: { ...raced.map, models: { ...given.map.models }, bodies: { ...given.map.bodies } } };
    const { profile, map, collision } = this.inputs;
    this.host.gravity = profile.player.gravity;
    this.bodies = rapier && new Bodies(rapier, profile, TIME_STEP);
    this.scripts = new TrialScripts(this.forScripts(), watcher, given.scripts);
    this.signals = new Signals(this.forSignals(), map.name, map.signals);
    this.surround = new Surround(profile.player.height * 2);
    this.traffic = new Traffic({
      bodies: this.bodies,
      profile,
      near: (box) => this.near(box),
      walkers: () => this.players.walkers,
      crush: (item, walker) => [...this.players].find((player) => player.walker === walker)?.fate.hurt(item, Infinity),
    });
    this.fields = new Fields(collision.grounds ?? [], profile.player.height * 8);
    this.bodies?.setGrounds(collision.grounds ?? []);
    this.moods = new Moods(map.settings);
    this.wind = new Wind(() => this.moods.weather, given.wind);
    const [route] = Object.values(map.routes ?? {});
    this.race = route ? new Race(route) : null;
    this.vehicles = new Vehicles(this.forVehicles());
    for (const { id, planes, surfaces } of collision.solids) this.setSolid(id, [obstacleFromPlanes(id, planes, surfaces)]);
    this.objects = new TrialObjects(profile, map, this.bodies, this.host);
    const lying = Object.entries(map.objects).filter(([id, object]) => !this.objects.admit(id, object)).length;
    if (lying > 0)
      this.findings.push({
        code: 'bodies-full',
        severity: 'warning',
        stage: 'trial',
        message: `${lying.toLocaleString('en')} things that should move lie still: a run moves at most ${BODY_LIMIT.toLocaleString('en')}.`,
        hint: 'Make props fixed that nobody has to move.',
        place: { map: map.name },
      });
    for (const item of this.objects) this.vehicles.admit(item);
    this.rivals = new Rivals(this.forRivals(), raced.rivals);
    for (const problem of raced.problems) this.print('error', problem);
    const starts = startsOf(this.objects);
    const lowest = [...this.surround.all()].reduce((low, { box }) => Math.min(low, box.min[2]), Math.min(0, this.fields.lowest));
    const floor = lowest - profile.player.height * (this.fields.any ? 8 : 2);
    this.players = new Players(this.forPlayers(), starts.find(({ id }) => id === given.start) ?? starts[0] ?? null, floor);
    this.people = new People(this.forPeople());
    this.talking = new Talking(this.forTalk());
  }

  get walker(): Walker {
    return this.players.first.walker;
  }

  get hands(): Hands | null {
    return this.players.first.hands;
  }

  /** Where the first player looks. */
  get look(): Vec3 {
    return this.players.first.look;
  }

  /** Loads the scripts, runs the start-up function and puts the player at the start. */
  static async begin(inputs: TrialInputs, watcher: TrialWatcher = {}): Promise<TrialWorld> {
    const world = new TrialWorld(inputs, watcher, Object.keys(inputs.map.bodies).length > 0 ? await loadRapier() : null);
    await world.scripts.load(inputs.map.scripts, world.objects, inputs.wasmUri);
    world.openAtStart();
    if (world.people.wander) {
      const ground = await Ground.of(world);
      world.people.walkBy((from, to) => ground.way(from, to));
    }
    world.scripts.startUp(inputs.profile.scripts.startup);
    const { start } = world.players;
    if (start) world.signals.emit(start, 'spawned');
    for (const { item } of world.vehicles) if (item.properties.ridden === true) world.players.mount(world.players.first, item.id);
    return world;
  }

  get mapName(): string {
    return this.inputs.map.name;
  }

  get profile(): Profile {
    return this.inputs.profile;
  }

  /** Points left; null where the game counts none. */
  get health(): number | null {
    return this.players.first.fate.health;
  }

  /** Whether calls and signals wait for their time. */
  get waits(): boolean {
    return this.timetable.waits;
  }

  /** Everything that stops players and does not move by itself, where it is now. */
  *standing(): Iterable<Obstacle> {
    yield* this.surround.all();
    yield* this.objects.standing();
  }

  stop(): void {
    this.scripts.stop();
    this.bodies?.free();
  }

  /** All that can stop a player and touches a box, where it is now. */
  near(box: Box3): Obstacle[] {
    const found = [...this.surround.near(box), ...this.fields.near(box), ...this.objects.near(box)];
    return this.bodies ? [...found, ...this.bodies.near(box, this.players.carried())] : found;
  }

  eye(): Vec3 {
    return this.players.eye(this.players.first);
  }

  /** @param guests what those want who have come in later, by their numbers; who wants nothing stands still */
  step(intent: Intent, guests: Readonly<Record<number, Intent>> = {}): void {
    if (this.ended) return;
    this.time += TIME_STEP;
    const still = this.talking.under || this.people.leads;
    const wanted = this.players.wanted(still ? { ...STILL, look: intent.look } : intent, guests);
    this.moods.step(TIME_STEP);
    this.signals.newStep();
    this.scripts.newStep();
    this.timetable.runDue(this.time);
    for (const { parts } of this.objects) for (const { part, life } of parts) part.step?.(life);
    this.talking.step();
    this.people.step(TIME_STEP);
    this.objects.settle();
    this.players.walk(wanted, this.traffic, TIME_STEP);
    this.rivals.observe();
    if (this.bodies) {
      this.players.carry(wanted, TIME_STEP);
      for (const { parts, rest } of this.objects)
        for (const { part, life } of parts) if (rest && part.carries) this.bodies.convey(rest.box, part.carries(life));
      const { walkers } = this.players;
      this.bodies.step(walkers, liquidsOf(this.objects));
      for (const walker of walkers) if (walker.ground) this.traffic.ride(walker, this.bodies.moved(walker.ground.id));
    }
    for (const { parts } of this.objects) for (const { part, life } of parts) part.observe?.(life);
    this.watchRace();
    this.players.moved(TIME_STEP);
  }

  /** What a player can do with what it looks at, or with what it carries. */
  offer(look: Vec3, index = 0): Offer | null {
    const choice = this.players.choice(this.players.of(index), look);
    return choice && { does: choice.does, name: choice.name };
  }

  /** Does what is offered. */
  operate(look: Vec3, index = 0): void {
    const player = this.players.of(index);
    player.look = look;
    this.players.choice(player, look)?.act();
  }

  /** Throws what is carried. */
  fling(look: Vec3, index = 0): void {
    const player = this.players.of(index);
    player.look = look;
    player.hands?.fling(look);
  }

  /** Takes what was edited in the map into the run. Parts keep what they were doing; the player is never lost by it. */
  edit({ objects, anew, solids, signals, paths, models, bodies, left }: LiveEdit): void {
    const { map } = this.inputs;
    Object.assign(map.models, models);
    Object.assign(map.bodies, bodies);
    if (paths) map.paths = paths;
    if (signals) this.signals.replace(signals);
    for (const [id, solid] of Object.entries(solids)) this.setSolid(id, solid ? [obstacleFromPlanes(id, solid.planes, solid.surfaces)] : []);
    for (const [id, object] of Object.entries(objects)) {
      const known = this.objects.get(id);
      this.players.release(id);
      if (known) this.objects.dismiss(known);
      this.people.dismiss(id);
      this.rivals.dismiss(id);
      if (known && known.object.name !== object?.name) this.scripts.attach(known.object.name, undefined);
      if (object) this.scripts.attach(object.name, object.script);
      if (object && !this.objects.admit(id, object, anew ? undefined : known))
        this.print(
          'system',
          `${object.name} ${this.bodies ? `lies still: a run moves at most ${BODY_LIMIT} things` : 'moves only after the next build'}.`,
        );
    }
    for (const id of Object.keys(objects)) {
      const now = this.objects.get(id);
      if (now) this.people.admit(now);
    }
    for (const sentence of left) this.print('system', sentence);
    this.players.edited();
  }

  /** Puts the player somewhere, at rest. */
  put(feet: Vec3): void {
    this.players.put(this.players.first, feet);
    this.print('system', `Put at ${this.walker.feet.map((v) => Math.round(v)).join(', ')}.`);
  }

  /** Has an object send an event, as if it had happened. */
  fire(name: string, event: string): void {
    const item = this.objects.named(name);
    if (!item) return this.print('error', `No object is called "${name}".`);
    if (!classOf(this.inputs.profile, item.object.class)?.events.some(({ id }) => id === event))
      return this.print('error', `${name} has no event "${event}".`);
    this.print('system', `${name} sends ${event}.`);
    this.signals.emit(item, event);
  }

  /** What somebody stands on: an object's name or a solid's id, and the kind of its surface. */
  standingOn({ ground }: Walker): { name: string; surface: string } | null {
    return ground && { name: this.nameOf(ground.id), surface: ground.surface };
  }

  /** On foot, or through everything. */
  glide(index = 0): void {
    const { walker } = this.players.of(index);
    walker.flying = !walker.flying;
    this.print('system', walker.flying ? 'Gliding: solids do not stop you.' : 'On foot again.');
  }

  /** The usable object that the first player can reach along a direction, or null. */
  usable(direction: Vec3): TrialObject | null {
    return this.players.usable(this.players.first, direction);
  }

  /** Operates an object as a player would. */
  use(item: TrialObject): void {
    const event = classOf(this.inputs.profile, item.object.class)?.useEvent;
    this.watcher.coverage?.use(item.id);
    for (const { part, life } of item.parts) part.used?.(life);
    for (const { id, type } of classOf(this.inputs.profile, item.object.class)?.properties ?? []) {
      const name = item.properties[id];
      if (type === 'script' && typeof name === 'string' && name !== '') this.scripts.call(name, null, item.object.name);
    }
    if (event) this.signals.emit(item, event);
  }

  print(kind: ConsoleLine['kind'], text: string): void {
    this.console.print(this.time, kind, text);
  }

  private setSolid(id: string, obstacles: Obstacle[]): void {
    this.surround.set(id, obstacles);
    this.bodies?.setFixed(id, obstacles);
  }

  private nameOf(id: string): string {
    return this.objects.get(id)?.object.name ?? id;
  }

  private forPlayers(): PlayersWorld {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- `time` and `ended` change, so they have to be asked for
    const world = this;
    return {
      profile: this.inputs.profile,
      mapName: this.mapName,
      findings: this.findings,
      objects: this.objects,
      bodies: this.bodies,
      coverage: this.watcher.coverage,
      get time() {
        return world.time;
      },
      get ended() {
        return world.ended;
      },
      set ended(how) {
        world.ended = how;
      },
      print: (kind, text) => this.print(kind, text),
      emit: (item, event) => this.signals.emit(item, event),
      near: (box) => this.near(box),
      firm: (box) => [...this.surround.near(box), ...this.fields.near(box), ...this.objects.near(box)],
      vehicles: this.vehicles,
      race: this.race,
      rivals: this.rivals,
      use: (item) => this.use(item),
      play: (sound, volume) => this.host.play(sound, volume, ''),
      inSpace: (item, box, space) => this.inSpace(item, box, space),
    };
  }

  private forPeople() {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- the player changes, so it has to be asked for
    const world = this;
    return {
      profile: this.inputs.profile,
      map: this.inputs.map,
      objects: this.objects,
      get walker() {
        return world.walker;
      },
      firm: (box: Box3) => [...this.surround.near(box), ...this.fields.thingsNear(box), ...this.objects.near(box)],
      ground: (at: Vec3) => this.fields.under(at)?.height ?? null,
      playerBox: () => this.players.boxOf(this.walker),
      play: (sound: string, at: Vec3) => this.host.play(sound, 1, '', at),
      print: (kind: 'system' | 'error', text: string) => this.print(kind, text),
      emit: (item: Item, event: string) => this.signals.emit(item, event),
    };
  }

  private forTalk() {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- `time` changes, so it has to be asked for
    const world = this;
    return {
      profile: this.inputs.profile,
      get time() {
        return world.time;
      },
      data: this.inputs.data ?? {},
      print: (kind: 'say' | 'system' | 'error', text: string) => this.print(kind, text),
      play: (sound: string) => this.host.play(sound, 1, ''),
      call: (name: string) => this.scripts.call(name, null, ''),
      turn: (who: string, to: string) => this.people.turn(who, to),
      move: (sequence: string) => this.people.play(sequence),
      moving: () => this.people.moving,
      came: (talk: string, step: number) => this.watcher.coverage?.speak(talk, step),
      over: (_talk: string, who: string) => {
        const item = this.objects.named(who);
        if (item) this.signals.emit(item, 'talked');
      },
    };
  }

  /** Answers in the conversation that is under way, by number. */
  answer(n: number): void {
    this.talking.answer(n);
  }

  private forVehicles(): VehiclesWorld {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- `time` changes, so it has to be asked for
    const world = this;
    return {
      profile: this.inputs.profile,
      fields: this.fields,
      wind: this.wind,
      get time() {
        return world.time;
      },
      // Other vehicles and whatever is ridden are no obstacles: a run has one rider who races.
      firm: (box) => [
        ...this.surround.near(box),
        ...this.fields.thingsNear(box),
        ...this.objects.near(box).filter(({ id }) => !this.vehicles.get(id)),
      ],
      boxOf: (item) => this.objects.boxOf(item),
      emit: (item, event) => this.signals.emit(item, event),
      say: (text) => this.print('system', text),
      crashed: (vehicle, why) => this.crash(vehicle, why),
      backTo: (vehicle) => this.backTo(vehicle),
    };
  }

  private forRivals() {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- the player moves and time goes on, so they have to be asked for
    const world = this;
    return {
      profile: this.inputs.profile,
      objects: this.objects,
      vehicles: this.vehicles,
      race: this.race,
      get time() {
        return world.time;
      },
      get feet() {
        return world.walker.feet;
      },
      inSpace: (item: Item, box: Box3, space: Box3) => this.inSpace(item, box, space),
      say: (text: string) => this.print('system', text),
    };
  }

  private crash(vehicle: Vehicle, why: string): void {
    const at = scale(vehicle.state.at, 1 / this.inputs.profile.unit.metres);
    const named = why.replace(/ran into (\S+)/, (_all, id: string) => `ran into ${this.nameOf(id)}`);
    // Those of rivals say nothing of how hard the course is for whoever tests it.
    if (!this.rivals.rides(vehicle.item.id)) {
      this.crashes.push({ time: this.time, at, why: named });
      this.watcher.coverage?.lose('falls', at);
    }
    this.print('system', `${vehicle.item.object.name} ${named}.`);
    this.signals.emit(vehicle.item, 'crashed');
  }

  /** Where a vehicle comes back to: on the route beside what was passed last, or where it stood at first. */
  private backTo({ item }: Vehicle): { at: Vec3; heading: number } {
    const race = this.rivals.raceOf(item.id) ?? this.race;
    const last = race && this.objects.get(race.lastPassed);
    if (!race || !last || race.lastPassed === race.route.start) return { at: item.object.position, heading: (item.object.turn * Math.PI) / 180 };
    const line = onLine(race.route.points, last.object.position);
    const under = this.fields.under(last.object.position);
    return { at: [line.at[0], line.at[1], under?.height ?? last.object.position[2]], heading: line.heading };
  }

  /** A player has come into the space of something that may belong to the race, or lead back. */
  private passed(id: string): void {
    const { race } = this;
    const what = race?.pass(id, this.time);
    if (!race || !what) return;
    const { splits, lap, laps, stops, passed } = race.state(this.time);
    const seconds = (splits.at(-1)?.at ?? 0).toFixed(2);
    const name = this.nameOf(id);
    if (what === 'stop') this.print('system', `${name}, ${passed} of ${stops}: ${seconds} s.`);
    else if (what === 'lap') this.print('system', `Lap ${lap} of ${laps}: ${seconds} s.`);
    else if (what === 'finish') this.print('system', `Finished after ${seconds} s${this.ownPlace()}.`);
    else this.print('system', `${name} is not what comes next.`);
  }

  private ownPlace(): string {
    return this.rivals.any ? `, in place ${this.rivals.standings().findIndex(({ own: mine }) => mine) + 1}` : '';
  }

  /** The clock begins with the first move, and boundaries send back. */
  private watchRace(): void {
    const rider = this.vehicles.get(this.players.first.riding ?? '');
    if (rider && rider.down === null) {
      // Not by settling onto the ground.
      if (this.race && Math.hypot(rider.state.velocity[0], rider.state.velocity[1]) > 0.5) this.race.start(this.time);
      this.keepWithin(rider, this.players.boxOf(this.walker));
    }
    for (const { vehicle, box } of this.rivals.riding()) this.keepWithin(vehicle, box);
  }

  /** Throws a vehicle over that has left the course. */
  private keepWithin(rider: Vehicle, box: Box3): void {
    for (const item of this.objects) {
      if (!item.parts.some(({ part }) => part.id === 'zone')) continue;
      const use = this.inputs.profile.zoneUses?.find(({ id }) => id === item.properties.use);
      if (!use?.returns || !this.inSpace(item, box, this.objects.boxOf(item))) continue;
      this.vehicles.throwOver(rider, `left the course at ${item.object.name}`);
      return;
    }
  }

  private forSignals() {
    // eslint-disable-next-line @typescript-eslint/no-this-alias -- `time` changes, so it has to be asked for
    const world = this;
    return {
      get time() {
        return world.time;
      },
      findings: this.findings,
      print: (kind: 'signal' | 'error', text: string) => this.print(kind, text),
      happened: ({ object }: Item, event: string) => this.scripts.happened(object.name, event),
      sent: (id: string) => this.watcher.coverage?.send(id),
      item: (id: string) => this.objects.get(id),
      act: ({ id }: Item, action: string, value: string | null) => this.act(this.objects.get(id)!, action, value),
      call: (script: string, value: string | null, source: string) => this.scripts.call(script, value, source),
      schedule: (seconds: number, run: () => void) => this.schedule(seconds, run),
    };
  }

  private forScripts(): ScriptWorld {
    return {
      findings: this.findings,
      print: (kind, text) => this.print(kind, text),
      named: (name) => this.objects.named(name),
      value: ({ id }, property) => this.objects.value(this.objects.get(id)!, property),
      act: ({ id }, action, value) => this.act(this.objects.get(id)!, action, value),
      win: (text) => this.win(text),
      recall: (name) => this.talking.recall(name),
      remember: (name, value) => this.talking.remember(name, value),
      schedule: (seconds, run) => this.schedule(seconds, run),
    };
  }

  /** Runs something later. Answers false where so much waits already that it is dropped. */
  private schedule(seconds: number, run: () => void): boolean {
    const waits = this.timetable.add(this.time + (seconds > 0 ? seconds : 0), run);
    if (!waits && !this.findings.some((finding) => finding.code === 'pending-full'))
      this.findings.push({
        code: 'pending-full',
        severity: 'warning',
        stage: 'trial',
        message: `${PENDING_LIMIT.toLocaleString('en')} calls and signals wait for their time; more are dropped.`,
        hint: 'Look for a function that calls after() for itself more than once, or for signals with a delay that run in a circle.',
        place: { map: this.inputs.map.name },
      });
    return waits;
  }

  private act(item: TrialObject, action: string, value: string | null): void {
    const objectClass = classOf(this.inputs.profile, item.object.class);
    if (!objectClass?.actions.some((a) => a.id === action)) return this.scripts.problem(`${item.object.name} has no action "${action}"`);
    for (const { part, life } of item.parts) {
      const does = part.actions && own(part.actions, action);
      if (does) return does(life, value);
    }
  }

  private win(text: string): void {
    if (this.ended) return;
    this.print('system', text || 'Done.');
    this.ended = 'won';
  }

  /** What objects ask of the world and tell it. */
  private readonly host: { -readonly [K in keyof PartHost]: PartHost[K] } = {
    step: TIME_STEP,
    gravity: 0,
    emit: (item, event) => this.signals.emit(item, event),
    entered: ({ id }) => {
      this.watcher.coverage?.enter(id);
      this.passed(id);
      this.objects.get(id)!.parts.forEach(({ part, life }) => part.entered?.(life));
    },
    act: ({ id }, action) => this.act(this.objects.get(id)!, action, null),
    say: (text) => this.print('say', text),
    mood: (name, seconds) => this.moods.change(name, seconds),
    effect: (name) => effectOf(this.inputs.data ?? {}, name),
    play: (sound, volume, subtitles, at) =>
      void (this.sounds.length < SOUND_LIMIT && this.sounds.push({ sound, volume, subtitles, ...(at ? { at } : {}) })),
    win: (text) => this.win(text),
    hurt: (item, points) => this.players.within(item).forEach(({ fate }) => fate.hurt(item, points)),
    mayFinish: (item) => !this.race?.isOfRoute(item.id) || this.race.finished,
    claim: (item) => {
      const inside = this.players.within(item);
      (inside.length > 0 ? inside : [...this.players]).forEach(({ fate }) => fate.claim(item));
    },
    path: (id) => own(this.inputs.map.paths, id),
    extent: (item) => this.objects.boxOf(item),
    playerIn: (item, space) => this.players.walkers.some((walker) => this.inSpace(item, this.players.boxOf(walker), space)),
    person: ({ id }, does, value) => {
      const item = this.objects.get(id)!;
      if (does === 'talk') this.talking.begin(value ?? String(item.properties.talk), item.object.name);
      else if (does === 'follow') this.people.follow(id);
      else if (does === 'stay') this.people.stay(id);
      else if (!this.people.play(value ?? '')) this.print('error', `There is no movement sequence "${value ?? ''}".`);
    },
    thingsIn: (item, space) => {
      let count = 0;
      for (const id of this.bodies?.ids() ?? []) if (this.inSpace(item, this.bodies!.boxOf(id)!, space)) count++;
      return count;
    },
    liveOf: (id, value) => {
      const item = this.objects.get(id);
      return item ? (own(this.objects.liveOf(item), value) ?? null) : null;
    },
    struck: ({ id }) => this.bodies?.struck(id) ?? 0,
    blocked: ({ id }) => {
      const item = this.objects.get(id)!;
      return item.rest !== null && this.traffic.blocked(item, item.rest, item.pose, this.objects.movedTo(item));
    },
  };

  private inSpace({ object }: Item, box: Box3, space: Box3): boolean {
    return boxesTouch(box, space) && (!object.shape || boxInSolid(box, object.shape, 0));
  }

  /**
   * A start inside or against a solid behaves as in the game: the solid is not felt, and the player falls
   * through it. The obstacle is taken out of the run for good.
   */
  private openAtStart(): void {
    const { radius, height } = this.inputs.profile.player;
    const half: Vec3 = [radius, radius, height / 2];
    const centre = addScaled(this.walker.feet, [0, 0, 1], half[2]);
    for (const obstacle of [...this.surround.all()]) {
      const touches = obstacle.planes.every(
        ([x, y, z, d]) =>
          x * centre[0] + y * centre[1] + z * centre[2] - d - Math.abs(x) * half[0] - Math.abs(y) * half[1] - Math.abs(z) * half[2] <= 0,
      );
      if (touches) this.setSolid(obstacle.id, []);
    }
  }
}
