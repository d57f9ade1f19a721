import { expect, test } from '@jest/globals';
import { lineOfStep, misplacedBecause, readMemory, readTalk, writeMemory, writeTalk, type Talk, type TalkStep } from './document.ts';
import { pathsThrough } from './paths.ts';
import { EMPTY_MIND, TalkMachine, type Answer, type Mind } from './run.ts';
import { wrapText } from './wrap.ts';

const say = (depth: number, text: string): TalkStep => ({ depth, do: 'say', who: 'keeper', text });
const KEEPER: Talk = {
  format: 1,
  title: 'The keeper',
  steps: [
    { depth: 0, do: 'if', test: { flag: 'met', on: true } },
    say(1, 'You again.'),
    { depth: 0, do: 'else' },
    say(1, 'Who are you?'),
    { depth: 1, do: 'set', flag: 'met' },
    { depth: 0, do: 'label', name: 'ask' },
    { depth: 0, do: 'choose' },
    { depth: 1, do: 'option', text: 'The crank?' },
    { depth: 2, do: 'contest', contest: 'wits', against: 'keeper', flag: 'outwitted', texts: {} },
    { depth: 3, do: 'won' },
    say(4, 'Well, well.'),
    { depth: 3, do: 'lost' },
    say(4, 'Try again.'),
    { depth: 4, do: 'go', to: 'ask' },
    { depth: 3, do: 'again' },
    say(4, 'It is yours already.'),
    { depth: 1, do: 'option', text: 'Nothing.' },
    { depth: 1, do: 'option', text: 'A boat?', test: { has: 'oar' } },
    { depth: 2, do: 'take', what: 'oar', count: 1 },
    say(0, 'Good night.'),
  ],
};

/** What is said, with answers as they are asked for. */
function held(talk: Talk, answers: Answer[], mind: Mind = EMPTY_MIND): { said: string[]; mind: Mind } {
  const machine = new TalkMachine(talk);
  const said: string[] = [];
  let state = machine.begin(mind);
  for (let n = 0; state.at !== null && n < 100; n++) {
    const step = machine.step(state)!;
    if (step.do === 'say') said.push(step.text);
    state = machine.next(state, machine.question(state) ? answers.shift() : undefined);
  }
  return { said, mind: state.mind };
}

test('a conversation goes through branches, choices and contests, and remembers', () => {
  const first = held(KEEPER, [{ option: 7 }, { won: false }, { option: 7 }, { won: true }]);
  expect(first.said).toEqual(['Who are you?', 'Try again.', 'Well, well.', 'Good night.']);
  expect([...first.mind.flags].sort()).toEqual(['met', 'outwitted']);
  // What was won is not held again, until it is cleared.
  expect(held(KEEPER, [{ option: 7 }], first.mind).said).toEqual(['You again.', 'It is yours already.', 'Good night.']);
  const cleared: Mind = { ...first.mind, flags: new Set(['met']) };
  expect(held(KEEPER, [{ option: 7 }, { won: true }], cleared).said).toContain('Well, well.');
});

test('an option is there only where its test holds', () => {
  const machine = new TalkMachine(KEEPER);
  const asked = (items: Record<string, number>) => {
    let state = machine.begin({ ...EMPTY_MIND, items });
    while (!machine.question(state)) state = machine.next(state);
    const question = machine.question(state)!;
    return question.ask === 'option' ? question.options.map(({ text }) => text) : [];
  };
  expect(asked({})).toEqual(['The crank?', 'Nothing.']);
  expect(asked({ oar: 1 })).toEqual(['The crank?', 'Nothing.', 'A boat?']);
  expect(held(KEEPER, [{ option: 17 }], { ...EMPTY_MIND, items: { oar: 1 } }).mind.items.oar).toBe(0);
});

