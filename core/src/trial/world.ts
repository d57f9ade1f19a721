/**
 * The simulation of a built map: one player, objects with their parts, signals with delays, and scripts.
 * It knows nothing of screens; the browser and the headless run drive the same class in fixed steps.
 */

import type { Collision } from '../stages/pack/collisionBin.ts';
import type { RuntimeMap } from '../stages/pack/runtime.ts';
import type { Finding } from '../finding.ts';
import type { Place } from '../place.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { addScaled, distance, dot, length, lerp, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { classBox } from '../map/objectBox.ts';
import { pathLength, pointAlong } from '../map/path.ts';
import type { MapObject, PropertyValue, Signal } from '../document/schema.ts';
import { boxInSolid } from '../check/checkStand.ts';
import { vectorOf } from '../document/value.ts';
import { own } from '../own.ts';
import { classOf, hasPart, type Profile } from '../profile/schema.ts';
import { ScriptRuntime, type ScriptHost, type ScriptPlace } from '../script/run.ts';
import { obstacleFromBox, obstacleFromPlanes, overlapping, shiftObstacle, sweepBox, type Obstacle } from './collide.ts';
import { stepWalker, type Intent, type Walker } from './move.ts';

/** Seconds per step. */
export const TIME_STEP = 1 / 60;

export interface TrialInputs {
  profile: Profile;
  map: RuntimeMap;
  collision: Collision;
  scripts: Record<string, string>;
  wasmUri?: string;
}

/** Whoever looks after a running world from outside. */
export interface TrialWatcher {
  /** Lua is there, and another script is about to be loaded. */
  loading?(): void;
  /** What of the scripts is about to run. */
  at?(place: ScriptPlace): void;
}

export interface ConsoleLine {
  time: number;
  kind: 'say' | 'signal' | 'error' | 'system';
  text: string;
}

export interface TrialObject {
  id: string;
  object: MapObject;
  /** Present values; scripts read and set these. */
  properties: Record<string, PropertyValue>;
  /** Movers: 0 lowered, 1 raised, and where they are heading. */
  raised: number;
  heading: number;
  /** Water: present height of its surface above its bottom. */
  level: number;
  filling: number;
  inside: boolean;
  /** Followers: how far along their path, in units, and whether they are under way. */
  along: number;
  going: boolean;
}

interface Pending {
  at: number;
  order: number;
  run: () => void;
}

/** Signals that may be delivered within one step before the run calls it a loop. */
const SIGNAL_LIMIT = 1000;
/** Calls and signals that may wait for their time. */
const PENDING_LIMIT = 10_000;
/** Of those, how many may come due within one step. */
const CALLS_PER_STEP = 1000;
/** Findings of scripts that are told; a script that fails in every step would fill any list. */
const SCRIPT_FINDINGS = 100;
/** Characters of one line that are kept. */
const LINE_LIMIT = 2000;
/** Sounds that are kept for whoever plays them. */
const SOUND_LIMIT = 100;

export class TrialWorld {
  readonly objects: TrialObject[];
  /** The last lines, and how many there were in all. */
  readonly console: ConsoleLine[] = [];
  linesPrinted = 0;
  readonly findings: Finding[] = [];
  readonly walker: Walker;
  time = 0;
  ended: 'won' | 'fell' | null = null;
  /** Sounds asked for since the last look, for whoever can play them. */
  readonly sounds: { sound: string; volume: number }[] = [];
  private readonly byName = new Map<string, TrialObject>();
  private readonly byId = new Map<string, TrialObject>();
  /** Signals by the id of their sender and its event, in the order of the map. */
  private readonly signals = new Map<string, Signal[]>();
  /** Obstacles where they are now; null once something may have moved. */
  private present: Obstacle[] | null = null;
  private readonly fixed: Obstacle[];
  private readonly solidObjects = new Map<string, Obstacle>();
  private readonly floorOfWorld: number;
  private readonly start: TrialObject | null;
  private pending: Pending[] = [];
  private order = 0;
  private delivered = 0;
  private runtime: ScriptRuntime | null = null;
  /** Findings of scripts by their words, so that each is told once. */
  private readonly told = new Set<string>();

