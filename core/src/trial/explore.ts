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
import { boxCentre } from '../math/box3.ts';
import { chance } from '../math/chance.ts';
import { distance, type Vec3 } from '../math/vec3.ts';
import { factOf, partsOf } from '../profile/parts.ts';
import { Coverage, coverageCell, type CoverageData } from './coverage.ts';
import { actionsOf, type Action } from './exploreActions.ts';
import { Attempts, partsOfState, type Outcome } from './exploreAttempt.ts';
import { exploreFindings } from './exploreFindings.ts';
import { isGone } from './objects.ts';
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
  private readonly attempts = new Attempts();
  private readonly actions: readonly Action[];
  /** Per action: how often it was tried, and how often that changed anything. */
  private readonly known = new Map<string, { tried: number; changed: number; reached: boolean }>();
  private readonly inContext = new Set<string>();
  private readonly coverage: Coverage;
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
    this.actions = actionsOf(inputs.profile, inputs.map);
    this.random = chance(options.seed ?? 1);
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
      if (state.tried.size >= this.actions.length) continue;
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
    if (inputs.length === 0) this.attempts.settle(run);
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
      const outcome = this.attempts.attempt(run, action, ground);
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

  private stateOf(run: Run, ground: Ground): State {
    const { world, recorder, start, order } = run;
    const parts = [...partsOfState(world, this.attempts.restless)].map(([id, text]) => `${id}=${text}`).join('\n');
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

  private open(state: State): Action[] {
    return this.actions.filter(({ key }) => !state.tried.has(key));
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
    const all = this.actions.length;
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
        this.actions
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
      stuck: [...this.attempts.stuck.values()].slice(0, 50),
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
