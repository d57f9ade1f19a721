/**
 * A player that tries everything: from every start it goes to each thing that can be operated, taken, entered or ridden,
 * and again wherever the world has changed, until nothing new happens or its time is over. It cannot copy a
 * world, but runs repeat to the bit, so that it comes back to any state by playing back how it got there. Seeded: the
 * same map and seed give the same search, as far as it gets.
 *
 * It is a depth-first search over states of the world as they can be told apart from outside (`stateOf`), and goes on
 * first with what has changed most before. What it says of dead ends is proven: every action was tried in them.
 */

import type { Finding } from '../finding.ts';
import { boxCentre, boxSize, type Box3 } from '../math/box3.ts';
import { distance, sub, normalise, type Vec3 } from '../math/vec3.ts';
import { factOf, partsOf } from '../profile/parts.ts';
import { Coverage, coverageCell, type CoverageData } from './coverage.ts';
import { isGone, type TrialObject } from './objects.ts';
import { Playback, Recorder } from './record.ts';
import type { TrialWatcher } from './scripts.ts';
import type { Walk } from './walk.ts';
import { TIME_STEP, TrialWorld, type TrialInputs } from './world.ts';
import { Ground } from './exploreGround.ts';
import { ExploreWalker } from './exploreWalker.ts';

export interface ExploreOptions {
  seed?: number;
  /** Seconds of real time after which it ends. */
  seconds: number;
  watcher?: TrialWatcher;
  /** Called after every step. */
  beat?(): void;
  /** Real time in milliseconds. */
  now?(): number;
}

export interface Exploration {
  seed: number;
  /** Seconds of simulated time, of all runs. */
  simulated: number;
  runs: number;
  states: number;
  /** Whether everything was tried: what was not found is not there. */
  complete: boolean;
  /** What it did to win, and the run. */
  won: { order: string[]; walk: Walk } | null;
  /** What led to states from which the goal cannot be reached any more. */
  deadEnds: { order: string[]; at: Vec3; walk: Walk }[];
  /** Ids of objects that it never got to. */
  unreached: string[];
  /** Where it stood before something and got no further. */
  stuck: { at: Vec3; towards: string }[];
  fell: { at: Vec3; order: string[]; walk: Walk }[];
  coverage: CoverageData;
  findings: Finding[];
}

type Kind = 'operate' | 'enter' | 'ride' | 'carry';
interface Action {
  key: string;
  kind: Kind;
  id: string;
  /** What is carried there. */
  thing?: string;
  words: string;
}

type Outcome = 'done' | 'unreached' | 'blocked' | 'lost' | 'won';

interface State {
  key: string;
  /** Its number in the order of finding. */
  index: number;
  /** What scripts remember and what is taken: in another one of these anything may be worth another try. */
  context: string;
  /** How to get here: inputs of a run from its start. */
  start: string;
  inputs: readonly string[];
  order: readonly string[];
  at: Vec3;
  tried: Map<string, { outcome: Outcome; to: State | null }>;
}

/** Seconds that the world is given to come to rest after an action, and for which it then has to stay the same. */
const SETTLE = 12;
const QUIET = 1;
/** Points from which a thing is tried to be reached. */
const APPROACHES = 3;
const DETOURS = 3;
/** Things that are carried to one volume, the nearest first. */
const CARRIED = 2;
/** Grounds that are kept, and dead ends and falls that are told. */
const GROUNDS = 24;
const TOLD = 5;

export async function explore(inputs: TrialInputs, options: ExploreOptions): Promise<Exploration> {
  return new Explorer(inputs, options).run();
}

class Explorer {
  private readonly random: () => number;
  private readonly states = new Map<string, State>();
  private readonly grounds = new Map<string, Ground>();
  /** Objects that change by themselves. */
  private readonly restless = new Set<string>();
  /** Per action: how often it was tried, and how often that changed anything. */
  private readonly known = new Map<string, { tried: number; changed: number; reached: boolean }>();
  private readonly inContext = new Set<string>();
  private readonly coverage: Coverage;
  private readonly stuck = new Map<string, { at: Vec3; towards: string }>();
  private readonly fell: Exploration['fell'] = [];
  private won: Exploration['won'] = null;
  private runs = 0;
  /** Its time was over before everything was tried. */
  private hurried = false;
  private steps = 0;
  private readonly until: number;
  private readonly now: () => number;

  constructor(
    private readonly inputs: TrialInputs,
    private readonly options: ExploreOptions,
  ) {
    this.random = mulberry(options.seed ?? 1);
    this.now = options.now ?? (() => performance.now());
    this.until = this.now() + options.seconds * 1000;
    this.coverage = new Coverage(coverageCell(inputs.profile));
  }

