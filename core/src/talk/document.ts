/**
 * A conversation as a file (`talk/NAME.json`): steps in the order in which they are read, a step a line, indented like a
 * script by `depth`. What belongs to a choice, a branch or a contest stands deeper below it.
 */

import { Type, type Static, type TSchema } from '@sinclair/typebox';
import { readDocument } from '../document/readDocument.ts';
import { composed } from '../table/document.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { Memory } from './schema.ts';
import { Keyed } from '../keyed.ts';

const closed = { additionalProperties: false };
const Text = Type.String({ maxLength: 4000 });
const Name = Type.String({ maxLength: 80 });
const Translations = Type.Optional(Keyed(Type.String({ pattern: '^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$' }), Text));

/** What is asked: whether a flag is on, how a value compares, whether the player has something. */
export const TestSchema = Type.Union([
  Type.Object({ flag: Name, on: Type.Boolean() }, closed),
  Type.Object({ value: Name, is: Type.Union((['<', '=', '>'] as const).map((sign) => Type.Literal(sign))), than: Type.Number() }, closed),
  Type.Object({ has: Name }, closed),
]);
export type Test = Static<typeof TestSchema>;

const step = <D extends string, P extends Record<string, TSchema>>(does: D, fields: P) =>
  Type.Object({ depth: Type.Integer({ minimum: 0, maximum: 30 }), do: Type.Literal(does), ...fields }, closed);

export const STEP_SCHEMAS = {
  /** Somebody says something: a row’s key, an object’s name, or the player where it is empty. */
  say: step('say', { who: Name, text: Text, voice: Type.Optional(Name), other: Translations }),
  choose: step('choose', {}),
  option: step('option', { text: Text, test: Type.Optional(TestSchema), other: Translations }),
  if: step('if', { test: TestSchema }),
  else: step('else', {}),
  wait: step('wait', { seconds: Type.Number({ minimum: 0, maximum: 600 }) }),
  give: step('give', { what: Name, count: Type.Integer({ minimum: 1, maximum: 999 }) }),
  take: step('take', { what: Name, count: Type.Integer({ minimum: 1, maximum: 999 }) }),
  sound: step('sound', { sound: Name }),
  /** An object turns to another one, or to the player where that is empty. */
  turn: step('turn', { who: Name, to: Name }),
  /** A movement sequence of the map, by its name. */
  move: step('move', { sequence: Name, wait: Type.Boolean() }),
  call: step('call', { function: Name }),
  /** What was won is remembered by a flag, so that it is not held again until that is cleared. */
  contest: step('contest', {
    contest: Name,
    against: Name,
    flag: Type.Optional(Name),
    texts: Type.Record(Type.String(), Text),
    other: Type.Optional(Type.Record(Type.String(), Type.Record(Type.String(), Text))),
  }),
  won: step('won', {}),
  lost: step('lost', {}),
  again: step('again', {}),
  set: step('set', { flag: Name }),
  clear: step('clear', { flag: Name }),
  put: step('put', { value: Name, to: Type.Number() }),
  add: step('add', { value: Name, by: Type.Number() }),
  label: step('label', { name: Name }),
  go: step('go', { to: Name }),
  end: step('end', {}),
} as const;

export type StepKind = keyof typeof STEP_SCHEMAS;
export type StepOf<K extends StepKind> = Static<(typeof STEP_SCHEMAS)[K]>;
export type TalkStep = { [K in StepKind]: StepOf<K> }[StepKind];
export const STEP_KINDS = Object.keys(STEP_SCHEMAS) as StepKind[];

export interface Talk {
  format: 1;
  title: string;
  steps: readonly TalkStep[];
}

const TalkSchema = Type.Object(
  {
    format: Type.Literal(1),
    title: Type.String({ maxLength: 120 }),
    steps: Type.Array(Type.Object({ depth: Type.Integer(), do: Type.String() }), { maxItems: 10_000 }),
  },
  closed,
);

/** What stands deeper below a step, and where a step may stand. */
const WITHIN: Partial<Record<StepKind, readonly StepKind[]>> = { option: ['choose'], won: ['contest'], lost: ['contest'], again: ['contest'] };
export const OPENERS: ReadonlySet<StepKind> = new Set(['choose', 'option', 'if', 'else', 'contest', 'won', 'lost', 'again']);

export const TALK_FOLDER = 'talk/';
export const talkPath = (name: string): string => `${TALK_FOLDER}${name}.json`;
/** What a crate remembers: the flags and values of its own. */
export const MEMORY_PATH = 'talk/memory.json';
export const isTalk = (path: string): boolean => path.startsWith(TALK_FOLDER) && path !== MEMORY_PATH;
export const talkName = (path: string): string => path.slice(TALK_FOLDER.length).replace(/\.json$/, '');

/** Line of a file of ours in which a step stands. */
export const lineOfStep = (n: number): number => n + 5;

