/**
 * The simulation of a built map: one player, objects with their parts, signals with delays, and scripts.
 * It knows nothing of screens; the browser and the headless run drive the same class in fixed steps.
 */

import type { Signal, PropertyValue } from '../document/schema.ts';
import type { Finding } from '../finding.ts';
import { boxWithModel } from '../map/objectBox.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { addScaled, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import type { Climb, Item, Life, Part, PartHost } from '../part/part.ts';
import { collides, partsOf } from '../profile/parts.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import { boxInSolid } from '../solid/boxInSolid.ts';
import type { Collision } from '../stages/pack/collisionBin.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import { obstacleFromBox, obstacleFromPlanes, overlapping, shiftObstacle, SKIN, type Obstacle } from './collide.ts';
import { TrialConsole, type ConsoleLine } from './console.ts';
import { Fate } from './fate.ts';
import { stepWalker, type Intent, type Walker } from './move.ts';
import { reachedAhead } from './reach.ts';
import { TrialScripts, type ScriptWorld, type TrialWatcher } from './scripts.ts';
import { PENDING_LIMIT, Timetable } from './timetable.ts';

/** Seconds per step. */
export const TIME_STEP = 1 / 60;

export interface TrialInputs {
  profile: Profile;
  map: RuntimeMap;
  collision: Collision;
  scripts: Record<string, string>;
  wasmUri?: string;
}

/** A sound that was asked for; `subtitles` is the path of its file, or empty. */
export interface PlayedSound {
  sound: string;
  volume: number;
  subtitles: string;
}

export interface TrialObject extends Item {
  parts: readonly { part: Part; life: Life<object> }[];
}

/** Signals that may be delivered within one step before the run calls it a loop. */
const SIGNAL_LIMIT = 1000;
/** Sounds that are kept for whoever plays them. */
const SOUND_LIMIT = 100;

export class TrialWorld {
  readonly objects: TrialObject[];
  readonly console = new TrialConsole();
  readonly findings: Finding[] = [];
  readonly walker: Walker;
  time = 0;
  ended: 'won' | 'fell' | 'died' | null = null;
  /** Sounds asked for since the last look, for whoever can play them. */
  readonly sounds: PlayedSound[] = [];
  private readonly byName = new Map<string, TrialObject>();
  private readonly byId = new Map<string, TrialObject>();
  /** Signals by the id of their sender and its event, in the order of the map. */
  private readonly signals = new Map<string, Signal[]>();
  /** Obstacles where they are now; null once something may have moved. */
  private present: Obstacle[] | null = null;
  private readonly fixed: Obstacle[];
  private readonly solidObjects = new Map<string, Obstacle>();
  private readonly climbs: Climb[] = [];
  private readonly start: TrialObject | null;
  /** What a player can operate. */
  private readonly operable: readonly TrialObject[];
  private readonly fate: Fate;
  private readonly timetable = new Timetable();
  private delivered = 0;
  private readonly scripts: TrialScripts;

  private constructor(
    private readonly inputs: TrialInputs,
    watcher: TrialWatcher,
  ) {
    const { profile, map, collision } = inputs;
    this.scripts = new TrialScripts(this.forScripts(), watcher, inputs.scripts);
    this.fixed = collision.solids.map((solid) => obstacleFromPlanes(solid.id, solid.planes));
    this.objects = Object.entries(map.objects).map(([id, object]) => {
      const defaults = Object.fromEntries((classOf(profile, object.class)?.properties ?? []).map((p) => [p.id, p.default]));
      // Scripts choose the keys, so nothing may be inherited.
      const properties = Object.assign(Object.create(null), defaults, object.properties) as TrialObject['properties'];
      const item: Item = { id, object, properties };
      const parts = partsOf(profile, object.class).map((part) => ({ part, life: { item, state: part.begin?.(properties) ?? {}, host: this.host } }));
      return Object.assign(item, { parts });
    });
    for (const item of this.objects) {
      this.byName.set(item.object.name, item);
      this.byId.set(item.id, item);
      if (collides(profile, { class: item.object.class, properties: item.properties }))
        this.solidObjects.set(item.id, obstacleFromBox(item.id, this.boxOf(item)));
      for (const { part } of item.parts) {
        const climb = part.climb?.(item.object, this.boxOf(item));
        if (climb) this.climbs.push(climb);
      }
    }
    for (const signal of Object.values(map.signals)) {
      const key = `${signal.from}/${signal.event}`;
      const known = this.signals.get(key);
      if (known) known.push(signal);
      else this.signals.set(key, [signal]);
    }
    this.operable = this.objects.filter(({ parts }) => parts.some(({ part }) => part.objective === 'operate'));
    this.start = this.objects.find((item) => item.parts.some(({ part }) => part.start)) ?? null;
    const feet: Vec3 = this.start ? [...this.start.object.position] : [0, 0, 0];
    this.walker = { feet, velocity: [0, 0, 0], onGround: false, climbing: false, flying: false };
    const floor = this.fixed.reduce((least, { box }) => Math.min(least, box.min[2]), 0) - profile.player.height * 2;
    this.fate = new Fate(this, map.name, profile.player.health ?? null, floor, this.start, (item, event) => this.emit(item, event));
  }