  private constructor(
    private readonly inputs: TrialInputs,
    private readonly watcher: TrialWatcher,
  ) {
    const { profile, map, collision } = inputs;
    this.fixed = collision.solids.map((solid) => obstacleFromPlanes(solid.id, solid.planes));
    this.floorOfWorld = Math.min(0, ...this.fixed.map((o) => o.box.min[2])) - profile.player.height * 2;
    this.objects = Object.entries(map.objects).map(([id, object]) => {
      const defaults = Object.fromEntries((classOf(profile, object.class)?.properties ?? []).map((p) => [p.id, p.default]));
      // Scripts choose the keys, so nothing may be inherited.
      const properties = Object.assign(Object.create(null), defaults, object.properties) as Record<string, PropertyValue>;
      return {
        id,
        object,
        properties,
        raised: 0,
        heading: 0,
        level: vectorOf(properties.size)?.[2] ?? 0,
        filling: 0,
        inside: false,
        along: 0,
        going: properties.going === true,
      };
    });
    for (const item of this.objects) {
      this.byName.set(item.object.name, item);
      this.byId.set(item.id, item);
      const obstacle = this.obstacleOf(item);
      if (obstacle) this.solidObjects.set(item.id, obstacle);
    }
    for (const signal of Object.values(map.signals)) {
      const key = `${signal.from}/${signal.event}`;
      const known = this.signals.get(key);
      if (known) known.push(signal);
      else this.signals.set(key, [signal]);
    }
    this.start = this.objects.find((item) => hasPart(profile, item.object.class, 'start')) ?? null;
    const feet: Vec3 = this.start ? [...this.start.object.position] : [0, 0, 0];
    this.walker = { feet, velocity: [0, 0, 0], onGround: false, flying: false };
  }

  /** Loads the scripts, runs the start-up function and puts the player at the start. */
  static async begin(inputs: TrialInputs, watcher: TrialWatcher = {}): Promise<TrialWorld> {
    const world = new TrialWorld(inputs, watcher);
    world.runtime = await ScriptRuntime.start(world.host(), inputs.wasmUri);
    for (const path of [...inputs.map.scripts].sort()) {
      const source = own(inputs.scripts, path);
      world.runtime.newStep();
      watcher.loading?.();
      if (source !== undefined) world.runtime.load(path, source);
    }
    world.openAtStart();
    watcher.loading?.();
    world.runtime.newStep();
    const { startup } = inputs.profile.scripts;
    if (world.runtime.has(startup)) world.runtime.call(startup);
    if (world.start) world.emit(world.start, 'spawned');
    return world;
  }

  stop(): void {
    this.runtime?.stop();
    this.runtime = null;
  }

  /** All that can stop a player now, moving objects where they are. */
  obstacles(): Obstacle[] {
    if (this.present) return this.present;
    const moving: Obstacle[] = [];
    for (const [id, obstacle] of this.solidObjects) {
      const item = this.byId.get(id)!;
      moving.push(item.raised > 0 || item.along > 0 ? shiftObstacle(obstacle, this.offsetOf(item)) : obstacle);
    }
    return (this.present = [...this.fixed, ...moving]);
  }

  /** How far a mover has moved from its place in the map. */
  offsetOf(item: TrialObject): Vec3 {
    const path = hasPart(this.inputs.profile, item.object.class, 'follow')
      ? own(this.inputs.map.paths ?? {}, String(item.properties.path))
      : undefined;
    if (path) return item.along > 0 || item.going ? sub(pointAlong(path, item.along), item.object.position) : [0, 0, 0];
    const travel = vectorOf(item.properties.travel);
    return travel ? [travel[0] * item.raised, travel[1] * item.raised, travel[2] * item.raised] : [0, 0, 0];
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
    this.runtime?.newStep();
    this.runDue();
    this.moveObjects();
    this.present = null;
    stepWalker(this.walker, intent, this.obstacles(), this.inputs.profile.player, TIME_STEP, this.inWater() ? 0.5 : 1);
    this.checkVolumes();
    this.checkFall();
  }

