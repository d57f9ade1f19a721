/** A conversation in a running world: what is said, what is asked, and what it makes happen. What is remembered outlives it. */

import { own } from '../own.ts';
import { chance } from '../math/chance.ts';
import type { Profile } from '../profile/schema.ts';
import { contend, sidesOf } from '../table/contend.ts';
import { FormulaProblem } from '../table/formula.ts';
import { Tables } from '../table/tables.ts';
import { titleOf } from '../table/document.ts';
import { readTalk, talkPath, type StepOf } from '../talk/document.ts';
import { EMPTY_MIND, finalContests, TalkMachine, type Mind, type TalkState } from '../talk/run.ts';
import { UnreadableInput } from '../unreadable.ts';

/** What a player sees of a conversation, and can answer. */
export interface ShownTalk {
  /** Name of the conversation, and number of the step in it. */
  talk: string;
  step: number;
  /** Who says it; empty for the player, and where something is asked. */
  who: string;
  text: string;
  sound: string;
  answers: string[];
}

/** What conversations need of the world. */
export interface TalkWorld {
  readonly profile: Profile;
  readonly time: number;
  readonly data: Readonly<Record<string, string>>;
  print(kind: 'say' | 'system' | 'error', text: string): void;
  play(sound: string): void;
  call(name: string): void;
  turn(who: string, to: string): void;
  /** Begins a movement sequence by its name; false where there is none. */
  move(sequence: string): boolean;
  /** Whether a movement sequence is under way. */
  moving(): boolean;
  /** A step was come by, for coverage. */
  came(talk: string, step: number): void;
  /** A conversation is over. */
  over(talk: string, who: string): void;
}

/** Steps that need no time and are done at once, before it counts as a circle. */
const AT_ONCE = 1000;

export class Talking {
  mind: Mind = EMPTY_MIND;
  private held: { name: string; with: string; machine: TalkMachine; state: TalkState; until: number | null; waits: 'time' | 'move' | null } | null =
    null;
  private shown: ShownTalk | null = null;
  private contests = 0;
  private readonly tables: Tables;

  constructor(private readonly world: TalkWorld) {
    this.tables = new Tables(world.profile.tables ?? [], world.data);
  }

  get now(): ShownTalk | null {
    return this.shown;
  }

  /** Whether somebody talks: the player stands meanwhile. */
  get under(): boolean {
    return this.held !== null;
  }

  begin(name: string, withWhom: string): void {
    const { world } = this;
    if (this.held) return world.print('error', `${withWhom} cannot talk now: ${this.held.with} does.`);
    const text = own(world.data, talkPath(name));
    if (text === undefined) return world.print('error', `${withWhom}: there is no conversation "${name}".`);
    try {
      const machine = new TalkMachine(readTalk(text, talkPath(name)), finalContests(world.profile.contests));
      this.held = { name, with: withWhom, machine, state: machine.begin(this.mind), until: null, waits: null };
      this.advance();
    } catch (error) {
      if (!(error instanceof UnreadableInput)) throw error;
      world.print('error', error.message);
    }
  }

  /** Answers by number; what was only said goes on with any. */
  answer(n: number): void {
    const { held, shown } = this;
    if (!held || !shown || n < 0 || n >= shown.answers.length) return;
    const question = held.machine.question(held.state);
    if (!question) held.state = held.machine.next(held.state);
    else if (question.ask === 'option') {
      this.world.print('say', `> ${question.options[n].text}`);
      held.state = held.machine.next(held.state, { option: question.options[n].step });
    } else held.state = held.machine.next(held.state, { won: this.contest(question.step, n) });
    this.shown = null;
    this.advance();
  }

  /** Once a step of the world: what waits may be over. */
  step(): void {
    const { held } = this;
    if (!held?.waits) return;
    if (held.waits === 'time' ? this.world.time < held.until! : this.world.moving()) return;
    held.waits = null;
    held.state = held.machine.next(held.state);
    this.advance();
  }

  /** What is remembered under a name: whether a flag is on, or a value. */
  recall(name: string): boolean | number {
    return this.isValue(name) ? (own(this.mind.values, name) ?? 0) : this.mind.flags.has(name);
  }

  remember(name: string, value: boolean | number): void {
    const { flags, values } = this.mind;
    if (typeof value === 'number') this.mind = { ...this.mind, values: { ...values, [name]: value } };
    else this.mind = { ...this.mind, flags: new Set(value ? [...flags, name] : [...flags].filter((flag) => flag !== name)) };
    if (this.held) this.held.state = { ...this.held.state, mind: this.mind };
  }