  async run(): Promise<Exploration> {
    const { profile, map } = this.inputs;
    const starts = Object.entries(map.objects).flatMap(([id, object]) => (factOf(profile, object.class, 'start') ? [id] : []));
    for (const start of starts.length > 0 ? starts : ['']) {
      const root = await this.begin(start, []);
      await this.from(root);
      root.world.stop();
    }
    for (;;) {
      if (this.late()) break;
      const next = this.unfinished();
      if (!next) break;
      const run = await this.begin(next.start, next.inputs);
      // What is not the same any more would be an error of ours; it is left as it is.
      if (!run.world.ended) await this.from({ ...run, state: next });
      run.world.stop();
    }
    for (const ground of this.grounds.values()) ground.free();
    return this.report();
  }

  private late(): boolean {
    return (this.hurried ||= this.now() > this.until);
  }

  /** A state in which something is left to try, the one with the most promising action first. */
  private unfinished(): State | null {
    let best: State | null = null;
    let most = -Infinity;
    for (const state of this.states.values()) {
      if (state.tried.size >= this.actions().length) continue;
      const worth = Math.max(...this.open(state).map((action) => this.interest(action, state))) - state.order.length * 0.01;
      if (worth > most) [best, most] = [state, worth];
    }
    return best;
  }

  private async begin(start: string, inputs: readonly string[]): Promise<Run> {
    this.runs++;
    const world = await TrialWorld.begin(
      { ...this.inputs, ...(start ? { start } : {}) },
      { ...this.options.watcher, coverage: this.coverage, measured: true },
    );
    const recorder = new Recorder(world);
    const walker = new ExploreWalker(
      world,
      recorder,
      () => {
        this.steps++;
        this.options.beat?.();
        return !this.late();
      },
      this.random,
    );
    const playback = new Playback({ inputs: [...inputs] });
    while (!world.ended && playback.step(recorder)) {
      this.steps++;
      this.options.beat?.();
    }
    const run: Run = { world, recorder, walker, start, order: [], state: null };
    if (inputs.length === 0) this.settle(run);
    return run;
  }

  /** Goes on from where a run is, as long as there is something to try. */
  private async from(run: Run): Promise<void> {
    const { world } = run;
    run.state ??= this.stateOf(run, await this.groundOf(world));
    run.order = [...run.state.order];
    while (!world.ended && !this.late()) {
      const state: State = run.state;
      const ground = await this.groundOf(world);
      const action = this.choose(run, state);
      if (!action) return;
      const note = this.note(action);
      const outcome = this.attempt(run, action, ground);
      if (outcome === 'unreached') {
        state.tried.set(action.key, { outcome, to: state });
        continue;
      }
      note.tried++;
      this.inContext.add(`${action.key}\n${state.context}`);
      if (outcome !== 'blocked') note.reached = true;
      if (this.late() && !world.ended) return;
      run.order.push(action.words);
      if (world.ended) {
        const end = world.ended === 'won' ? 'won' : 'lost';
        state.tried.set(action.key, { outcome: end, to: null });
        if (end === 'won') {
          note.changed++;
          if (!this.won || this.won.order.length > run.order.length) this.won = { order: [...run.order], walk: this.walkOf(run) };
        } else if (this.fell.length < TOLD) this.fell.push({ at: [...world.walker.feet], order: [...run.order], walk: this.walkOf(run) });
        return;
      }
      const next = this.stateOf(run, await this.groundOf(world));
      state.tried.set(action.key, { outcome, to: next });
      // Getting nowhere is no step of an order.
      if (next === state) run.order.pop();
      else note.changed++;
      run.state = next;
      run.order = [...(next.order.length <= run.order.length ? next.order : run.order)];
    }
  }

  private attempt({ world, walker }: Run, action: Action, ground: Ground): Outcome {
    const item = world.objects.get(action.id)!;
    const box = world.objects.boxNow(item);
    const reached = ground.from(ground.areaAt(world.walker.feet));
    if (action.thing !== undefined) {
      const thing = world.bodies?.boxOf(action.thing);
      if (!thing) return 'unreached';
      const got = this.approach(walker, ground, reached, thing, () => world.offer(walker.towards(thing))?.does === 'pick up', world);
      if (got !== 'done') return got;
      const now = world.bodies!.boxOf(action.thing)!;
      if (!walker.operate(now) || world.hands?.held !== action.thing) {
        world.hands?.release();
        return 'blocked';
      }
      return this.lay(world, walker, ground, box);
    }
    if (action.kind === 'operate') {
      const done = this.approach(walker, ground, reached, box, () => this.offered(world, walker, item), world);
      if (done !== 'done') return done;
      walker.operate(world.objects.boxNow(item));
    } else {
      const inside = () => within(box, world.walker.feet, world.profile.player);
      const done = this.approach(
        walker,
        ground,
        reached,
        box,
        action.kind === 'ride' ? () => world.walker.ground?.id === item.id : inside,
        world,
        true,
      );
      if (done !== 'done') return done;
    }
    this.settle({ world, walker });
    return 'done';
  }