  /** The usable object that a player looking along `direction` can reach, or null. */
  usable(direction: Vec3): TrialObject | null {
    const { profile } = this.inputs;
    const eye = this.eye();
    const ahead = normalise(direction);
    let best: TrialObject | null = null;
    let bestScore = Infinity;
    for (const item of this.objects) {
      if (!hasPart(profile, item.object.class, 'use')) continue;
      const box = this.boxOf(item);
      const target: Vec3 = [0, 1, 2].map((a) =>
        Math.min(box.max[a], Math.max(box.min[a], eye[a] + ahead[a] * Math.min(profile.player.reach, distance(eye, item.object.position)))),
      ) as Vec3;
      const to = sub(target, eye);
      const away = length(to);
      if (away > profile.player.reach) continue;
      const facing = away < 1e-6 ? 1 : dot(normalise(to), ahead);
      if (facing < 0.8) continue;
      const score = away * (2 - facing);
      if (score < bestScore && this.seen(eye, target, item.id)) {
        bestScore = score;
        best = item;
      }
    }
    return best;
  }

  /** Operates an object as a player would. */
  use(item: TrialObject): void {
    const event = classOf(this.inputs.profile, item.object.class)?.useEvent;
    if (hasPart(this.inputs.profile, item.object.class, 'text')) this.print('say', String(item.properties.text ?? ''));
    for (const { id, type } of classOf(this.inputs.profile, item.object.class)?.properties ?? []) {
      const name = item.properties[id];
      if (type === 'script' && typeof name === 'string' && name !== '') this.runtime?.call(name, null, item.object.name);
    }
    if (event) this.emit(item, event);
  }

  boxOf(item: TrialObject): Box3 {
    const model = item.properties.model;
    const bounds = typeof model === 'string' ? own(this.inputs.map.models, model) : undefined;
    const box = classBox(this.inputs.profile, { ...item.object, properties: item.properties });
    if (bounds && hasPart(this.inputs.profile, item.object.class, 'model')) {
      const [px, py, pz] = item.object.position;
      const reach = Math.max(...[bounds.min[0], bounds.min[1], bounds.max[0], bounds.max[1]].map(Math.abs));
      const quarter = Math.round(item.object.turn / 90);
      const exact = Math.abs(item.object.turn - quarter * 90) < 0.01;
      if (!exact) return { min: [px - reach, py - reach, pz + bounds.min[2]], max: [px + reach, py + reach, pz + bounds.max[2]] };
      const angle = (quarter * Math.PI) / 2;
      const [c, s] = [Math.round(Math.cos(angle)), Math.round(Math.sin(angle))];
      const corners = [bounds.min, bounds.max].map((p) => [p[0] * c - p[1] * s, p[0] * s + p[1] * c]);
      return {
        min: [px + Math.min(corners[0][0], corners[1][0]), py + Math.min(corners[0][1], corners[1][1]), pz + bounds.min[2]],
        max: [px + Math.max(corners[0][0], corners[1][0]), py + Math.max(corners[0][1], corners[1][1]), pz + bounds.max[2]],
      };
    }
    return box;
  }

  print(kind: ConsoleLine['kind'], text: string): void {
    this.console.push({ time: this.time, kind, text: text.length > LINE_LIMIT ? `${text.slice(0, LINE_LIMIT)} …` : text });
    this.linesPrinted++;
    if (this.console.length > 2000) this.console.splice(0, 500);
  }

  /** What was printed after the first so many lines, as far as it is still kept. */
  printedSince(count: number): ConsoleLine[] {
    const fresh = this.linesPrinted - count;
    return fresh > 0 ? this.console.slice(-fresh) : [];
  }

  get profile(): Profile {
    return this.inputs.profile;
  }

  private obstacleOf(item: TrialObject): Obstacle | null {
    const { profile } = this.inputs;
    if (hasPart(profile, item.object.class, 'mover')) return obstacleFromBox(item.id, this.boxOf(item));
    if (hasPart(profile, item.object.class, 'model') && item.properties.solid === true) return obstacleFromBox(item.id, this.boxOf(item));
    return null;
  }

  private seen(from: Vec3, to: Vec3, self: string): boolean {
    const others = this.obstacles().filter((o) => o.id !== self);
    const near = lerp(from, to, 0.98);
    return sweepBox(others, from, [0.01, 0.01, 0.01], sub(near, from)).fraction >= 1;
  }

