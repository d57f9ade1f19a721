/** Conversations as docs/talk.md describes them: read from a mod, held line by line, answered by number. */

import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Refusal } from './readers.ts';

interface Step {
  depth: number;
  do: string;
  who?: string;
  text?: string;
  flag?: string;
  value?: string;
  to?: number | string;
  by?: number;
  name?: string;
  function?: string;
  contest?: string;
  against?: string;
  texts?: Record<string, string>;
  test?: { flag?: string; on?: boolean; value?: string; is?: string; than?: number; has?: string };
  what?: string;
  count?: number;
}

export interface TalkGame {
  memory: Map<string, number | boolean>;
  print(line: string): void;
  call(name: string): void;
  /** Texts that a contest of this kind has to have. */
  textsOf(contest: string): string[];
}

export class Talk {
  private readonly steps: Step[];
  private at: number | null = 0;
  private open: { step: number; text: string }[] | 'contest' | null = null;

  constructor(
    folder: string,
    readonly name: string,
    private readonly game: TalkGame,
  ) {
    const file = join(folder, 'talk', `${name}.json`);
    if (!existsSync(file)) throw new Refusal(`talk/${name}.json: is missing`);
    ({ steps: this.steps } = JSON.parse(readFileSync(file, 'utf8')) as { steps: Step[] });
    // A game that expects four texts reads four: it would go on in whatever comes after.
    for (const step of this.steps)
      if (step.do === 'contest') {
        const lacks = game.textsOf(step.contest!).find((id) => !step.texts?.[id]);
        if (lacks) throw new Refusal(`talk/${name}.json: the contest with ${step.against} has no text "${lacks}", the game would hang`);
      }
    this.goOn();
  }

  get over(): boolean {
    return this.at === null;
  }

  answer(n: number): void {
    if (!this.open || this.at === null) return this.game.print('warning: nothing is asked');
    const { open, at } = this;
    if (open === 'contest') {
      const step = this.steps[at];
      const won = n === 1;
      this.game.print(`contest: ${won ? 'won' : 'lost'}`);
      this.game.print(`says: ${step.texts?.[won ? 'won' : 'lost'] ?? ''}`);
      if (won && step.flag) this.game.memory.set(step.flag, true);
      this.at = this.block(at, won ? 'won' : 'lost');
    } else if (open[n - 1]) this.at = this.into(open[n - 1].step);
    else return this.game.print(`warning: there are ${open.length} answers`);
    this.open = null;
    this.goOn();
  }

  private holds({ flag, on, value, is, than }: NonNullable<Step['test']>): boolean {
    const { memory } = this.game;
    if (flag !== undefined) return (memory.get(flag) === true) === on;
    const now = Number(memory.get(value ?? '') ?? 0);
    return is === '<' ? now < than! : is === '>' ? now > than! : is === '=' && now === than;
  }

  private goOn(): void {
    for (let n = 0; this.at !== null && n < 1000; n++) {
      const { at, game } = this;
      const step = this.steps[at];
      const { memory } = game;
      if (step.do === 'say') game.print(`says: ${step.who || 'you'}: ${step.text}`);
      else if (step.do === 'choose') {
        this.open = this.children(at).flatMap((i) =>
          this.steps[i].test && !this.holds(this.steps[i].test!) ? [] : [{ step: i, text: this.steps[i].text! }],
        );
        if (this.open.length > 0) return this.open.forEach(({ text }, i) => game.print(`answer ${i + 1}: ${text}`));
        this.open = null;
      } else if (step.do === 'contest') {
        if (step.flag && memory.get(step.flag) === true) {
          this.at = this.block(at, 'again');
          continue;
        }
        this.open = 'contest';
        game.print(`says: ${step.texts?.before ?? ''}`);
        return game.print(`contest: with ${step.against}; answer 1 wins, answer 2 loses`);
      } else if (step.do === 'if') {
        const other = this.end(at);
        const otherwise = this.steps[other]?.do === 'else' && this.steps[other].depth === step.depth ? other : null;
        this.at = this.holds(step.test!) ? this.into(at) : otherwise !== null ? this.into(otherwise) : this.after(at);
        continue;
      } else if (step.do === 'set' || step.do === 'clear') memory.set(step.flag!, step.do === 'set');
      else if (step.do === 'put') memory.set(step.value!, Number(step.to));
      else if (step.do === 'add') memory.set(step.value!, Number(memory.get(step.value!) ?? 0) + step.by!);
      else if (step.do === 'call') game.call(step.function!);
      else if (step.do === 'end') this.at = null;
      else if (step.do === 'go') {
        const to = this.steps.findIndex((one) => one.do === 'label' && one.name === step.to);
        this.at = to < 0 ? null : to;
        continue;
      } else if (step.do !== 'label') game.print(`talk: ${step.do} ${step.what ?? step.who ?? ''}`.trim());
      if (this.at !== null) this.at = this.after(at);
    }
    this.game.print('talk: over');
  }

  private end(n: number): number {
    let i = n + 1;
    while (i < this.steps.length && this.steps[i].depth > this.steps[n].depth) i++;
    return i;
  }

  private children(n: number): number[] {
    const found: number[] = [];
    for (let i = n + 1; i < this.end(n); i = this.end(i)) found.push(i);
    return found;
  }

  private block(n: number, kind: string): number | null {
    const found = this.children(n).find((i) => this.steps[i].do === kind);
    return found === undefined ? this.after(n) : this.into(found);
  }

  private into(n: number): number | null {
    return this.end(n) > n + 1 ? n + 1 : this.after(n);
  }

  /** The next step that is not another branch of where this one stands. */
  private after(n: number): number | null {
    for (let i = n; ;) {
      let next = this.end(i);
      const { depth } = this.steps[i];
      if (this.steps[next]?.do === 'else' && this.steps[next].depth === depth) next = this.end(next);
      const step = this.steps[next];
      if (step?.depth === depth && !['option', 'won', 'lost', 'again'].includes(step.do)) return next;
      let above = i - 1;
      while (above >= 0 && this.steps[above].depth >= depth) above--;
      if (above < 0) return next < this.steps.length ? next : null;
      i = above;
    }
  }
}