  /** Carries on to a box and sets down there what is in hand. */
  private lay(world: TrialWorld, walker: ExploreWalker, ground: Ground, box: Box3): Outcome {
    const { player } = world.profile;
    const centre = boxCentre(box);
    const reached = ground.from(ground.areaAt(world.walker.feet));
    for (const at of ground.pointsAt(box, reached, true).slice(0, 1)) {
      const way = ground.way(world.walker.feet, at);
      if (!way) continue;
      const near = () => Math.hypot(centre[0] - world.walker.feet[0], centre[1] - world.walker.feet[1]) < player.radius * 2.5;
      if (walker.go(way, near) === 'over') return 'lost';
    }
    const held = world.hands?.held;
    const look = normalise(sub([centre[0], centre[1], box.min[2]], world.eye()));
    for (let i = 0; i < 60; i++) if (!walker.step({ look })) return 'lost';
    if (held && world.hands?.held === held) walker.operate(box);
    this.settle({ world, walker });
    return 'done';
  }

  private approach(
    walker: ExploreWalker,
    ground: Ground,
    reached: ReadonlySet<number>,
    box: Box3,
    there: () => boolean,
    world: TrialWorld,
    within = false,
  ): Outcome {
    if (there()) return 'done';
    const points = ground.pointsAt(box, reached, within).slice(0, APPROACHES);
    let met = false;
    for (const point of points) {
      // What is in the way is gone round: a step aside leads to another way.
      for (let turn = 0; turn < DETOURS; turn++) {
        const way = ground.way(world.walker.feet, point);
        if (!way) break;
        met = true;
        const arrival = walker.go(way, there);
        if (arrival === 'over') return world.ended === 'won' ? 'won' : 'lost';
        if (there()) return 'done';
        if (arrival === 'there') break;
        if (turn < DETOURS - 1) continue;
        const at = [...world.walker.feet] as Vec3;
        this.stuck.set(at.map((v) => Math.round(v / 32)).join('/'), { at, towards: nameAt(world, box) });
      }
    }
    return met ? 'blocked' : 'unreached';
  }

  private offered(world: TrialWorld, walker: ExploreWalker, item: TrialObject): boolean {
    return world.usable(walker.towards(world.objects.boxNow(item))) === item;
  }

  /** Lets the world come to rest. What does not, moves by itself from now on. False where the run is over. */
  private settle({ world, walker }: Pick<Run, 'world' | 'walker'>): boolean {
    let before = partsOfState(world, this.restless);
    let quiet = 0;
    for (let waited = 0; waited < SETTLE; waited += 0.25) {
      if (!walker.wait(0.25)) return false;
      const now = partsOfState(world, this.restless);
      const same = [...now].every(([id, text]) => before.get(id) === text);
      quiet = same ? quiet + 0.25 : 0;
      before = now;
      // What waits for its time may be what comes next.
      if (quiet >= (world.waits ? 3 : QUIET)) return true;
    }
    if (!walker.wait(0.5)) return false;
    for (const [id, text] of partsOfState(world, this.restless)) if (before.get(id) !== text) this.restless.add(id);
    return true;
  }

  private stateOf(run: Run, ground: Ground): State {
    const { world, recorder, start, order } = run;
    const parts = [...partsOfState(world, this.restless)].map(([id, text]) => `${id}=${text}`).join('\n');
    const context = [world.scripts.memory(), ...[...world.objects].filter(isGone).map(({ id }) => id)].join('\n');
    const key = [start, ground.areaAt(world.walker.feet), world.health, parts, context].join('\n');
    const known = this.states.get(key);
    if (known) return known;
    const state: State = {
      key,
      index: this.states.size,
      context,
      start,
      inputs: recorder.walk(world.mapName).inputs,
      order: [...order],
      at: [...world.walker.feet],
      tried: new Map(),
    };
    this.states.set(key, state);
    return state;
  }

