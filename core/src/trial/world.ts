/**
 * The simulation of a built map: one player, objects with their parts, signals with delays, things that physics moves,
 * and scripts. It knows nothing of screens; the browser and the headless run drive the same class in fixed steps.
 */

import type { Finding } from '../finding.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { add, addScaled, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import type { Item, PartHost } from '../part/part.ts';
import { loadRapier, type Rapier } from '../physics/rapier.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import { boxInSolid } from '../solid/boxInSolid.ts';
import type { Collision } from '../stages/pack/collisionBin.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import { Bodies, BODY_LIMIT } from './bodies.ts';
import { obstacleFromPlanes, overlapping, type Obstacle } from './collide.ts';
import { TrialConsole, type ConsoleLine } from './console.ts';
import { climbAt, dragOn, liquidsOf, waterAt } from './environment.ts';
import { Fate } from './fate.ts';
import { Hands } from './hands.ts';
import type { LiveEdit } from './liveMap.ts';
import { heightOf, newWalker, stepWalker, type Intent, type Walker } from './move.ts';
import { isGone, TrialObjects, type TrialObject } from './objects.ts';
import { reachedAhead } from './reach.ts';
import { TrialScripts, type ScriptWorld, type TrialWatcher } from './scripts.ts';
import type { LogPoint } from '../script/run.ts';
import { Signals } from './signals.ts';
import { Surround } from './surround.ts';
import { PENDING_LIMIT, Timetable } from './timetable.ts';
import { Traffic } from './traffic.ts';

/** Seconds per step. */
export const TIME_STEP = 1 / 60;

export interface TrialInputs {
  profile: Profile;
  map: RuntimeMap;
  collision: Collision;
  scripts: Record<string, string>;
  /** Id of the object at which the player begins; the first that is a start without it. */
  start?: string;
  wasmUri?: string;
}

/** A sound that was asked for; `subtitles` is the path of its file, or empty. */
export interface PlayedSound {
  sound: string;
  volume: number;
  subtitles: string;
  /** Where it comes from; everywhere without it. */
  at?: Vec3;
}

/** What the player can do with what is before it. */
export interface Offer {
  does: 'operate' | 'pick up' | 'set down';
  name: string;
}

/** Sounds that are kept for whoever plays them. */
const SOUND_LIMIT = 100;
/** Steps of height by which a player is lifted out of what was edited around it. */
const RISES = 40;
/** Length of a stride, in radii of a player. */
const STRIDE = 6;

export class TrialWorld {
  readonly console = new TrialConsole();
  readonly findings: Finding[] = [];
  readonly walker: Walker;
  time = 0;
  ended: 'won' | 'fell' | 'died' | null = null;
  /** Where the player looks. */
  look: Vec3 = [1, 0, 0];
  /** Sounds asked for since the last look, for whoever can play them. */
  readonly sounds: PlayedSound[] = [];
  readonly signals: Signals;
  readonly bodies: Bodies | null;
  readonly hands: Hands | null;
  readonly objects: TrialObjects;
  private readonly surround: Surround;
  private readonly start: TrialObject | null;
  private readonly fate: Fate;
  private readonly timetable = new Timetable();
  private readonly scripts: TrialScripts;
  private readonly traffic: Traffic;
  private walked = 0;

  private readonly inputs: TrialInputs;

  private constructor(
    given: TrialInputs,
    private readonly watcher: TrialWatcher,
    rapier: Rapier | null,
  ) {
    // Edits change it while it runs, and it belongs to whoever began the run.
    this.inputs = { ...given, map: { ...given.map, models: { ...given.map.models }, bodies: { ...given.map.bodies } } };
    const { profile, map, collision } = this.inputs;
    this.bodies = rapier && new Bodies(rapier, profile, TIME_STEP);
    this.hands = this.bodies && new Hands(this.bodies, profile, (id) => this.print('system', `${this.nameOf(id)} slipped out of hand.`));
    this.scripts = new TrialScripts(this.forScripts(), watcher, given.scripts);
    this.signals = new Signals(this.forSignals(), map.name, map.signals);
    this.surround = new Surround(profile.player.height * 2);
    this.traffic = new Traffic({
      bodies: this.bodies,
      profile,
      near: (box) => this.near(box),
      hurt: (item, points) => this.fate.hurt(item, points),
      walker: (this.walker = newWalker([0, 0, 0])),
    });
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
    const starts = [...this.objects].filter((item) => item.parts.some(({ part }) => part.start));
    this.start = starts.find(({ id }) => id === given.start) ?? starts[0] ?? null;
    if (this.start) this.walker.feet = [...this.start.object.position];
    let floor = 0;
    for (const { box } of this.surround.all()) floor = Math.min(floor, box.min[2]);
    floor -= profile.player.height * 2;
    this.fate = new Fate(this, map.name, profile.player.health ?? null, floor, this.start, (item, event) => this.signals.emit(item, event));
  }

