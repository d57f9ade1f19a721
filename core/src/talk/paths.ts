/** All ways through a conversation: which steps are never come to, and from where it cannot end. */

import type { Talk, Test } from './document.ts';
import { TalkMachine, type Answer, type Mind, type TalkState } from './run.ts';

/** States that are looked at; a conversation that has more is judged by those. */
const MOST_STATES = 20_000;
/** Flags whose every combination is begun with. */
const MOST_FREE = 8;

export interface TalkPaths {
  /** Steps that some way comes to. */
  reached: Set<number>;
  /** Steps from which no way leads to the end, each with the flags that are on there. */
  stuck: { step: number; flags: string[] }[];
  /** How flags that it sets or clears can be when it ends; those that can be both depend on the way. */
  after: Map<string, { on: boolean; off: boolean }>;
  /** Whether all states were looked at. */
  whole: boolean;
  states: number;
}

/** @param settable flags that something sets: others are never on @param final see `TalkMachine` */
export function pathsThrough(talk: Talk, settable: ReadonlySet<string>, final: ReadonlySet<string> = new Set()): TalkPaths {
  const machine = new TalkMachine(talk, final);
  const tests = talk.steps.flatMap((step): Test[] => ((step.do === 'if' || step.do === 'option') && step.test ? [step.test] : []));
  const asked = new Set([
    ...tests.flatMap((test) => ('flag' in test ? [test.flag] : [])),
    ...talk.steps.flatMap((step) => (step.do === 'contest' && step.flag !== undefined ? [step.flag] : [])),
  ]);
  const written = new Set(
    talk.steps.flatMap((step) =>
      step.do === 'set' || step.do === 'clear' ? [step.flag] : step.do === 'contest' && step.flag !== undefined ? [step.flag] : [],
    ),
  );
  const free = [...asked].filter((flag) => settable.has(flag)).slice(0, MOST_FREE);
  const interesting = [...new Set(tests.flatMap((test) => ('value' in test ? [test] : [])))];
  const has = [...new Set(tests.flatMap((test) => ('has' in test ? [test.has] : [])))];
  // Values and things are known by what the tests ask of them.
  const keyOf = ({ at, mind }: TalkState) =>
    `${at}|${[...mind.flags]
      .filter((flag) => asked.has(flag) || written.has(flag))
      .sort()
      .join(',')}|${interesting
      .map(({ value, than }) => Math.sign((mind.values[value] ?? 0) - than))
      .join()}|${has.map((what) => Number((mind.items[what] ?? 0) > 0)).join('')}`;

  const states: TalkState[] = [];
  const known = new Map<string, number>();
  const before: number[][] = [];
  const enter = (state: TalkState, from: number | null): void => {
    const key = keyOf(state);
    let n = known.get(key);
    if (n === undefined) {
      if (states.length >= MOST_STATES) return void (whole = false);
      n = states.length;
      known.set(key, n);
      states.push(state);
      before.push([]);
    }
    if (from !== null) before[n].push(from);
  };
  let whole = asked.size <= MOST_FREE;
  for (let bits = 0; bits < 1 << free.length; bits++) {
    const flags = new Set(free.filter((_, i) => bits & (1 << i)));
    for (const owned of has.length > 0 ? [0, 1] : [0])
      for (const values of startValues(interesting))
        enter(machine.begin({ flags, values, items: owned ? Object.fromEntries(has.map((what) => [what, 1])) : {} }), null);
  }
  const reached = new Set<number>();
  for (let n = 0; n < states.length; n++) {
    const state = states[n];
    if (state.at === null) continue;
    reached.add(state.at);
    const question = machine.question(state);
    const answers: (Answer | undefined)[] = !question
      ? [undefined]
      : question.ask === 'option'
        ? question.options.map(({ step }) => ({ option: step }))
        : [{ won: true }, { won: false }];
    for (const answer of answers) {
      if (answer && 'option' in answer) reached.add(answer.option);
      enter(machine.next(state, answer), n);
    }
  }
  const ends = new Set(states.flatMap(({ at }, n) => (at === null ? [n] : [])));
  for (const n of ends) for (const from of before[n]) ends.add(from);
  const stuck = new Map<number, string[]>();
  if (whole)
    states.forEach(({ at, mind }, n) => {
      if (!ends.has(n) && at !== null && !stuck.has(at)) stuck.set(at, [...mind.flags].sort());
    });
  // Blocks that belong to a step are come to with what stands in them.
  talk.steps.forEach((step, n) => {
    if (['else', 'won', 'lost', 'again'].includes(step.do) && (reached.has(n + 1) || talk.steps[n + 1]?.depth !== step.depth + 1)) reached.add(n);
  });
  const after = new Map([...written].map((flag) => [flag, { on: false, off: false }]));
  for (const { at, mind } of states) if (at === null) for (const [flag, can] of after) can[mind.flags.has(flag) ? 'on' : 'off'] = true;
  return { after, reached, stuck: [...stuck].map(([step, flags]) => ({ step, flags })), whole, states: states.length };
}

/** Values with which it is begun: such as make each test hold and not. */
function startValues(tests: readonly { value: string; than: number }[]): Mind['values'][] {
  const found: Mind['values'][] = [{}];
  for (const { value, than } of tests.slice(0, 4)) for (const to of [than - 1, than, than + 1]) found.push({ [value]: to });
  return found;
}