  /** Loads the scripts, runs the start-up function and puts the player at the start. */
  static async begin(inputs: TrialInputs, watcher: TrialWatcher = {}): Promise<TrialWorld> {
    const world = new TrialWorld(inputs, watcher);
    await world.scripts.load(inputs.map.scripts, inputs.wasmUri);
    world.openAtStart();
    world.scripts.startUp(inputs.profile.scripts.startup);
    if (world.start) world.emit(world.start, 'spawned');
    return world;
  }

  /** Takes changed scripts into the running world; what it cannot read leaves the old code running. */
  reload(scripts: Readonly<Record<string, string>>): void {
    this.scripts.reload(scripts);
  }

  /** Runs a line of Lua in the running world, and prints what it answers. */
  evaluate(text: string): void {
    this.scripts.evaluate(text);
  }

  stop(): void {
    this.scripts.stop();
  }

  /** All that can stop a player now, moving objects where they are. */
  obstacles(): Obstacle[] {
    if (this.present) return this.present;
    const moving: Obstacle[] = [];
    for (const [id, obstacle] of this.solidObjects) {
      const by = this.offsetOf(this.byId.get(id)!);
      moving.push(by.some((v) => v !== 0) ? shiftObstacle(obstacle, by) : obstacle);
    }
    return (this.present = [...this.fixed, ...moving]);
  }

  /** How far an object is from its place in the map. */
  offsetOf({ parts }: TrialObject): Vec3 {
    const sum: Vec3 = [0, 0, 0];
    for (const { part, life } of parts) part.offset?.(life).forEach((v, axis) => (sum[axis] += v));
    return sum;
  }

  /** Values of its parts beside its properties. */
  liveOf({ parts }: TrialObject): Record<string, number> {
    return Object.assign({}, ...parts.map(({ part, life }) => part.live?.(life.state)));
  }

  named(name: string): TrialObject | undefined {
    return this.byName.get(name);
  }

  eye(): Vec3 {
    return [this.walker.feet[0], this.walker.feet[1], this.walker.feet[2] + this.inputs.profile.player.eyeHeight];
  }

  step(intent: Intent): void {
    if (this.ended) return;
    this.time += TIME_STEP;
    this.delivered = 0;
    this.scripts.newStep();
    this.timetable.runDue(this.time);
    for (const { parts } of this.objects) for (const { part, life } of parts) part.step?.(life);
    this.present = null;
    const around = { drag: this.dragHere(), climb: this.climbHere() };
    stepWalker(this.walker, intent, this.obstacles(), this.inputs.profile.player, TIME_STEP, around);
    for (const { parts } of this.objects) for (const { part, life } of parts) part.observe?.(life);
    this.fate.moved();
  }

  /** The usable object that a player looking along `direction` can reach, or null. */
  usable(direction: Vec3): TrialObject | null {
    const things = this.operable.map((item) => ({ id: item.id, item, box: this.boxOf(item), position: item.object.position }));
    return reachedAhead(things, this.eye(), direction, this.inputs.profile.player.reach, this.obstacles())?.item ?? null;
  }

  /** Operates an object as a player would. */
  use(item: TrialObject): void {
    const event = classOf(this.inputs.profile, item.object.class)?.useEvent;
    for (const { part, life } of item.parts) part.used?.(life);
    for (const { id, type } of classOf(this.inputs.profile, item.object.class)?.properties ?? []) {
      const name = item.properties[id];
      if (type === 'script' && typeof name === 'string' && name !== '') this.scripts.call(name, null, item.object.name);
    }
    if (event) this.emit(item, event);
  }

  /** The space of an object where it is at rest. */
  boxOf(item: Item): Box3 {
    return boxWithModel(this.inputs.profile, { ...item.object, properties: item.properties }, (model) => own(this.inputs.map.models, model));
  }

  print(kind: ConsoleLine['kind'], text: string): void {
    this.console.print(this.time, kind, text);
  }

  /** Points left; null where the game counts none. */
  get health(): number | null {
    return this.fate.health;
  }

  get profile(): Profile {
    return this.inputs.profile;
  }

