/**
 * A test run apart from whoever shows it: the simulation sits in a worker (of a page or of Node.js) and is talked to
 * by plain messages, so that a script that never comes back can be ended from outside (`watchdog.ts`). This file is
 * what both sides say, and the worker's side of it.
 */

import type { Finding } from '../finding.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { Box3 } from '../math/box3.ts';
import type { Pose } from '../math/pose.ts';
import { length, type Vec3 } from '../math/vec3.ts';
import type { MapObject, PropertyValue, TrialStep, Mood } from '../document/schema.ts';
import type { ScriptPlace } from '../script/run.ts';
import type { LogPoint } from '../script/run.ts';
import { Coverage, coverageCell, type CoverageData } from './coverage.ts';
import { TrialDriver } from './driver.ts';
import { explore, type Exploration } from './explore.ts';
import { runTrial, type TrialReport } from './headless.ts';
import type { LiveEdit } from './liveMap.ts';
import type { Intent } from './move.ts';
import { Playback, playWalk, Recorder, type WalkReport } from './record.ts';
import type { ConsoleLine } from './console.ts';
import type { Delivery } from './signals.ts';
import type { Walk, WalkAct } from './walk.ts';
import { isGone, type TrialObject } from './objects.ts';
import type { Offer } from './players.ts';
import type { ShownTalk } from './talking.ts';
import type { RaceState } from './race.ts';
import type { Standing } from './rivals.ts';
import type { Rider } from './riders.ts';
import { RaceDriver } from './raceDriver.ts';
import { runRace, type RaceReport } from './raceTrial.ts';
import type { WindSetting } from './wind.ts';
import { TrialWorld, type PlayedSound, type TrialInputs } from './world.ts';

/** What the owner says. Every order but `demonstrate` is answered by one `state` or `report`. */
export type TrialOrder =
  /** Begins a run that is shown; the first state names all objects. With a walk it is played back, step by step. */
  | { type: 'begin'; inputs: TrialInputs; walk?: Walk }
  /** The same run from start to end without a screen. */
  | { type: 'whole'; inputs: TrialInputs }
  /** Walks by name, played back without a screen; `edit` is what has changed since the build. */
  | { type: 'walks'; inputs: TrialInputs; walks: Record<string, Walk>; edit?: LiveEdit; coverage?: boolean }
  /** A search for all that can happen, for so many seconds. */
  | { type: 'explore'; inputs: TrialInputs; seed: number; seconds: number }
  /** Races that a driver rides without a screen, one per wind. */
  | { type: 'race'; inputs: TrialInputs; winds: WindSetting[]; riders?: Rider[] }
  /** Asks for what was recorded so far. */
  | { type: 'recorded' }
  /**
   * So many steps, one per intent; in a demonstration only their number counts. `look` is where the player looks, and
   * `guests` is what those want who have come in, in all of the steps.
   */
  | { type: 'advance'; intents: Intent[]; look: Vec3; guests?: Record<number, Intent> }
  /** `player` is who does it; the first without it. */
  | { type: 'operate'; look: Vec3; player?: number }
  /** Answers in a conversation, by number. */
  | { type: 'answer'; choice: number; player?: number }
  /** Throws what is carried. */
  | { type: 'fling'; look: Vec3; player?: number }
  /** Somebody comes in, or goes. */
  | { type: 'join'; name: string }
  | { type: 'leave'; player: number }
  /** Scripts that were changed while it runs, by path. */
  | { type: 'scripts'; scripts: Record<string, string> }
  /** What was edited in the map while it runs. */
  | { type: 'edit'; edit: LiveEdit }
  /** Expressions whose worth is told along with every state from now on, and those that are told when a line runs. */
  | { type: 'watch'; expressions: string[] }
  | { type: 'logs'; points: LogPoint[] }
  /** What whoever tests may do and a player may not. */
  | { type: 'command'; command: TrialCommand }
  /** Counts lines and calls of scripts from now on, or no longer. */
  | { type: 'measure'; on: boolean }
  /** Asks for what the run has come by so far. */
  | { type: 'coverage' }
  /** A line of Lua that was typed while it runs. */
  | { type: 'evaluate'; text: string }
  | { type: 'glide'; player?: number }
  /** A driver rides the race in the player's place, or no longer. */
  | { type: 'drive'; on: boolean; nerve?: number }
  | { type: 'demonstrate'; steps: TrialStep[] };