  private async groundOf(world: TrialWorld): Promise<Ground> {
    const key = Ground.keyOf(world);
    const known = this.grounds.get(key);
    if (known) return known;
    const ground = await Ground.of(world);
    this.grounds.set(key, ground);
    if (this.grounds.size > GROUNDS) {
      const [oldest, dropped] = this.grounds.entries().next().value!;
      this.grounds.delete(oldest);
      dropped.free();
    }
    return ground;
  }

  private list: Action[] | null = null;

  /** All that can be tried in this map. */
  private actions(): Action[] {
    if (this.list) return this.list;
    const { profile, map } = this.inputs;
    const heard = new Set(Object.values(map.signals).map((signal) => signal.from));
    const loose = Object.keys(map.objects).filter((id) => {
      const { class: of, properties } = map.objects[id];
      return partsOf(profile, of).some((part) => part.movesFreely?.(properties));
    });
    const list: Action[] = [];
    for (const [id, object] of Object.entries(map.objects)) {
      const parts = partsOf(profile, object.class);
      const wanted = parts.flatMap((part) => part.objective ?? []);
      if (wanted.includes('operate')) list.push({ key: `operate ${id}`, kind: 'operate', id, words: `use ${object.name}` });
      else if (wanted.includes('enter')) {
        const { senses } = object.properties;
        if (senses !== 'things') list.push({ key: `enter ${id}`, kind: 'enter', id, words: `enter ${object.name}` });
        if ((senses === 'things' || senses === 'both') && heard.has(id)) {
          const near = [...loose].sort(
            (a, b) => distance(map.objects[a].position, object.position) - distance(map.objects[b].position, object.position),
          );
          for (const thing of near.slice(0, CARRIED))
            list.push({ key: `carry ${thing} ${id}`, kind: 'carry', id, thing, words: `carry ${map.objects[thing].name} to ${object.name}` });
        }
      } else if (parts.some((part) => part.offset && part.collides?.(object.properties)))
        list.push({ key: `ride ${id}`, kind: 'ride', id, words: `stand on ${object.name}` });
    }
    return (this.list = list);
  }

  private open(state: State): Action[] {
    return this.actions().filter(({ key }) => !state.tried.has(key));
  }

  private note(action: Action) {
    let note = this.known.get(action.key);
    if (!note) this.known.set(action.key, (note = { tried: 0, changed: 0, reached: false }));
    return note;
  }

  /** How much an action promises: it is new, here at least, or changed the world before; and was not done on the way here. */
  private interest(action: Action, state: State): number {
    const { tried, changed } = this.note(action);
    const done = state.order.filter((words) => words === action.words).length;
    if (tried === 0) return 1.2;
    const fresh = this.inContext.has(`${action.key}\n${state.context}`) ? 0 : 0.8;
    return Math.max(fresh, (changed + 0.2) / (tried + 0.2)) / (1 + done * done);
  }

  private choose({ world }: Run, state: State): Action | null {
    let best: Action | null = null;
    let most = -Infinity;
    const far = 4000 * world.profile.player.radius;
    for (const action of this.open(state)) {
      const item = world.objects.get(action.id);
      if (!item || isGone(item)) {
        state.tried.set(action.key, { outcome: 'unreached', to: state });
        if (item) this.note(action).reached = true;
        continue;
      }
      const away = distance(boxCentre(world.objects.boxNow(item)), world.walker.feet) * (0.8 + 0.4 * this.random());
      const worth = this.interest(action, state) - (0.3 * away) / (away + far / 20);
      if (worth > most) [best, most] = [action, worth];
    }
    return best;
  }

  private walkOf({ recorder, world, start }: Run): Walk {
    return { ...recorder.walk(world.mapName), ...(start ? { start } : {}) };
  }

