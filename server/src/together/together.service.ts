import { randomUUID } from 'node:crypto';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import type { Finding } from '@violet-crate/core/finding';
import type { RuntimeMap } from '@violet-crate/core/stages/pack/runtime';
import { decodeCollision } from '@violet-crate/core/stages/pack/collisionBin';
import type { ShownObject, TrialNews, TrialState } from '@violet-crate/core/trial/apart';
import { STILL, type Intent } from '@violet-crate/core/trial/move';
import type { TrialWatchdog } from '@violet-crate/core/trial/watchdog';
import { openTrial } from '@violet-crate/host/trialApart';
import { BuildsService } from '../builds/builds.service.ts';
import { CratesService } from '../crates/crates.service.ts';
import { notFound, Problem } from '../http/problem.ts';
import type { Wish } from './wish.ts';

/** Somebody at a window. */
export interface Guest {
  /** Words for the window: `welcome`, `state`, `over`. */
  tell(news: TogetherNews): void;
}

export type TogetherNews =
  | { type: 'welcome'; player: number; build: string; map: string }
  | { type: 'state'; state: TrialState }
  /** It is over, with why where that was no wish of anybody. */
  | { type: 'over'; finding: Finding | null };

interface Seat {
  player: number;
  intent: Intent;
  /** A jump that was asked for since the last step. */
  jump: boolean;
}

interface SharedRun {
  id: string;
  crateId: string;
  map: string;
  build: string;
  trial: TrialWatchdog;
  /** Players of the game. */
  most: number;
  seats: Map<Guest, Seat>;
  /** Whose coming in is being worked on, in order; who has gone meanwhile is let out again once the run has let him in. */
  coming: { guest: Guest; name: string; gone: boolean }[];
  /** All that is shown, for whoever comes in later. */
  objects: Map<string, ShownObject>;
  last: TrialState | null;
  clock: NodeJS.Timeout;
  emptySince: number;
}

/** Milliseconds between two words to the run, and the steps of a sixtieth that lie in one. */
const TICK = 1000 / 30;
const STEPS = 2;
/** Milliseconds for which a run waits for somebody to come back, and runs at a time. */
const EMPTY = 20_000;
const MOST_RUNS = 4;
/** Players of one run, where the game's profile does not say. */
const MOST_PLAYERS = 8;

/** Test runs that live on the server, so that several windows can play in one. */
@Injectable()
export class TogetherService implements OnApplicationShutdown {
  private readonly runs = new Map<string, SharedRun>();

  constructor(
    private readonly crates: CratesService,
    private readonly builds: BuildsService,
  ) {
    crates.beforeRemoval.push((crateId) => {
      for (const run of this.runs.values()) if (run.crateId === crateId) this.end(run, null);
      return Promise.resolve();
    });
  }

  onApplicationShutdown(): void {
    for (const run of this.runs.values()) this.end(run, null);
  }

  list(crateId: string): { run: string; build: string; map: string; players: number }[] {
    return [...this.runs.values()]
      .filter((run) => run.crateId === crateId)
      .map(({ id, build, map, seats }) => ({ run: id, build, map, players: seats.size }));
  }

  /** Begins a run of a built map; whoever joins first walks first. */
  start(crateId: string, map: string): { run: string; build: string } {
    const world = this.crates.world(crateId);
    if (!Object.hasOwn(world.crate.maps, map)) throw new Problem(422, 'map-unknown', `The crate has no map "${map}".`);
    const build = this.builds.latestGood(crateId, map);
    if (!build) throw new Problem(409, 'build-missing', `Map ${map} is not built yet. Build it first.`);
    if (this.runs.size >= MOST_RUNS) throw new Problem(409, 'runs-full', `At most ${MOST_RUNS} runs are played together at a time. Leave one first.`);
    const file = (name: string) => this.builds.artefact(build.id, `maps/${map}/${name}`);
    const inputs = {
      profile: world.profile,
      map: JSON.parse(new TextDecoder().decode(file('map.json'))) as RuntimeMap,
      collision: decodeCollision(file('collision.bin')),
      scripts: world.crate.scripts,
      data: world.crate.data,
    };
    const id = randomUUID();
    const trial = openTrial({ heard: (news) => this.heard(id, news), stopped: (finding) => this.stopped(id, finding) });
    const run: SharedRun = {
      id,
      crateId,
      map,
      build: build.id,
      trial,
      most: world.profile.maxPlayers ?? MOST_PLAYERS,
      seats: new Map(),
      coming: [],
      objects: new Map(),
      last: null,
      clock: setInterval(() => this.tick(run), TICK),
      emptySince: Date.now(),
    };
    this.runs.set(id, run);
    trial.say({ type: 'begin', inputs });
    return { run: id, build: build.id };
  }