/** What the worker says. */
export type TrialNews =
  /** A sign of life; the first one says that scripts run from now on. */
  | { type: 'beat' }
  | { type: 'at'; place: ScriptPlace }
  | { type: 'state'; state: TrialState }
  | { type: 'report'; report: TrialReport }
  | { type: 'walked'; reports: WalkReport[]; coverage?: CoverageData }
  | { type: 'explored'; exploration: Exploration }
  | { type: 'raced'; reports: RaceReport[] }
  | { type: 'coverage'; coverage: CoverageData }
  /** The walk, and whether it was touched: then it is not what playing it back from the start gives. */
  | { type: 'recorded'; walk: Walk; touched: boolean }
  | { type: 'failed'; message: string };

/** What a console's commands do to a run, which cannot be saved as a walk from then on. */
export type TrialCommand = { do: 'go'; to: Vec3 } | { do: 'fire'; object: string; event: string };

/** An object as it is shown: where it was put, and how it has changed since. */
export interface ShownObject {
  id: string;
  object: MapObject;
  box: Box3;
  properties: Record<string, PropertyValue>;
  pose: Pose;
  gone: boolean;
  /** Values of its parts beside its properties. */
  live: Record<string, number>;
}

type Present = Pick<ShownObject, 'properties' | 'pose' | 'gone' | 'live'>;
type Change = Present & { id: string };

/** A player as others see it. */
export interface ShownPlayer {
  index: number;
  name: string;
  feet: Vec3;
  eye: Vec3;
  look: Vec3;
  velocity: Vec3;
  flying: boolean;
  crouching: boolean;
  health: number | null;
  ground: { name: string; surface: string } | null;
  offer: Offer | null;
}

export interface TrialState {
  /** All that play, once there are several. */
  players: ShownPlayer[];
  time: number;
  feet: Vec3;
  eye: Vec3;
  flying: boolean;
  ended: TrialWorld['ended'];
  /** Units per second, and what the player stands on. */
  velocity: Vec3;
  ground: { name: string; surface: string } | null;
  /** What watched expressions are worth, in their order. */
  watched: string[];
  /** Points left of those that the player has in full; null where the game counts none. */
  health: { now: number; full: number } | null;
  /** What the player can do with what it looks at. */
  offer: Offer | null;
  /** What was printed, and which sounds were asked for, since the last state. */
  lines: ConsoleLine[];
  sounds: PlayedSound[];
  /** Signals that were sent since the last state. */
  deliveries: Delivery[];
  findings: Finding[];
  /** Objects that are shown from now on, or anew: all of them in the first state. */
  objects: ShownObject[];
  /** Ids of objects that are shown no longer. */
  removed: string[];
  changed: Change[];
  /** What is said and can be answered. */
  talk: ShownTalk | null;
  /** What the first player rides, and how the race stands. */
  ride: ShownRide | null;
  race: RaceState | null;
  /** All who race in their order, where others do. */
  standings: Standing[];
  /** Time and weather as they are now; null where the map has no moods. */
  mood: Mood | null;
  /** In a demonstration: its step, from 1 on, and where it walks. */
  demonstration: { step: number; walk: Vec3 } | null;
  /** A driver rides. */
  driven: boolean;
  /** While a walk is played back: where its player looks. */
  played: { look: Vec3 } | null;
}

/** What is shown of a vehicle that is ridden: metres and metres a second; where the wind comes from, radians. */
export interface ShownRide {
  id: string;
  speed: number;
  heading: number;
  up: Vec3;
  onGround: boolean;
  sheet: number;
  jolt: number;
  down: boolean;
  wind: { from: number; speed: number };
}

/** Milliseconds between two signs of life in a long run. */
const BEAT_EVERY = 100;

/** The worker's side: give it a way to answer, and hand it every order. */
export class TrialSession {
  private world: TrialWorld | null = null;
  private recorder: Recorder | null = null;
  private driver: TrialDriver | null = null;
  private playback: Playback | null = null;
  private rider: RaceDriver | null = null;
  private walk: Vec3 = [0, 0, 0];
  private printed = 0;
  private watched: string[] = [];
  private coverage: Coverage | null = null;
  /** What was told last of every object, as text. */
  private readonly shown = new Map<string, string>();
  private readonly told = new Set<string>();

  /** @param report hears what went wrong within, which is for us */
  constructor(
    private readonly post: (news: TrialNews) => void,
    private readonly report: (error: unknown) => void,
  ) {}

  /** Carries orders out one after the other, in the order in which they came. */
  take(order: TrialOrder): Promise<void> {
    return (this.orders = this.orders.then(() => this.attempt(order)));
  }

  private orders: Promise<void> = Promise.resolve();

  private async attempt(order: TrialOrder): Promise<void> {
    try {
      await this.carryOut(order);
    } catch (error) {
      // Whoever plays has only a sentence to go on.
      if (!(error instanceof UnreadableInput)) this.report(error);
      this.post({ type: 'failed', message: error instanceof UnreadableInput ? error.message : 'the simulation met what it cannot handle' });
    }
  }