  private host(): ScriptHost {
    return {
      say: (text) => this.print('say', text),
      error: (message) => {
        this.print('error', message);
        const at = /(scripts\/[^:]+):(\d+):/.exec(message);
        this.tell(`Script error: ${message}`, at ? { file: at[1], line: Number(at[2]) } : undefined);
      },
      at: (place) => this.watcher.at?.(place),
      fire: (name, action, value) => {
        const target = this.byName.get(name);
        if (!target) return this.scriptProblem(`fire: no object is called "${name}"`);
        this.act(target, action, value);
      },
      get: (name, property) => {
        const item = this.byName.get(name);
        if (!item) {
          this.scriptProblem(`get: no object is called "${name}"`);
          return null;
        }
        return this.value(item, property);
      },
      set: (name, property, value) => {
        const item = this.byName.get(name);
        if (!item) return this.scriptProblem(`set: no object is called "${name}"`);
        if (typeof value !== 'number' && typeof value !== 'string' && typeof value !== 'boolean')
          return this.scriptProblem(`set: ${property} has to be a number, text or boolean`);
        item.properties[property] = value;
      },
      win: (text) => this.win(text),
      after: (seconds, call) => this.schedule(seconds, call),
    };
  }

  private scriptProblem(text: string): void {
    this.print('error', text);
    this.tell(`Script: ${text}.`);
  }

  private tell(message: string, place?: Place): void {
    if (this.told.has(message) || this.told.size >= SCRIPT_FINDINGS) return;
    this.told.add(message);
    this.findings.push({ code: 'script-error', severity: 'warning', stage: 'trial', message, place });
  }

  /** A property as scripts and expectations see it: `raised` and `level` are live. */
  value(item: TrialObject, property: string): PropertyValue | null {
    if (property === 'raised') return item.raised;
    if (property === 'level') return item.level;
    if (property === 'along') return item.along;
    return own(item.properties, property) ?? null;
  }

  /** Runs something later. Answers false where so much waits already that it is dropped. */
  private schedule(seconds: number, run: () => void): boolean {
    if (this.pending.length >= PENDING_LIMIT) {
      if (!this.findings.some((finding) => finding.code === 'pending-full'))
        this.findings.push({
          code: 'pending-full',
          severity: 'warning',
          stage: 'trial',
          message: `${PENDING_LIMIT.toLocaleString('en')} calls and signals wait for their time; more are dropped.`,
          hint: 'Look for a function that calls after() for itself more than once, or for signals with a delay that run in a circle.',
          place: { map: this.inputs.map.name },
        });
      return false;
    }
    this.pending.push({ at: this.time + (seconds > 0 ? seconds : 0), order: this.order++, run });
    return true;
  }

  private runDue(): void {
    const due = this.pending.filter((p) => p.at <= this.time).sort((a, b) => a.at - b.at || a.order - b.order);
    if (due.length === 0) return;
    // What is too much for one step keeps its turn in the next.
    this.pending = [...due.splice(CALLS_PER_STEP), ...this.pending.filter((p) => p.at > this.time)];
    for (const item of due) item.run();
  }

  /** Sends an event along all signals that listen to it. */
  private emit(item: TrialObject, event: string): void {
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
          this.runtime?.call(signal.to.script, signal.value ?? null, item.object.name);
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
    if (!objectClass?.actions.some((a) => a.id === action)) return this.scriptProblem(`${item.object.name} has no action "${action}"`);
    switch (action) {
      case 'raise':
        item.heading = 1;
        break;
      case 'lower':
        item.heading = -1;
        break;
      case 'toggle':
        item.heading = item.heading > 0 || (item.heading === 0 && item.raised > 0.5) ? -1 : 1;
        break;
      case 'light':
      case 'douse': {
        const lit = action === 'light';
        if (item.properties.lit === lit) break;
        item.properties.lit = lit;
        this.emit(item, lit ? 'lit' : 'doused');
        break;
      }
      case 'drain':
        item.filling = -1;
        break;
      case 'fill':
        item.filling = 1;
        break;
      case 'go':
        item.going = true;
        break;
      case 'stop':
        item.going = false;
        break;
      case 'play':
        if (this.sounds.length < SOUND_LIMIT)
          this.sounds.push({ sound: String(item.properties.sound ?? ''), volume: Number(item.properties.volume ?? 1) });
        break;
      case 'complete':
        this.emit(item, 'completed');
        this.win(value ?? String(item.properties.text ?? ''));
        break;
    }
  }

