/** Recording a run while it is played, and playing a walk back. */

import type { Vec3 } from '../math/vec3.ts';
import type { LiveEdit } from './liveMap.ts';
import type { Intent } from './move.ts';
import type { TrialWatcher } from './scripts.ts';
import { stateHash } from './stateHash.ts';
import {
  actText,
  compareWalks,
  HASH_EVERY,
  INPUT_LIMIT,
  intentText,
  readInputs,
  roundIntent,
  roundLook,
  TRACK_EVERY,
  USED,
  WALK_LIMIT,
  type Walk,
  type WalkAct,
  type WalkDifference,
  type WalkInput,
} from './walk.ts';
import { TrialWorld, type TrialInputs } from './world.ts';

/** Marks that are kept; a run of signals in every step says no more after so many. */
const MARKS = 20_000;

/** A world whose inputs go through here, so that they are kept together with what comes of them. */
export class Recorder {
  private readonly inputs: { text: string; steps: number }[] = [];
  private readonly marks: Walk['marks'] = [];
  private readonly track: Vec3[] = [];
  private readonly hashes: string[] = [];
  private steps = 0;
  private heard = 0;
  /** Scripts were changed or the map was edited meanwhile: played back from the start, it is another run. */
  touched = false;

  constructor(private readonly world: TrialWorld) {}

  step(given: Intent): void {
    const { world } = this;
    if (world.ended) return;
    const intent = roundIntent({ ...given, look: given.look ?? world.look });
    world.step(intent);
    if (this.full) return;
    this.steps++;
    const text = intentText(intent);
    const last = this.inputs.at(-1);
    if (last?.text === text && last.steps > 0) last.steps++;
    else this.inputs.push({ text, steps: 1 });
    this.listen();
    if (this.steps % TRACK_EVERY === 0) this.track.push(world.walker.feet.map((v) => Math.round(v * 100) / 100) as Vec3);
    if (this.steps % HASH_EVERY === 0) this.hashes.push(stateHash(world));
  }

  act(given: WalkAct): void {
    const { world } = this;
    if (world.ended) return;
    const act = 'look' in given ? { ...given, look: roundLook(given.look) } : given;
    if (!this.full) this.inputs.push({ text: actText(act), steps: 0 });
    if (act.act === 'operate') {
      const offer = world.offer(act.look);
      if (offer) this.mark(offer.does === 'operate' || offer.does === 'talk to' ? `${USED}${offer.name}` : `${offer.does} ${offer.name}`);
      world.operate(act.look);
    } else if (act.act === 'fling') world.fling(act.look);
    else if (act.act === 'answer') world.answer(act.choice);
    else if (act.act === 'lua') world.scripts.evaluate(act.text);
    else world.glide();
    if (!this.full) this.listen();
  }

  /** So long that no more is kept: the walk is the run up to here. */
  private get full(): boolean {
    return this.steps >= WALK_LIMIT || this.inputs.length >= INPUT_LIMIT;
  }

  walk(map: string): Walk {
    return {
      format: 1,
      map,
      inputs: this.inputs.map(({ text, steps }) => (steps > 0 ? `${steps} ${text}` : text)),
      marks: this.marks,
      track: this.track,
      hashes: this.hashes,
      ended: this.world.ended,
    };
  }

  /** Signals and words are what happens in a run. */
  private listen(): void {
    const lines = this.world.console.since(this.heard);
    this.heard = this.world.console.printed;
    for (const line of lines) if (line.kind !== 'error' && line.kind !== 'log') this.mark(line.text);
  }

  private mark(text: string): void {
    if (this.marks.length < MARKS) this.marks.push([Math.round(this.world.time * 1000) / 1000, text.slice(0, 1000)]);
  }
}

/** Plays a walk into a world, input by input. */
export class Playback {
  private readonly inputs: WalkInput[];
  private index = 0;
  private done = 0;

  /** @throws UnreadableInput where a line says nothing */
  constructor(walk: Pick<Walk, 'inputs'>) {
    this.inputs = readInputs(walk.inputs);
  }

  get over(): boolean {
    return this.index >= this.inputs.length;
  }

  /** The next step of the walk, with what is done before it. Answers its intent, or null once it is over. */
  step(recorder: Recorder): Intent | null {
    for (;;) {
      const input = this.inputs[this.index];
      if (!input) return null;
      if ('act' in input) {
        this.index++;
        recorder.act(input);
        continue;
      }
      if (this.done < input.steps) {
        this.done++;
        recorder.step(input.intent);
        return input.intent;
      }
      this.index++;
      this.done = 0;
    }
  }
}

export interface WalkReport {
  name: string;
  ok: boolean;
  /** Whether the world was the same to the bit, second by second. */
  exact: boolean;
  seconds: number;
  ended: Walk['ended'];
  /** What went another way. */
  difference: WalkDifference | null;
}

export interface PlayOptions {
  /** What has changed in the map since it was built. */
  edit?: LiveEdit;
  watcher?: TrialWatcher;
  /** Called after every step. */
  beat?(): void;
}

/**
 * Plays a walk back without a screen, and says whether it still works.
 *
 * @throws UnreadableInput where an input says nothing
 */
export async function playWalk(inputs: TrialInputs, name: string, walk: Walk, { edit, watcher, beat }: PlayOptions = {}): Promise<WalkReport> {
  const playback = new Playback(walk);
  const world = await TrialWorld.begin({ ...inputs, start: walk.start }, watcher);
  try {
    if (edit) world.edit(edit);
    const recorder = new Recorder(world);
    while (!world.ended && playback.step(recorder)) beat?.();
    const now = recorder.walk(walk.map);
    const difference = compareWalks(walk, now, inputs.profile.player.radius * 2);
    return {
      name,
      ok: difference === null,
      exact: walk.hashes.length === now.hashes.length && walk.hashes.every((hash, i) => hash === now.hashes[i]),
      seconds: Math.round(world.time * 100) / 100,
      ended: world.ended,
      difference,
    };
  } finally {
    world.stop();
  }
}