  /** Somebody comes into a run. @throws Problem where there is none such, or no room */
  join(runId: string, guest: Guest): void {
    const run = this.runs.get(runId);
    if (!run) throw notFound('such run; it may be over');
    if (run.seats.size + run.coming.length >= run.most) throw new Problem(409, 'run-full', `At most ${run.most} play together in this game.`);
    const taken = new Set([...run.seats.values()].map(({ player }) => player));
    // The first place belongs to the run itself and is there from the start.
    if (!taken.has(0)) return this.seat(run, guest, 0);
    run.coming.push({ guest, name: `Guest ${run.seats.size + run.coming.length + 1}`, gone: false });
    run.trial.say({ type: 'join', name: run.coming.at(-1)!.name });
  }

  leave(runId: string, guest: Guest): void {
    const run = this.runs.get(runId);
    const seat = run?.seats.get(guest);
    if (!run) return;
    for (const one of run.coming) if (one.guest === guest) one.gone = true;
    if (seat) {
      run.seats.delete(guest);
      if (seat.player > 0) run.trial.say({ type: 'leave', player: seat.player });
    }
    if (run.seats.size === 0) run.emptySince = Date.now();
  }

  /** What a window asks for. */
  wish(runId: string, guest: Guest, wish: Wish): void {
    const run = this.runs.get(runId);
    const seat = run?.seats.get(guest);
    if (!run || !seat) return;
    if (wish.type === 'want') {
      seat.jump ||= wish.intent.jump;
      seat.intent = wish.intent;
    } else run.trial.say({ ...wish, player: seat.player });
  }

  private seat(run: SharedRun, guest: Guest, player: number): void {
    run.seats.set(guest, { player, intent: STILL, jump: false });
    guest.tell({ type: 'welcome', player, build: run.build, map: run.map });
    if (run.last)
      guest.tell({ type: 'state', state: { ...run.last, objects: [...run.objects.values()], changed: [], lines: [], sounds: [], deliveries: [] } });
  }

  private tick(run: SharedRun): void {
    if (run.seats.size === 0 && Date.now() - run.emptySince > EMPTY) return this.end(run, null);
    // Nobody is there to see it, or the last steps are not done yet.
    if (run.seats.size === 0 || run.trial.waiting) return;
    let first: Intent = STILL;
    const guests: Record<number, Intent> = {};
    for (const seat of run.seats.values()) {
      const intent = { ...seat.intent, jump: seat.intent.jump || seat.jump };
      seat.jump = false;
      if (seat.player === 0) first = intent;
      else guests[seat.player] = intent;
    }
    run.trial.say({ type: 'advance', intents: Array<Intent>(STEPS).fill(first), look: first.look ?? [1, 0, 0], guests });
  }

  private heard(id: string, news: TrialNews): void {
    const run = this.runs.get(id);
    if (!run || news.type !== 'state') return;
    const { state } = news;
    for (const item of state.objects) run.objects.set(item.id, item);
    for (const gone of state.removed) run.objects.delete(gone);
    for (const { id: changed, ...change } of state.changed) Object.assign(run.objects.get(changed)!, change);
    run.last = state;
    // Players come in the order in which they were let in.
    const known = new Set([...run.seats.values()].map(({ player }) => player));
    for (const { index } of state.players) {
      const next = index > 0 && !known.has(index) ? run.coming.shift() : undefined;
      if (next?.gone) run.trial.say({ type: 'leave', player: index });
      else if (next) this.seat(run, next.guest, index);
    }
    for (const guest of run.seats.keys()) guest.tell({ type: 'state', state });
  }

  private stopped(id: string, finding: Finding): void {
    const run = this.runs.get(id);
    if (run) this.end(run, finding);
  }

  private end(run: SharedRun, finding: Finding | null): void {
    clearInterval(run.clock);
    this.runs.delete(run.id);
    run.trial.end();
    for (const guest of [...run.seats.keys(), ...run.coming.filter(({ gone }) => !gone).map(({ guest: one }) => one)])
      guest.tell({ type: 'over', finding });
  }
}