  /** Loads the scripts, runs the start-up function and puts the player at the start. */
  static async begin(inputs: TrialInputs, watcher: TrialWatcher = {}): Promise<TrialWorld> {
    const world = new TrialWorld(inputs, watcher, Object.keys(inputs.map.bodies).length > 0 ? await loadRapier() : null);
    await world.scripts.load(inputs.map.scripts, inputs.wasmUri);
    world.openAtStart();
    world.scripts.startUp(inputs.profile.scripts.startup);
    if (world.start) world.signals.emit(world.start, 'spawned');
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
    return this.fate.health;
  }

  /** Takes changed scripts into the running world; what it cannot read leaves the old code running. */
  reload(scripts: Readonly<Record<string, string>>): void {
    this.scripts.reload(scripts);
  }

  /** Runs a line of Lua in the running world, and prints what it answers. */
  evaluate(text: string): void {
    this.scripts.evaluate(text);
  }

  /** What an expression of Lua is worth now, without a word in the console. */
  worth(expression: string): string {
    return this.scripts.worth(expression);
  }

  /** Tells expressions from now on when their lines run, in place of those before. */
  logAt(points: readonly LogPoint[]): void {
    this.scripts.logAt(points);
  }

  /** All that scripts remember, as text. */
  memory(): string {
    return this.scripts.memory();
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

  /** Counts lines and calls of scripts from now on, or no longer. */
  measure(on: boolean): void {
    this.scripts.measure(on);
  }

  /** Has the coverage so far take in what scripts have run. */
  measured(): void {
    this.scripts.measured();
  }

  stop(): void {
    this.scripts.stop();
    this.bodies?.free();
  }

  /** All that can stop a player and touches a box, where it is now. */
  near(box: Box3): Obstacle[] {
    const found = [...this.surround.near(box), ...this.objects.near(box)];
    return this.bodies ? [...found, ...this.bodies.near(box, this.hands!.held)] : found;
  }

  eye(): Vec3 {
    const { player } = this.inputs.profile;
    return addScaled(this.walker.feet, [0, 0, 1], player.eyeHeight - (player.height - heightOf(player, this.walker)));
  }

  step(intent: Intent): void {
    if (this.ended) return;
    this.time += TIME_STEP;
    if (intent.look) this.look = intent.look;
    this.signals.newStep();
    this.scripts.newStep();
    this.timetable.runDue(this.time);
    for (const { parts } of this.objects) for (const { part, life } of parts) part.step?.(life);
    this.objects.settle();
    this.walk(intent);
    if (this.bodies) {
      this.hands!.step(this.walker, this.eye(), this.look, intent.move, TIME_STEP);
      for (const { parts, rest } of this.objects)
        for (const { part, life } of parts) if (rest && part.carries) this.bodies.convey(rest.box, part.carries(life));
      this.bodies.step(this.walker, liquidsOf(this.objects));
      if (this.walker.ground) this.traffic.ride(this.bodies.moved(this.walker.ground.id));
    }
    for (const { parts } of this.objects) for (const { part, life } of parts) part.observe?.(life);
    this.watcher.coverage?.stay(this.walker.feet, TIME_STEP);
    this.fate.moved();
  }

  /** A player is lost at where it is now. */
  lost(how: 'falls' | 'deaths'): void {
    this.watcher.coverage?.lose(how, this.walker.feet);
  }

  /** What the player can do with what it looks at, or with what it carries. */
  offer(look: Vec3): Offer | null {
    const choice = this.choice(look);
    return choice && { does: choice.does, name: choice.name };
  }

  /** Does what is offered. */
  operate(look: Vec3): void {
    this.look = look;
    this.choice(look)?.act();
  }

  private choice(look: Vec3): (Offer & { act(): void }) | null {
    const { hands } = this;
    if (hands?.held) return { does: 'set down', name: this.nameOf(hands.held), act: () => void hands.release() };
    const usable = this.usable(look);
    if (usable) return { does: 'operate', name: usable.object.name, act: () => this.use(usable) };
    const liftable = hands?.liftable(this.eye(), look, this.withinReach());
    return hands && liftable ? { does: 'pick up', name: this.nameOf(liftable), act: () => hands.take(liftable) } : null;
  }

  /** Throws what is carried. */
  fling(look: Vec3): void {
    this.look = look;
    this.hands?.fling(look);
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
      if (this.hands?.held === id) this.hands.release();
      if (known) this.objects.dismiss(known);
      if (object && !this.objects.admit(id, object, anew ? undefined : known))
        this.print(
          'system',
          `${object.name} ${this.bodies ? `lies still: a run moves at most ${BODY_LIMIT} things` : 'moves only after the next build'}.`,
        );
    }
    for (const sentence of left) this.print('system', sentence);
    this.fate.forgive();
    this.rise();
  }