test('a file is read as it was written, a step a line, and what is misplaced is told with its line', () => {
  const text = writeTalk(KEEPER);
  expect(readTalk(text, 'talk/keeper.json')).toEqual(KEEPER);
  expect(JSON.parse(text.split('\n')[lineOfStep(3) - 1].replace(/,$/, ''))).toEqual(KEEPER.steps[3]);
  const bad = (steps: unknown[]) => () => readTalk(writeTalk({ ...KEEPER, steps: steps as TalkStep[] }), 'talk/x.json');
  expect(bad([say(1, 'Hm.')])).toThrow(/step 1 is too deep/);
  expect(bad([{ depth: 0, do: 'option', text: 'a' }])).toThrow(/right below choose/);
  expect(bad([{ depth: 0, do: 'choose' }, say(1, 'x')])).toThrow(/options only/);
  expect(bad([{ depth: 0, do: 'else' }])).toThrow(/after an if/);
  expect(bad([{ depth: 0, do: 'dance' }])).toThrow(/does "dance"/);
  expect(bad([{ depth: 0, do: 'wait', seconds: 'long' }])).toThrow(/step 1 \(wait\) is not as it has to be/);
  expect(misplacedBecause(KEEPER.steps, 3)).toBeNull();
  const memory = [{ name: 'met', number: 3, kind: 'flag' as const, label: 'Met the keeper' }];
  expect(readMemory(writeMemory(memory))).toEqual(memory);
});

test('all ways through end, and all steps are come to', () => {
  const { reached, stuck, whole } = pathsThrough(KEEPER, new Set(['met', 'outwitted']));
  expect([...KEEPER.steps.keys()].filter((n) => !reached.has(n))).toEqual([]);
  expect(stuck).toEqual([]);
  expect(whole).toBe(true);
});

test('after a last contest that was won nothing more is said, and what stands there is never come to', () => {
  const last: Talk = {
    ...KEEPER,
    steps: [{ depth: 0, do: 'contest', contest: 'final', against: 'keeper', texts: {} }, { depth: 1, do: 'won' }, say(2, 'Well.'), say(0, 'Bye.')],
  };
  const machine = new TalkMachine(last, new Set(['final']));
  expect(machine.next(machine.begin(EMPTY_MIND), { won: true }).at).toBeNull();
  expect(machine.next(machine.begin(EMPTY_MIND), { won: false }).at).toBe(3);
  expect(pathsThrough(last, new Set(), new Set(['final'])).reached.has(2)).toBe(false);
});

test('how flags can be afterwards depends on the way', () => {
  const { after } = pathsThrough(KEEPER, new Set(['met', 'outwitted']));
  expect(Object.fromEntries(after)).toEqual({ met: { on: true, off: false }, outwitted: { on: true, off: true } });
});

test('from where it cannot end is found, with what is set there', () => {
  const circle: Talk = {
    format: 1,
    title: '',
    steps: [
      { depth: 0, do: 'label', name: 'on' },
      say(0, 'Still here?'),
      { depth: 0, do: 'if', test: { flag: 'stuck', on: true } },
      { depth: 1, do: 'go', to: 'on' },
      say(0, 'Bye.'),
    ],
  };
  const { stuck } = pathsThrough(circle, new Set(['stuck']));
  expect(stuck.map(({ step }) => step).sort()).toEqual([0, 1, 2, 3]);
  expect(stuck[0].flags).toEqual(['stuck']);
  // Where nothing sets it, it ends, and what waits for it is never come to.
  const unset = pathsThrough(circle, new Set());
  expect(unset.stuck).toEqual([]);
  expect(unset.reached.has(3)).toBe(false);
});

test('texts break at spaces, and words that are longer than a line are told', () => {
  expect(wrapText('The tide waits for nobody at all', 12, 2)).toEqual({
    boxes: [
      ['The tide', 'waits for'],
      ['nobody at', 'all'],
    ],
    tooLong: [],
  });
  expect(wrapText('a\nb', 5, 3).boxes).toEqual([['a', 'b']]);
  expect(wrapText('lamplighters', 5, 1).tooLong).toEqual(['lamplighters']);
});