  private forScripts(): ScriptWorld {
    return {
      findings: this.findings,
      print: (kind, text) => this.print(kind, text),
      named: (name) => this.named(name),
      value: ({ id }, property) => this.value(this.byId.get(id)!, property),
      act: ({ id }, action, value) => this.act(this.byId.get(id)!, action, value),
      win: (text) => this.win(text),
      schedule: (seconds, run) => this.schedule(seconds, run),
    };
  }

  /** A property as scripts and expectations see it: live values of its parts first. */
  value(item: TrialObject, property: string): PropertyValue | null {
    return own(this.liveOf(item), property) ?? own(item.properties, property) ?? null;
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

  /** Sends an event along all signals that listen to it. */
  private emit(item: Item, event: string): void {
    for (const signal of this.signals.get(`${item.id}/${event}`) ?? []) {
      const deliver = () => {
        if (++this.delivered === SIGNAL_LIMIT) {
          this.print('error', 'Signals run in a circle; the rest of this step is dropped.');
          this.findings.push({
            code: 'signal-loop',
            severity: 'warning',
            stage: 'trial',
            message: `Signals from ${item.object.name} run in a circle.`,
            hint: 'Give one of them a delay, or break the circle.',
            place: { map: this.inputs.map.name, object: item.id },
          });
        }
        if (this.delivered >= SIGNAL_LIMIT) return;
        if ('script' in signal.to) {
          this.print('signal', `${item.object.name}.${event} → ${signal.to.script}()`);
          this.scripts.call(signal.to.script, signal.value ?? null, item.object.name);
          return;
        }
        const targetId = signal.to.object;
        const target = this.byId.get(targetId);
        if (!target) return;
        this.print('signal', `${item.object.name}.${event} → ${target.object.name}.${signal.to.action}`);
        this.act(target, signal.to.action, signal.value ?? null);
      };
      if (signal.delay > 0) this.schedule(signal.delay, deliver);
      else deliver();
    }
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
    const { radius, height } = this.inputs.profile.player;
    const [x, y, z] = this.walker.feet;
    return { min: [x - radius, y - radius, z], max: [x + radius, y + radius, z + height] };
  }

  /** What objects ask of the world and tell it. */
  private readonly host: PartHost = {
    step: TIME_STEP,
    emit: (item, event) => this.emit(item, event),
    entered: ({ id }) => this.byId.get(id)!.parts.forEach(({ part, life }) => part.entered?.(life)),
    act: ({ id }, action) => this.act(this.byId.get(id)!, action, null),
    say: (text) => this.print('say', text),
    play: (sound, volume, subtitles) => void (this.sounds.length < SOUND_LIMIT && this.sounds.push({ sound, volume, subtitles })),
    win: (text) => this.win(text),
    hurt: (item, points) => this.fate.hurt(item, points),
    claim: (item) => this.fate.claim(item),
    path: (id) => own(this.inputs.map.paths, id),
    extent: (item) => this.boxOf(item),
    playerIn: ({ object }, space) => {
      const player = this.playerBox();
      return boxesTouch(player, space) && (!object.shape || boxInSolid(player, object.shape, 0));
    },
    meetsPlayer: ({ id }) => {
      const obstacle = this.solidObjects.get(id);
      if (!obstacle || this.walker.flying) return false;
      const { player } = this.inputs.profile;
      const half: Vec3 = [player.radius, player.radius, player.height / 2];
      return (
        overlapping([shiftObstacle(obstacle, this.offsetOf(this.byId.get(id)!))], addScaled(this.walker.feet, [0, 0, 1], half[2]), half).length > 0
      );
    },
  };

  /** The least share of the walking speed that anything here leaves. */
  private dragHere(): number {
    let least = 1;
    for (const { parts } of this.objects) for (const { part, life } of parts) least = Math.min(least, part.drag?.(life) ?? 1);
    return least;
  }

  private climbHere(): Climb | null {
    const player = this.playerBox();
    return this.climbs.find(({ space }) => boxesTouch(player, space, SKIN * 2)) ?? null;
  }

  /**
   * A start inside or against a solid behaves as in the game: the solid is not felt, and the player falls
   * through it. The obstacle is taken out of the run for good.
   */
  private openAtStart(): void {
    const { radius, height } = this.inputs.profile.player;
    const half: Vec3 = [radius, radius, height / 2];
    const centre = addScaled(this.walker.feet, [0, 0, 1], half[2]);
    for (let i = this.fixed.length - 1; i >= 0; i--) {
      const touches = this.fixed[i].planes.every(
        ([x, y, z, d]) =>
          x * centre[0] + y * centre[1] + z * centre[2] - d - Math.abs(x) * half[0] - Math.abs(y) * half[1] - Math.abs(z) * half[2] <= 0,
      );
      if (touches) this.fixed.splice(i, 1);
    }
    this.present = null;
  }
}
