/**
 * A conversation as it is held: a pure machine, so that the editor, the test run and the checks go through it in the same
 * way. Whoever holds it answers what it asks (which option, who won) and does what it tells (say, give, move).
 */

import { endOfBlock, type StepOf, type Talk, type TalkStep, type Test } from './document.ts';

/** What is remembered and owned. Values that nobody has put are 0. */
export interface Mind {
  readonly flags: ReadonlySet<string>;
  readonly values: Readonly<Record<string, number>>;
  readonly items: Readonly<Record<string, number>>;
}

export const EMPTY_MIND: Mind = { flags: new Set(), values: {}, items: {} };

/** Where a conversation stands. */
export interface TalkState {
  /** Step that comes next; null when it is over. */
  at: number | null;
  mind: Mind;
}

/** What a step asks of whoever holds the conversation. */
export type Question = { ask: 'option'; options: { step: number; text: string }[] } | { ask: 'contest'; step: StepOf<'contest'> } | null;

/** An option’s step, or whether the contest was won. */
export type Answer = { option: number } | { won: boolean };

export const holds = (test: Test, { flags, values, items }: Mind): boolean => {
  if ('flag' in test) return flags.has(test.flag) === test.on;
  if ('has' in test) return (Object.hasOwn(items, test.has) ? items[test.has] : 0) > 0;
  const value = Object.hasOwn(values, test.value) ? values[test.value] : 0;
  return test.is === '<' ? value < test.than : test.is === '>' ? value > test.than : value === test.than;
};

export class TalkMachine {
  private readonly steps: readonly TalkStep[];
  private readonly labels: ReadonlyMap<string, number>;

  /** @param final ids of contests after which nothing more is said, once they are won */
  constructor(
    talk: Talk,
    private readonly final: ReadonlySet<string> = new Set(),
  ) {
    this.steps = talk.steps;
    this.labels = new Map(talk.steps.flatMap((step, n) => (step.do === 'label' ? [[step.name, n] as const] : [])));
  }

  begin(mind: Mind): TalkState {
    return { at: this.steps.length > 0 ? 0 : null, mind };
  }

  step(state: TalkState): TalkStep | null {
    return state.at === null ? null : this.steps[state.at];
  }

  /** What has to be answered before it goes on; null where nothing has. */
  question({ at, mind }: TalkState): Question {
    if (at === null) return null;
    const step = this.steps[at];
    if (step.do === 'contest') return step.flag !== undefined && mind.flags.has(step.flag) ? null : { ask: 'contest', step };
    if (step.do !== 'choose') return null;
    const options = this.childrenOf(at).flatMap((n) => {
      const option = this.steps[n] as StepOf<'option'>;
      return option.test === undefined || holds(option.test, mind) ? [{ step: n, text: option.text }] : [];
    });
    return options.length === 0 ? null : { ask: 'option', options };
  }

  /** The state after the step that it stands at. @param answer needed where there is a question */
  next(state: TalkState, answer?: Answer): TalkState {
    const { at, mind } = state;
    if (at === null) return state;
    const step = this.steps[at];
    const on = (changed: Partial<Mind>): TalkState => ({ at: this.follow(at), mind: { ...mind, ...changed } });
    switch (step.do) {
      case 'choose':
        return { at: answer && 'option' in answer ? this.into(answer.option) : this.follow(at), mind };
      case 'if': {
        if (holds(step.test, mind)) return { at: this.into(at), mind };
        const other = this.elseOf(at);
        return { at: other === null ? this.follow(at) : this.into(other), mind };
      }
      case 'contest': {
        const again = step.flag !== undefined && mind.flags.has(step.flag);
        const won = !again && answer !== undefined && 'won' in answer && answer.won;
        const block = this.childrenOf(at).find((n) => this.steps[n].do === (again ? 'again' : won ? 'won' : 'lost'));
        if (won && this.final.has(step.contest))
          return { at: null, mind: { ...mind, flags: step.flag === undefined ? mind.flags : new Set([...mind.flags, step.flag]) } };
        const flags = won && step.flag !== undefined ? new Set([...mind.flags, step.flag]) : mind.flags;
        return { at: block === undefined ? this.follow(at) : this.into(block), mind: { ...mind, flags } };
      }
      case 'set':
        return on({ flags: new Set([...mind.flags, step.flag]) });
      case 'clear':
        return on({ flags: new Set([...mind.flags].filter((flag) => flag !== step.flag)) });
      case 'put':
        return on({ values: { ...mind.values, [step.value]: step.to } });
      case 'add':
        return on({ values: { ...mind.values, [step.value]: (Object.hasOwn(mind.values, step.value) ? mind.values[step.value] : 0) + step.by } });
      case 'give':
      case 'take': {
        const has = Object.hasOwn(mind.items, step.what) ? mind.items[step.what] : 0;
        return on({ items: { ...mind.items, [step.what]: Math.max(0, has + (step.do === 'give' ? step.count : -step.count)) } });
      }
      case 'go':
        // One that leads nowhere ends it; it is a blocker.
        return { at: this.labels.get(step.to) ?? null, mind };
      case 'end':
        return { at: null, mind };
      default:
        return on({});
    }
  }