  private isValue(name: string): boolean {
    return Object.hasOwn(this.mind.values, name) || this.world.profile.memory?.game.some((one) => one.name === name && one.kind === 'value') === true;
  }

  /** Goes on until something is shown or waited for. */
  private advance(): void {
    const { held, world } = this;
    if (!held) return;
    for (let n = 0; ; n++) {
      this.mind = held.state.mind;
      const step = held.machine.step(held.state);
      if (!step || n === AT_ONCE) {
        if (step) world.print('error', `The conversation ${held.name} runs in a circle at step ${held.state.at! + 1}.`);
        this.held = null;
        this.shown = null;
        return world.over(held.name, held.with);
      }
      const at = held.state.at!;
      world.came(held.name, at);
      const question = held.machine.question(held.state);
      if (question?.ask === 'option')
        return this.show(
          held.name,
          at,
          '',
          '',
          question.options.map(({ text }) => text),
        );
      if (question?.ask === 'contest') {
        const type = world.profile.contests?.find(({ id }) => id === question.step.contest);
        const [before] = type?.texts ?? [];
        const decides = ['Let it be won', 'Let it be lost'];
        const text = before ? (own(question.step.texts, before.id) ?? '') : '';
        return this.show(held.name, at, this.nameOf(question.step.against), text, type?.model ? ['Contend', ...decides] : decides);
      }
      switch (step.do) {
        case 'say':
          world.print('say', `${this.nameOf(step.who)}: ${step.text}`);
          if (step.voice) world.play(step.voice);
          return this.show(held.name, at, this.nameOf(step.who), step.text, ['Go on'], step.voice);
        case 'wait':
          held.waits = 'time';
          held.until = world.time + step.seconds;
          return;
        case 'move':
          if (!world.move(step.sequence)) world.print('error', `There is no movement sequence "${step.sequence}".`);
          else if (step.wait) {
            held.waits = 'move';
            return;
          }
          break;
        case 'sound':
          world.play(step.sound);
          break;
        case 'turn':
          world.turn(step.who, step.to);
          break;
        case 'call':
          // What a function remembers is remembered in the talk as well.
          world.call(step.function);
          held.state = { ...held.state, mind: this.mind };
          break;
        case 'give':
        case 'take':
          world.print('system', `${step.do === 'give' ? 'You are given' : 'You give away'} ${step.count === 1 ? '' : `${step.count} `}${step.what}.`);
          break;
      }
      held.state = held.machine.next(held.state);
    }
  }

  private show(talk: string, step: number, who: string, text: string, answers: string[], sound = ''): void {
    this.shown = { talk, step, who, text, sound, answers };
  }

  /** Whether the player wins: as the model has it, or as whoever tests wants it. */
  private contest({ contest, against, texts }: StepOf<'contest'>, n: number): boolean {
    const { world, tables } = this;
    const type = world.profile.contests?.find(({ id }) => id === contest);
    const model = world.profile.contestModels?.find(({ id }) => id === type?.model);
    const wanted = type?.model ? n - 1 : n;
    let won = wanted === 0;
    const of = model && tables.get(model.table);
    const [mine, theirs] = [model?.challenger, against].map((key) => (model && key ? tables.row(model.table, key) : undefined));
    if (wanted < 0 && model && of && mine && theirs)
      try {
        const held = contend(sidesOf(tables, of.table, model, mine, theirs), model.rounds, chance(++this.contests * 7919));
        won = held.won;
        world.print(
          'system',
          `${type!.label} with ${this.nameOf(against)}: ${won ? 'won' : 'lost'} after ${held.rounds} ${held.rounds === 1 ? 'round' : 'rounds'}.`,
        );
      } catch (error) {
        if (!(error instanceof FormulaProblem)) throw error;
        world.print('error', `The contest cannot be held: ${error.message}.`);
      }
    else if (wanted < 0) world.print('error', `There is no row "${against}" to contend with.`);
    else world.print('system', `${type?.label ?? contest} with ${this.nameOf(against)}: ${won ? 'won' : 'lost'}.`);
    const after = type?.texts.find(({ id }) => id === (won ? 'won' : 'lost'));
    if (after) world.print('say', `${this.nameOf(against)}: ${own(texts, after.id) ?? ''}`);
    return won;
  }

  /** The name of a row of any table, where somebody is one. */
  private nameOf(who: string): string {
    for (const { table } of this.tables) {
      const row = who === '' ? undefined : this.tables.row(table.id, who);
      if (row) return titleOf(table, row);
    }
    return who;
  }
}