  private readonly watcher = {
    loading: () => this.post({ type: 'beat' }),
    at: (place: ScriptPlace) => this.post({ type: 'at', place }),
  };

  /** A sign of life now and then, for what is called after every step. */
  private beats(): () => void {
    let last = performance.now();
    return () => {
      const now = performance.now();
      if (now - last < BEAT_EVERY) return;
      last = now;
      this.post({ type: 'beat' });
    };
  }

  private async carryOut(order: TrialOrder): Promise<void> {
    if (order.type === 'whole') {
      return this.post({ type: 'report', report: await runTrial(order.inputs, this.watcher, this.beats()) });
    }
    if (order.type === 'walks') {
      const reports: WalkReport[] = [];
      const beat = this.beats();
      const coverage = order.coverage ? new Coverage(coverageCell(order.inputs.profile)) : undefined;
      for (const [name, walk] of Object.entries(order.walks))
        reports.push(
          await playWalk(order.inputs, name, walk, {
            edit: order.edit,
            watcher: { ...this.watcher, coverage, measured: coverage !== undefined },
            beat,
          }),
        );
      return this.post({ type: 'walked', reports, ...(coverage ? { coverage: coverage.data() } : {}) });
    }
    if (order.type === 'explore') {
      const { inputs, seed, seconds } = order;
      const exploration = await explore(inputs, { seed, seconds, watcher: this.watcher, beat: this.beats() });
      return this.post({ type: 'explored', exploration });
    }
    if (order.type === 'race') {
      const reports: RaceReport[] = [];
      const beat = this.beats();
      for (const wind of order.winds)
        for (const rider of order.riders ?? [undefined]) reports.push(await runRace(order.inputs, wind, this.watcher, beat, rider));
      return this.post({ type: 'raced', reports });
    }
    if (order.type === 'begin') {
      this.coverage = new Coverage(coverageCell(order.inputs.profile));
      if (order.walk) this.playback = new Playback(order.walk);
      this.world = await TrialWorld.begin(
        { ...order.inputs, ...(order.walk?.start ? { start: order.walk.start } : {}) },
        { ...this.watcher, coverage: this.coverage },
      );
      this.recorder = new Recorder(this.world);
      return this.tell([1, 0, 0]);
    }
    const { world, recorder } = this;
    if (!world || !recorder) throw new UnreadableInput('trial-order', 'there is no run yet');
    if (order.type === 'demonstrate') {
      this.driver = new TrialDriver(world.profile, order.steps, true);
      return world.print('system', 'Walking the map’s trial steps.');
    }
    if (order.type === 'coverage') {
      world.scripts.measured();
      return this.post({ type: 'coverage', coverage: this.coverage!.data() });
    }
    if (order.type === 'recorded') return this.post({ type: 'recorded', walk: recorder.walk(world.mapName), touched: recorder.touched });
    if (order.type === 'scripts') {
      recorder.touched = true;
      world.scripts.reload(order.scripts);
    } else if (order.type === 'edit') {
      // What has changed since the build belongs to the start of the run.
      if (world.time > 0) recorder.touched = true;
      world.edit(order.edit);
      for (const id of Object.keys(order.edit.objects)) this.shown.delete(id);
    } else if (order.type === 'advance') {
      for (const intent of order.intents) this.advance(recorder, intent, order.guests);
      return this.tell(this.playback ? world.look : order.look);
    } else if (order.type === 'join' || order.type === 'leave') {
      recorder.touched = true;
      if (order.type === 'join') world.players.join(order.name);
      else world.players.leave(order.player);
    } else if ('player' in order && order.player !== undefined && order.player > 0) this.guestActs(world, order);
    else if (order.type === 'drive') this.rider = order.on && world.race ? RaceDriver.ofPlayer(world, order.nerve) : null;
    else if (order.type === 'watch') this.watched = order.expressions;
    else if (order.type === 'logs') world.scripts.logAt(order.points);
    else if (order.type === 'measure') world.scripts.measure(order.on);
    else if (order.type === 'command') {
      if (order.command.do === 'fire') world.fire(order.command.object, order.command.event);
      else world.put(order.command.to);
      recorder.touched = true;
    } else if (!this.playback) recorder.act(actOf(order));
    this.tell('look' in order ? order.look : world.look);
  }

  private advance(recorder: Recorder, intent: Intent, guests: Readonly<Record<number, Intent>> = {}): void {
    // Runs of several are not recorded: a walk has one player.
    if (Object.keys(guests).length > 0) return this.world!.step(intent, guests);
    if (this.driver) return recorder.step(this.driven(this.driver, recorder));
    if (this.rider) return recorder.step(this.rider.tick());
    if (!this.playback) return recorder.step(intent);
    if (this.playback.step(recorder)) return;
    this.playback = null;
    this.world!.print('system', 'The walk is over; from here on you walk yourself.');
  }