  private report(): Exploration {
    const states = [...this.states.values()];
    const all = this.actions().length;
    const done = (state: State) => state.tried.size >= all;
    // From which the goal can be reached, or might be, since something was left untried.
    const open = new Set(states.filter((state) => !done(state) || [...state.tried.values()].some(({ outcome }) => outcome === 'won')));
    for (let grown = true; grown;) {
      grown = false;
      for (const state of states)
        if (!open.has(state) && [...state.tried.values()].some(({ to }) => to && open.has(to))) {
          open.add(state);
          grown = true;
        }
    }
    const { map, profile } = this.inputs;
    const wins = Object.values(map.objects).some((object) => partsOf(profile, object.class).some((part) => part.id === 'goal'));
    const dead = wins ? states.filter((state) => !open.has(state)) : [];
    // Where one gets into them, not what lies within.
    const entries = dead.filter(
      (state) => state.index === 0 || states.some((from) => open.has(from) && [...from.tried.values()].some(({ to }) => to === state)),
    );
    const complete = !this.hurried && states.every(done);
    const unreached = [
      ...new Set(
        this.actions()
          .filter((action) => !this.known.get(action.key)?.reached && action.kind !== 'carry' && action.kind !== 'ride')
          .map(({ id }) => id),
      ),
    ];
    const report: Exploration = {
      seed: this.options.seed ?? 1,
      simulated: Math.round(this.steps * TIME_STEP),
      runs: this.runs,
      states: states.length,
      complete,
      won: this.won,
      deadEnds: entries.slice(0, TOLD).map((state) => ({
        order: [...state.order],
        at: state.at,
        walk: {
          format: 1,
          map: map.name,
          inputs: [...state.inputs],
          marks: [],
          track: [],
          hashes: [],
          ended: null,
          ...(state.start ? { start: state.start } : {}),
        },
      })),
      unreached,
      stuck: [...this.stuck.values()].slice(0, 50),
      fell: this.fell,
      coverage: this.coverage.data(),
      findings: [],
    };
    report.findings = exploreFindings(this.inputs, report, wins);
    return report;
  }
}

interface Run {
  world: TrialWorld;
  recorder: Recorder;
  walker: ExploreWalker;
  start: string;
  order: string[];
  state: State | null;
}

/** What of every object can be told from outside; what only rolls about counts by what it sets off. */
function partsOfState(world: TrialWorld, without: ReadonlySet<string>): Map<string, string> {
  const found = new Map<string, string>();
  for (const item of world.objects) {
    if (without.has(item.id)) continue;
    const live = Object.entries(world.objects.liveOf(item)).map(([name, value]) => `${name} ${Math.round(value * 100)}`);
    const own = Object.entries(item.properties).filter(([name, value]) => JSON.stringify(value) !== JSON.stringify(item.object.properties[name]));
    const turned = [...item.pose.offset, ...item.pose.turn].map((v) => Math.round(v * 100)).join(' ');
    found.set(item.id, `${isGone(item)} ${live.join(',')} ${JSON.stringify(own)} ${turned}`);
  }
  return found;
}

function within(box: Box3, feet: Vec3, player: { radius: number; height: number }): boolean {
  return [0, 1].every((k) => feet[k] > box.min[k] && feet[k] < box.max[k]) && feet[2] < box.max[2] && feet[2] + player.height > box.min[2];
}

function nameAt(world: TrialWorld, box: Box3): string {
  const centre = boxCentre(box);
  for (const item of world.objects) {
    const own = world.objects.boxNow(item);
    if (distance(boxCentre(own), centre) < 1e-6 && distance(boxSize(own), boxSize(box)) < 1e-6) return item.object.name;
  }
  return 'a thing';
}

/** A generator of chance by Tommy Ettinger (mulberry32), from memory; 0 to below 1. */
function mulberry(seed: number): () => number {
  let a = seed | 0;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const told = (order: readonly string[]): string => (order.length > 0 ? order.slice(-8).join(', ') : 'the start itself');

function exploreFindings({ map }: TrialInputs, found: Exploration, wins: boolean): Finding[] {
  const findings: Finding[] = [];
  const add = (finding: Omit<Finding, 'stage'>) => findings.push({ ...finding, stage: 'trial' });
  const far = found.complete ? 'everything was tried' : `within ${found.simulated} s of the game`;
  if (wins && !found.won)
    add({
      code: 'explore-not-won',
      severity: 'warning',
      message: `The explorer did not reach the goal (${far}).`,
      hint: found.complete ? 'Look at what it never reached.' : 'Give it more time, or look at what it never reached.',
      place: { map: map.name },
    });
  for (const { order, at } of found.deadEnds)
    add({
      code: 'explore-dead-end',
      severity: 'warning',
      message: `From here the goal cannot be reached any more: after ${told(order)}.`,
      hint: 'Give a way back, or bring back what is needed.',
      place: { map: map.name, point: at },
    });
  for (const { order, at } of found.fell)
    add({
      code: 'explore-lost',
      severity: 'warning',
      message: `The explorer was lost: after ${told(order)}.`,
      hint: 'Close the gap, or place something that the player comes back to.',
      place: { map: map.name, point: at },
    });
  for (const id of found.unreached) {
    const object = map.objects[id];
    add({
      code: 'explore-unreached',
      severity: found.complete ? 'warning' : 'note',
      message: `The explorer never got to ${object.name} (${far}).`,
      hint: 'Try its way yourself: a door that nothing opens, a jump that is too wide, or something that stands in front of it.',
      place: { map: map.name, object: id, point: object.position },
    });
  }
  return findings;
}