  private win(text: string): void {
    if (this.ended) return;
    this.print('system', text || 'Done.');
    this.ended = 'won';
  }

  private moveObjects(): void {
    for (const item of this.objects) {
      if (item.heading !== 0) this.moveSlider(item);
      if (item.going) this.moveFollower(item);
      if (item.filling !== 0) {
        const full = vectorOf(item.properties.size)?.[2] ?? 0;
        item.level = Math.min(full, Math.max(0, item.level + item.filling * numberOf(item.properties.rate) * TIME_STEP));
        if (item.level === 0 || item.level === full) {
          const event = item.filling < 0 ? 'drained' : 'filled';
          item.filling = 0;
          this.emit(item, event);
        }
      }
    }
  }

  /** Moves a follower by one step along its path; at the end of an open one it stops and says so. */
  private moveFollower(item: TrialObject): void {
    const path = own(this.inputs.map.paths ?? {}, String(item.properties.path));
    if (!path) {
      item.going = false;
      return;
    }
    const whole = pathLength(path);
    item.along += numberOf(item.properties.speed) * TIME_STEP;
    if (item.along < whole) return;
    item.along = path.loop ? item.along % whole : whole;
    if (!path.loop) item.going = false;
    this.emit(item, 'arrived');
  }

  /** Moves a slider by one step; a player in its way stops it. */
  private moveSlider(item: TrialObject): void {
    const travel = length(vectorOf(item.properties.travel) ?? [0, 0, 0]) || 1;
    const before = item.raised;
    item.raised = Math.min(1, Math.max(0, item.raised + (item.heading * numberOf(item.properties.speed) * TIME_STEP) / travel));
    const obstacle = this.solidObjects.get(item.id);
    if (obstacle) {
      const { player } = this.inputs.profile;
      const half: Vec3 = [player.radius, player.radius, player.height / 2];
      const centre = addScaled(this.walker.feet, [0, 0, 1], half[2]);
      if (!this.walker.flying && overlapping([shiftObstacle(obstacle, this.offsetOf(item))], centre, half).length > 0) {
        item.raised = before;
        return;
      }
    }
    if (item.raised === 1 || item.raised === 0) {
      const event = item.heading > 0 ? 'raised' : 'lowered';
      item.heading = 0;
      this.emit(item, event);
    }
  }

  private playerBox(): Box3 {
    const { radius, height } = this.inputs.profile.player;
    const [x, y, z] = this.walker.feet;
    return { min: [x - radius, y - radius, z], max: [x + radius, y + radius, z + height] };
  }

  private inWater(): boolean {
    return this.objects.some((item) => {
      if (!hasPart(this.inputs.profile, item.object.class, 'water') || item.level <= 0) return false;
      const box = this.boxOf(item);
      return boxesTouch(this.playerBox(), { min: box.min, max: [box.max[0], box.max[1], box.min[2] + item.level] });
    });
  }

  private checkVolumes(): void {
    for (const item of this.objects) {
      if (!hasPart(this.inputs.profile, item.object.class, 'volume')) continue;
      const inside = boxesTouch(this.playerBox(), this.boxOf(item)) && (!item.object.shape || boxInSolid(this.playerBox(), item.object.shape, 0));
      if (inside === item.inside) continue;
      item.inside = inside;
      this.emit(item, inside ? 'entered' : 'left');
      if (inside && hasPart(this.inputs.profile, item.object.class, 'goal')) this.act(item, 'complete', null);
    }
  }

  private checkFall(): void {
    if (this.walker.flying || this.walker.feet[2] > this.floorOfWorld) return;
    this.ended = 'fell';
    const name = this.start?.object.name ?? 'the origin';
    this.print('system', `Fell out of the world; started at ${name}.`);
    this.findings.push({
      code: 'fell-out',
      severity: 'blocker',
      stage: 'trial',
      message: `The player fell out of the world ${this.time.toFixed(1)} s after starting at ${name}.`,
      hint: 'Check that the start point does not touch a solid, and that there is a floor below the way.',
      place: { map: this.inputs.map.name, object: this.start?.id, point: [...this.walker.feet] },
    });
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

/** A property as a number. Scripts may set any property to anything; what is no number counts as 0. */
function numberOf(value: PropertyValue | undefined): number {
  const number = Number(value);
  return Number.isFinite(number) ? number : 0;
}