/** @throws UnreadableInput with the step that is wrong, and why */
export function readTalk(text: string, path: string): Talk {
  const talk = readDocument(text, TalkSchema, path) as { format: 1; title: string; steps: TalkStep[] };
  const wrong = (n: number, words: string, hint = 'Undo the last change to this file, or restore it from the history.') => {
    throw new UnreadableInput('talk-step', `${path}: step ${n + 1} ${words}.`, { file: path, line: lineOfStep(n) }, hint);
  };
  talk.steps.forEach((one, n) => {
    const schema = Object.hasOwn(STEP_SCHEMAS, one.do) ? STEP_SCHEMAS[one.do] : undefined;
    if (!schema) return wrong(n, `does "${String(one.do)}", which is none of ${STEP_KINDS.join(', ')}`, 'The steps are in docs/talk.md.');
    try {
      readDocument(JSON.stringify(one), schema, 'step');
    } catch (error) {
      if (error instanceof UnreadableInput)
        wrong(n, `(${one.do}) is not as it has to be: ${error.message.replace(/^step: /, '').replace(/\.$/, '')}`);
      throw error;
    }
  });
  const misplaced = talk.steps.findIndex((_, n) => misplacedBecause(talk.steps, n) !== null);
  if (misplaced >= 0) wrong(misplaced, misplacedBecause(talk.steps, misplaced)!, 'Steps below a choice, branch or contest are one deeper than it.');
  return talk;
}

/** Why a step may not stand where it does, in words that go on from its number; null where it may. */
export function misplacedBecause(steps: readonly TalkStep[], n: number): string | null {
  const { depth, do: does } = steps[n];
  const before = steps[n - 1];
  if (depth > (before ? before.depth + (OPENERS.has(before.do) ? 1 : 0) : 0)) return 'is too deep for what stands before it';
  const above = parentOf(steps, n);
  const within = WITHIN[does];
  if (within && !(above && within.includes(above.do))) return `(${does}) has to stand right below ${within.join(' or ')}`;
  if (above?.do === 'choose' && does !== 'option') return `(${does}) stands below choose, which has options only`;
  if (above?.do === 'contest' && !within?.includes('contest')) return `(${does}) stands below contest, which has won, lost and again only`;
  if (does === 'else') {
    let i = n - 1;
    while (i >= 0 && steps[i].depth > depth) i--;
    if (i < 0 || steps[i].depth !== depth || steps[i].do !== 'if') return '(else) has to come after an if of the same depth';
  }
  return null;
}

export function parentOf(steps: readonly TalkStep[], n: number): TalkStep | null {
  for (let i = n - 1; i >= 0; i--) if (steps[i].depth < steps[n].depth) return steps[i];
  return null;
}

/** First step after a step and all that stands deeper below it. */
export function endOfBlock(steps: readonly TalkStep[], n: number): number {
  let i = n + 1;
  while (i < steps.length && steps[i].depth > steps[n].depth) i++;
  return i;
}

export function writeTalk({ title, steps }: Talk): string {
  const lines = steps.map((one) => `    ${composed(JSON.stringify(one))}`);
  return `{\n  "format": 1,\n  "title": ${JSON.stringify(title)},\n  "steps": [${lines.length > 0 ? `\n${lines.join(',\n')}\n  ` : ''}]\n}\n`;
}

const RememberedSchema = Type.Object(
  {
    format: Type.Literal(1),
    memory: Type.Array(
      Type.Object(
        {
          name: Type.String({ pattern: '^[a-z][a-z0-9_]*$', maxLength: 40 }),
          number: Type.Integer({ minimum: 0 }),
          kind: Type.Union([Type.Literal('flag'), Type.Literal('value')]),
          label: Type.String({ maxLength: 200 }),
        },
        closed,
      ),
      { maxItems: 10_000 },
    ),
  },
  closed,
);
export type Remembered = Memory['game'][number];

/** @throws UnreadableInput */
export const readMemory = (text: string): readonly Remembered[] => readDocument(text, RememberedSchema, MEMORY_PATH).memory;

export const writeMemory = (memory: readonly Remembered[]): string =>
  `{\n  "format": 1,\n  "memory": [${memory.length > 0 ? `\n${memory.map((one) => `    ${JSON.stringify(one)}`).join(',\n')}\n  ` : ''}]\n}\n`;

/** All texts of a step that players read, by what they are for. */
export function textsOf(one: TalkStep): { id: string; text: string; other: Readonly<Record<string, string>> }[] {
  if (one.do === 'say' || one.do === 'option') return [{ id: 'text', text: one.text, other: one.other ?? {} }];
  if (one.do === 'contest')
    return Object.entries(one.texts).map(([id, text]) => ({
      id,
      text,
      other: Object.fromEntries(
        Object.entries(one.other ?? {}).flatMap(([language, texts]) => (texts[id] === undefined ? [] : [[language, texts[id]]])),
      ),
    }));
  return [];
}