  /** Puts the player somewhere, at rest. */
  put(feet: Vec3): void {
    Object.assign(this.walker, { feet: [...feet], velocity: [0, 0, 0], onGround: false, climbing: false, ground: null });
    this.rise();
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

  /** What the player stands on: an object's name or a solid's id, and the kind of its surface. */
  standingOn(): { name: string; surface: string } | null {
    const { ground } = this.walker;
    return ground && { name: this.nameOf(ground.id), surface: ground.surface };
  }

  /** On foot, or through everything. */
  glide(): void {
    this.walker.flying = !this.walker.flying;
    this.print('system', this.walker.flying ? 'Gliding: solids do not stop you.' : 'On foot again.');
  }

  /** The usable object that a player looking along `direction` can reach, or null. */
  usable(direction: Vec3): TrialObject | null {
    const { reach } = this.inputs.profile.player;
    const eye = this.eye();
    const things = [];
    for (const item of this.objects) {
      if (!item.parts.some(({ part }) => part.objective === 'operate') || isGone(item)) continue;
      const box = this.objects.boxNow(item);
      if (boxesTouch(box, { min: eye, max: eye }, reach))
        things.push({ id: item.id, item, box, position: add(item.object.position, item.pose.offset) });
    }
    return things.length > 0 ? (reachedAhead(things, eye, direction, reach, this.withinReach())?.item ?? null) : null;
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

  /** Lifts a player out of what was built around it, as far as there is anything free above. Loose things give way themselves. */
  private rise(): void {
    const { player } = this.inputs.profile;
    const half: Vec3 = [player.radius, player.radius, heightOf(player, this.walker) / 2];
    for (let i = 0; i < RISES; i++) {
      const box = this.playerBox();
      if (overlapping([...this.surround.near(box), ...this.objects.near(box)], addScaled(this.walker.feet, [0, 0, 1], half[2]), half).length === 0)
        return;
      this.walker.feet = addScaled(this.walker.feet, [0, 0, 1], player.stepHeight);
    }
  }

  private setSolid(id: string, obstacles: Obstacle[]): void {
    this.surround.set(id, obstacles);
    this.bodies?.setFixed(id, obstacles);
  }

  private walk(intent: Intent): void {
    const { player } = this.inputs.profile;
    const { walker } = this;
    const ground = walker.ground && this.objects.get(walker.ground.id);
    for (const { part, life } of ground?.parts ?? []) {
      const carried = part.carries?.(life);
      if (carried) this.traffic.ride(carried.map((v) => v * TIME_STEP) as Vec3);
    }
    const before: Vec3 = [...walker.feet];
    const far = player.runSpeed * TIME_STEP + Math.abs(walker.velocity[2]) * TIME_STEP + player.stepHeight + player.height;
    const box = this.playerBox();
    const around: Box3 = { min: box.min.map((v) => v - far) as Vec3, max: box.max.map((v) => v + far) as Vec3 };
    stepWalker(walker, intent, this.near(around), player, TIME_STEP, {
      drag: dragOn(this.objects),
      climb: climbAt(this.objects, box),
      water: waterAt(this.objects, box),
    });
    if (walker.onGround) this.walked += Math.hypot(walker.feet[0] - before[0], walker.feet[1] - before[1]);
    if (this.walked < STRIDE * player.radius) return;
    this.walked = 0;
    const footstep = this.inputs.profile.surfaces.find(({ id }) => id === walker.ground?.surface)?.footstep;
    if (footstep) this.host.play(footstep, walker.crouching ? 0.2 : 0.5, '');
  }

  private withinReach(): Obstacle[] {
    const { reach } = this.inputs.profile.player;
    const eye = this.eye();
    return this.near({ min: eye.map((v) => v - reach) as Vec3, max: eye.map((v) => v + reach) as Vec3 });
  }

  private nameOf(id: string): string {
    return this.objects.get(id)?.object.name ?? id;
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

  private playerBox(): Box3 {
    const { player } = this.inputs.profile;
    const [x, y, z] = this.walker.feet;
    const { radius } = player;
    return { min: [x - radius, y - radius, z], max: [x + radius, y + radius, z + heightOf(player, this.walker)] };
  }

  /** What objects ask of the world and tell it. */
  private readonly host: PartHost = {
    step: TIME_STEP,
    emit: (item, event) => this.signals.emit(item, event),
    entered: ({ id }) => {
      this.watcher.coverage?.enter(id);
      this.objects.get(id)!.parts.forEach(({ part, life }) => part.entered?.(life));
    },
    act: ({ id }, action) => this.act(this.objects.get(id)!, action, null),
    say: (text) => this.print('say', text),
    play: (sound, volume, subtitles, at) =>
      void (this.sounds.length < SOUND_LIMIT && this.sounds.push({ sound, volume, subtitles, ...(at ? { at } : {}) })),
    win: (text) => this.win(text),
    hurt: (item, points) => this.fate.hurt(item, points),
    claim: (item) => this.fate.claim(item),
    path: (id) => own(this.inputs.map.paths, id),
    extent: (item) => this.objects.boxOf(item),
    playerIn: (item, space) => this.inSpace(item, this.playerBox(), space),
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