  private childrenOf(n: number): number[] {
    const found: number[] = [];
    for (let i = n + 1, end = endOfBlock(this.steps, n); i < end; i = endOfBlock(this.steps, i)) found.push(i);
    return found;
  }

  private elseOf(n: number): number | null {
    const i = endOfBlock(this.steps, n);
    return i < this.steps.length && this.steps[i].do === 'else' && this.steps[i].depth === this.steps[n].depth ? i : null;
  }

  /** The first step below another, or what comes after it where there is none. */
  private into(n: number): number | null {
    return endOfBlock(this.steps, n) > n + 1 ? n + 1 : this.follow(n);
  }

  /** What comes after a step and all below it: out of the blocks that end there. */
  private follow(n: number): number | null {
    let i = n;
    for (;;) {
      const { depth } = this.steps[i];
      let after = endOfBlock(this.steps, i);
      // After an `if` that held, its `else` is passed by.
      if (after < this.steps.length && this.steps[after].do === 'else' && this.steps[after].depth === depth) after = endOfBlock(this.steps, after);
      const next = this.steps[after];
      if (next && next.depth === depth && !['option', 'won', 'lost', 'again'].includes(next.do)) return after;
      let above = i - 1;
      while (above >= 0 && this.steps[above].depth >= depth) above--;
      if (above < 0) return after < this.steps.length ? after : null;
      i = above;
    }
  }
}

/** Contests of a game after which nothing more is said, once they are won. */
export const finalContests = (types: readonly { id: string; goesOn: boolean }[] = []): ReadonlySet<string> =>
  new Set(types.flatMap(({ id, goesOn }) => (goesOn ? [] : [id])));

/** What each step does, in a line, as the list and the test run show it. */
export function stepWords(step: TalkStep): string {
  switch (step.do) {
    case 'say':
      return `${step.who || 'player'}: ${step.text}`;
    case 'choose':
      return 'choose';
    case 'option':
      return `option: ${step.text}${step.test ? ` (if ${testWords(step.test)})` : ''}`;
    case 'if':
      return `if ${testWords(step.test)}`;
    case 'wait':
      return `wait ${step.seconds} s`;
    case 'give':
    case 'take':
      return `${step.do} ${step.count === 1 ? '' : `${step.count} `}${step.what}`;
    case 'sound':
      return `sound ${step.sound}`;
    case 'turn':
      return `${step.who} turns to ${step.to || 'the player'}`;
    case 'move':
      return `move ${step.sequence}${step.wait ? ' and wait' : ''}`;
    case 'call':
      return `call ${step.function}()`;
    case 'contest':
      return `contest ${step.contest} against ${step.against}`;
    case 'set':
    case 'clear':
      return `${step.do} ${step.flag}`;
    case 'put':
      return `put ${step.value} to ${step.to}`;
    case 'add':
      return `add ${step.by} to ${step.value}`;
    case 'label':
      return `label ${step.name}`;
    case 'go':
      return `go to ${step.to}`;
    default:
      return step.do;
  }
}

export const testWords = (test: Test): string =>
  'flag' in test ? `${test.flag}${test.on ? '' : ' is not set'}` : 'has' in test ? `has ${test.has}` : `${test.value} ${test.is} ${test.than}`;