  private guestActs(world: TrialWorld, order: Extract<TrialOrder, { player?: number }>): void {
    if (order.type === 'operate') world.operate(order.look, order.player);
    else if (order.type === 'fling') world.fling(order.look, order.player);
    // A conversation is everybody's: whoever answers first has answered.
    else if (order.type === 'answer') world.answer(order.choice);
    else world.glide(order.player);
  }

  private driven(driver: TrialDriver, recorder: Recorder): Intent {
    const world = this.world!;
    const intent = driver.tick(world, recorder);
    this.walk = intent.move;
    if (driver.done) {
      const failed = driver.results.find((result) => !result.ok);
      world.print('system', failed ? `The demonstration stopped: ${failed.detail}` : 'The demonstration is over.');
      this.driver = null;
    }
    return intent;
  }

  private tell(look: Vec3): void {
    const world = this.world!;
    const objects: ShownObject[] = [];
    const changed: Change[] = [];
    for (const item of world.objects) {
      const state = present(world, item);
      const text = JSON.stringify(state);
      const before = this.shown.get(item.id);
      if (text === before) continue;
      this.shown.set(item.id, text);
      if (before === undefined) objects.push({ id: item.id, object: item.object, box: world.objects.boxOf(item), ...state });
      else changed.push({ id: item.id, ...state });
    }
    const removed = [...this.told].filter((id) => !world.objects.get(id));
    for (const id of removed) this.told.delete(id);
    for (const { id } of objects) this.told.add(id);
    const lines = world.console.since(this.printed);
    this.printed = world.console.printed;
    this.post({
      type: 'state',
      state: {
        players: shownPlayers(world),
        time: world.time,
        feet: [...world.walker.feet],
        eye: world.eye(),
        flying: world.walker.flying,
        ended: world.ended,
        velocity: [...world.walker.velocity],
        ground: world.standingOn(world.walker),
        watched: this.watched.map((expression) => world.scripts.worth(expression)),
        health: world.health === null ? null : { now: world.health, full: world.profile.player.health! },
        offer: world.offer(look),
        lines,
        sounds: world.sounds.splice(0),
        deliveries: world.signals.take(),
        findings: [...world.findings],
        objects,
        removed,
        changed,
        ride: shownRide(world),
        race: world.race?.state(world.time) ?? null,
        mood: world.moods.now,
        standings: world.rivals.any ? world.rivals.standings() : [],
        demonstration: this.driver && { step: this.driver.results.length + 1, walk: this.walk },
        driven: this.rider !== null,
        talk: world.talking.now,
        played: this.playback && { look: world.look },
      },
    });
  }
}

/** What the player did, as it is recorded. */
function actOf(order: Extract<TrialOrder, { type: 'operate' | 'fling' | 'glide' | 'evaluate' | 'answer' }>): WalkAct {
  if (order.type === 'evaluate') return { act: 'lua', text: order.text };
  if (order.type === 'answer') return { act: 'answer', choice: order.choice };
  return order.type === 'glide' ? { act: 'glide' } : { act: order.type, look: order.look };
}

function shownPlayers(world: TrialWorld): ShownPlayer[] {
  const { players } = world;
  if (players.walkers.length < 2) return [];
  return [...players].map((player) => ({
    index: player.index,
    name: player.name,
    feet: [...player.walker.feet],
    eye: players.eye(player),
    look: player.look,
    velocity: [...player.walker.velocity],
    flying: player.walker.flying,
    crouching: player.walker.crouching,
    health: player.fate.health,
    ground: world.standingOn(player.walker),
    offer: world.offer(player.look, player.index),
  }));
}

function shownRide(world: TrialWorld): ShownRide | null {
  const vehicle = world.vehicles.get(world.players.first.riding ?? '');
  if (!vehicle) return null;
  const { state, wants, down, item } = vehicle;
  const [x, y] = world.wind.at(world.time);
  return {
    id: item.id,
    speed: length(state.velocity),
    heading: state.heading,
    up: state.up,
    onGround: state.onGround,
    sheet: wants.sheet,
    jolt: state.jolt,
    down: down !== null,
    wind: { from: Math.atan2(-y, -x), speed: Math.hypot(x, y) * world.profile.unit.metres },
  };
}

const present = (world: TrialWorld, item: TrialObject): Present => ({
  properties: { ...item.properties },
  pose: world.objects.poseOf(item),
  gone: isGone(item),
  live: world.objects.liveOf(item),
});
