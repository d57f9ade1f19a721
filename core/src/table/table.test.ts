import { expect, test } from '@jest/globals';
import { chance } from '../math/chance.ts';
import { withLine } from '../document/lineFix.ts';
import { cellProblems, readCell } from './cell.ts';
import { balance, contend, sidesOf, type Side } from './contend.ts';
import { keyOf, lineOfRow, readTable, writeTable, type TableDocument } from './document.ts';
import { freeKey, insertRows, newRow, removeRows, renameKey, typeCells } from './edit.ts';
import { exportCsv, planImport } from './exchange.ts';
import { evaluate, FormulaProblem, namesIn, readFormula } from './formula.ts';
import { randomRows } from './randomRows.ts';
import { columnOf, tablesProblem, type Table } from './schema.ts';
import { Tables } from './tables.ts';

const KIT: Table = {
  id: 'kit',
  label: 'Kit',
  key: 'id',
  columns: [
    { id: 'id', label: 'Key', type: 'text' },
    { id: 'weight', label: 'Weight', type: 'number', least: 0, most: 50 },
  ],
};
const PEOPLE: Table = {
  id: 'people',
  label: 'People',
  key: 'id',
  title: 'name',
  columns: [
    { id: 'id', label: 'Key', type: 'text' },
    { id: 'name', label: 'Name', type: 'text', most: 8, letters: 'abcdefghijklmnopqrstuvwxyzABCD ' },
    { id: 'wits', label: 'Wits', type: 'number', least: 1, most: 20, whole: true },
    {
      id: 'mood',
      label: 'Mood',
      type: 'choice',
      choices: [
        { id: 'calm', label: 'Calm' },
        { id: 'sour', label: 'Sour' },
      ],
    },
    {
      id: 'ways',
      label: 'Ways',
      type: 'flags',
      choices: [
        { id: 'lies', label: 'Lies' },
        { id: 'sings', label: 'Sings' },
      ],
    },
    { id: 'kit', label: 'Kit', type: 'rows', table: 'kit', least: 1, most: 2 },
    { id: 'friend', label: 'Friend', type: 'reference', table: 'people' },
    { id: 'load', label: 'Load', type: 'formula', formula: 'sum(kit.weight) + wits * 2' },
  ],
};
const TABLES = [KIT, PEOPLE];

const kit: TableDocument = {
  format: 1,
  table: 'kit',
  rows: [
    { id: 'hook', weight: 3 },
    { id: 'rope', weight: 4 },
  ],
};
const people: TableDocument = {
  format: 1,
  table: 'people',
  rows: [
    { id: 'ada', name: 'Ada', wits: 5, mood: 'calm', ways: ['lies'], kit: ['hook', 'rope'], friend: 'bo' },
    { id: 'bo', name: 'Bo', wits: 2, mood: 'sour', ways: [], kit: ['rope'], friend: null },
  ],
};
const data = { 'records/kit.json': writeTable(KIT, kit), 'records/people.json': writeTable(PEOPLE, people) };
const tables = new Tables(TABLES, data);

test('a table is read as it was written, a row a line', () => {
  expect(readTable(data['records/people.json'], 'records/people.json')).toEqual(people);
  const lines = data['records/people.json'].split('\n');
  expect(JSON.parse(lines[lineOfRow(1) - 1].replace(/,$/, ''))).toEqual(people.rows[1]);
  expect(() => readTable('{"format":1,"table":"people","rows":[{"id":{}}]}', 'records/people.json')).toThrow(/records\/people.json: \/rows\/0\/id/);
});

/** Examples of UAX #15, "Unicode Normalization Forms", figures 3 to 5 (from memory). */
test.each([
  ['the sign of angstrom', '\u212b', '\u00c5'],
  ['a ring over a letter', 'A\u030a', '\u00c5'],
  ['two marks in any order', 'd\u0307\u0323', '\u1e0d\u0307'],
  ['parts of a syllable', '\u1112\u1161\u11ab', '\ud55c'],
  ['what is only like another one stays', '\ufb01', '\ufb01'],
])('%s is kept in one form', (_what, given, kept) => {
  const text = writeTable(PEOPLE, { ...people, rows: [{ ...people.rows[0], name: given }] });
  expect(readTable(text, '').rows[0].name).toBe(kept);
});

test('what a profile declares has to fit together', () => {
  expect(tablesProblem(TABLES, [])).toBeNull();
  expect(tablesProblem([{ ...PEOPLE, columns: [...PEOPLE.columns, { id: 'x', label: 'X', type: 'rows', table: 'ghosts' }] }, KIT], [])).toMatch(
    /"ghosts"/,
  );
  expect(tablesProblem([{ ...KIT, key: 'weight' }], [])).toMatch(/key "weight"/);
  expect(tablesProblem([KIT, KIT], [])).toMatch(/there twice/);
});

test.each([
  ['1 + 2 * 3', 7],
  ['(1 + 2) * 3', 9],
  ['-2 * -3', 6],
  ['7 % 4 + (2 > 1 ? 10 : 20)', 13],
  ['round(2.5) + floor(2.9) + ceil(2.1)', 8],
  ['most(1, 5, 3) - least(4, 2)', 3],
  ['mean(2, 4)', 3],
])('%s is %d', (text, value) => {
  expect(evaluate(text, () => 0)).toBe(value);
});

test.each([
  ['1 +', /cannot be read at character/],
  ['1 / 0', /divides by 0/],
  ['alert(1)', /none of sum/],
  ['constructor.constructor', /no column/],
  ['"a" + 1', /is no number/],
  ['[1, 2]', /formulas do not know/],
])('%s is refused', (text, words) => {
  const value = () =>
    evaluate(text, ([id]) => {
      throw new FormulaProblem(`no column ${id}`);
    });
  expect(value).toThrow(words);
  expect(value).toThrow(FormulaProblem);
});

test('a formula goes through lists and references, and a circle of formulas is told', () => {
  expect(tables.computed(PEOPLE, people.rows[0], columnOf(PEOPLE, 'load')!)).toEqual({ value: 17 });
  expect(tables.worth(PEOPLE, people.rows[0], 'friend.wits + count(kit) + ways.lies')).toBe(5);
  expect(namesIn('friend.wits + count(kit.weight)')).toEqual(['friend.wits', 'kit.weight']);
  const round: Table = { ...PEOPLE, columns: [...PEOPLE.columns, { id: 'a', label: 'A', type: 'formula', formula: 'a + 1' }] };
  expect(new Tables([KIT, round], data).computed(round, people.rows[0], columnOf(round, 'a')!)).toEqual({
    problem: 'formulas lead round in a circle',
  });
  expect(() => readFormula(`1${'+1'.repeat(600)}`)).toThrow(/too long/);
});

test('cells are read as they are typed', () => {
  const of = (id: string, text: string) => readCell(columnOf(PEOPLE, id)!, text);
  expect(of('wits', ' 4 ')).toEqual({ value: 4 });
  expect(of('wits', '1,5')).toEqual({ value: 1.5 });
  expect(of('wits', 'four')).toEqual({ problem: '"four" is no number' });
  expect(of('mood', 'Sour')).toEqual({ value: 'sour' });
  expect(of('mood', 'glad')).toEqual({ problem: '"glad" is none of Mood: calm, sour' });
  expect(of('ways', 'sings; lies')).toEqual({ value: ['lies', 'sings'] });
  expect(of('kit', 'hook, rope')).toEqual({ value: ['hook', 'rope'] });
  expect(of('friend', '')).toEqual({ value: null });
  expect(of('load', '3')).toEqual({ problem: 'Load is worked out' });
});

test.each([
  ['wits', 21, 'record-range', 20],
  ['wits', 1.5, 'record-range', 2],
  ['name', 'Adalbertina', 'record-text-long', undefined],
  ['name', 'Zoë', 'record-letters', undefined],
  ['kit', [], 'record-few', undefined],
  ['kit', ['a', 'b', 'c'], 'record-many', ['a', 'b']],
  ['ways', ['lies', 'flies'], 'record-flags', ['lies']],
  ['mood', 'glad', 'record-choice', undefined],
  ['wits', 'four', 'record-kind', undefined],
])('%s: %j is %s', (id, value, code, set) => {
  const found = cellProblems(columnOf(PEOPLE, id)!, value);
  expect(found.map((one) => one.code)).toContain(code);
  expect(found.find((one) => one.code === code)!.set).toEqual(set);
});

test('rows are typed into, added, taken out, and known by free keys', () => {
  const typed = typeCells(PEOPLE, people, [
    { n: 0, column: 'wits', text: '9' },
    { n: 1, column: 'mood', text: 'glad' },
  ]);
  expect(typed.document.rows[0].wits).toBe(9);
  expect(typed.problems).toEqual(['Row 2, Mood: "glad" is none of Mood: calm, sour.']);
  expect(people.rows[0].wits).toBe(5);
  expect(freeKey(PEOPLE, people, 'ada')).toBe('ada_2');
  const more = insertRows(PEOPLE, people, 0, [people.rows[0], newRow(PEOPLE, people)]);
  expect(more.rows.map((row) => keyOf(PEOPLE, row))).toEqual(['ada', 'ada_2', 'people', 'bo']);
  expect(removeRows(more, new Set([1, 2]))).toEqual(people);
});

test('another key is followed by all that refer to it', () => {
  const changed = renameKey(TABLES, data, KIT, 'rope', 'line');
  expect(Object.keys(changed).sort()).toEqual(['records/kit.json', 'records/people.json']);
  expect(readTable(changed['records/people.json'], '').rows.map((row) => row.kit)).toEqual([['hook', 'line'], ['line']]);
});

test('what goes out as CSV comes back as it was; formulas are worked out and left', () => {
  const csv = exportCsv(tables, PEOPLE, people);
  expect(csv.split('\r\n')[1]).toBe('ada,Ada,5,calm,lies,hook; rope,bo,17');
  const plan = planImport(PEOPLE, people, csv, 'people.csv');
  expect(plan).toMatchObject({ added: [], changed: [], missing: [], problems: [] });
  expect(plan.document).toEqual(people);
});

test('an import says beforehand what it changes, adds, leaves and cannot take', () => {
  const plan = planImport(PEOPLE, people, 'Key;Wits;Shoes\r\nbo;7;3\r\ncy;x;1\r\ncy;3;1\r\n', 'p.csv');
  expect(plan.changed).toEqual([{ key: 'bo', column: 'Wits', from: '2', to: '7' }]);
  expect(plan.added).toEqual(['cy']);
  expect(plan.missing).toEqual(['ada']);
  expect(plan.problems).toEqual([
    'The column "Shoes" is none of People.',
    'Row 2, Wits: "x" is no number.',
    'The row "cy" is there twice; the first counts.',
  ]);
  expect(plan.document.rows[0]).toBe(people.rows[0]);
  expect(() => planImport(PEOPLE, people, 'Wits\r\n3\r\n', 'p.csv')).toThrow(/no column "id"/);
});

test('random rows keep to their ranges and budgets, and are the same with the same seed', () => {
  const rule = {
    count: 40,
    seed: 5,
    key: 'x',
    columns: { wits: { least: 3, most: 9 }, kit: { among: ['rope'] } },
    budgets: [{ formula: 'load', least: 10, most: 16 }],
  };
  const made = randomRows(tables, PEOPLE, people, rule);
  expect(made.made).toBe(40);
  const rows = made.document.rows.slice(2);
  for (const row of rows) {
    expect(row.wits).toBeGreaterThanOrEqual(3);
    expect(row.wits).toBeLessThanOrEqual(9);
    const load = tables.worth(PEOPLE, row, 'load');
    expect(load >= 10 && load <= 16).toBe(true);
  }
  expect(new Set(rows.map((row) => row.wits)).size).toBeGreaterThan(2);
  expect(randomRows(tables, PEOPLE, people, rule)).toEqual(made);
  expect(randomRows(tables, PEOPLE, people, { ...rule, budgets: [{ formula: 'load', least: 900, most: 901 }] })).toMatchObject({
    made: 0,
    problem: expect.stringMatching(/budgets/),
  });
});

/**
 * Chances of a contest by its states: a Markov chain of both strengths, whole points only. Independent of the simulation.
 * @returns share that the challenger wins, and expected rounds
 */
function exactly([a, b]: readonly [Side, Side], rounds: number): { won: number; rounds: number } {
  let states = new Map([[`${a.strength},${b.strength}`, 1]]);
  let [won, expected] = [0, 0];
  for (let round = 1; round <= rounds; round++)
    for (const who of [0, 1]) {
      const side = [a, b][who];
      const next = new Map<string, number>();
      const put = (key: string, share: number) => next.set(key, (next.get(key) ?? 0) + share);
      for (const [key, share] of states) {
        put(key, share * (1 - side.chance));
        const kinds = side.most - side.least + 1;
        for (let points = side.least; points <= side.most; points++) {
          const left = key.split(',').map(Number);
          left[1 - who] -= points;
          const part = (share * side.chance) / kinds;
          if (left[1 - who] > 0) put(left.join(','), part);
          else {
            if (who === 0) won += part;
            expected += part * round;
          }
        }
      }
      states = next;
    }
  for (const share of states.values()) expected += share * rounds;
  return { won, rounds: expected };
}

test('rounds of a contest come out as their exact probabilities have it', () => {
  // A try with chance p until one succeeds: the geometric distribution, mean 1/p.
  const alone = [
    { strength: 1, chance: 0.25, least: 1, most: 1 },
    { strength: 1, chance: 0, least: 1, most: 1 },
  ] as const;
  expect(exactly(alone, 1000).rounds).toBeCloseTo(4, 6);
  for (const sides of [
    alone,
    [
      { strength: 5, chance: 0.6, least: 1, most: 3 },
      { strength: 7, chance: 0.4, least: 1, most: 2 },
    ],
    [
      { strength: 3, chance: 0.5, least: 1, most: 1 },
      { strength: 3, chance: 0.5, least: 1, most: 1 },
    ],
  ] as const) {
    const exact = exactly(sides, 200);
    const played = balance(sides, 200, 20_000, 11);
    // Five standard errors: one in two million would fall beyond.
    expect(Math.abs(played.rounds - exact.rounds)).toBeLessThan(5 * played.error);
    expect(Math.abs(played.won - exact.won)).toBeLessThan(5 * Math.sqrt((exact.won * (1 - exact.won)) / played.played) + 1e-9);
  }
});

test('a contest ends after its rounds, and is the same with the same chance', () => {
  const never = { strength: 1, chance: 0, least: 1, most: 1 };
  expect(contend([never, never], 7, chance(1))).toEqual({ won: false, rounds: 7, left: [1, 1] });
  const model = {
    id: 'wits',
    label: 'Wits',
    table: 'people',
    strength: 'wits',
    chance: 'mine.wits / (mine.wits + theirs.wits)',
    least: '1',
    most: '2',
    rounds: 50,
  };
  const sides = sidesOf(tables, PEOPLE, model, people.rows[0], people.rows[1]);
  expect(sides[0]).toMatchObject({ strength: 5, chance: 5 / 7 });
  expect(contend(sides, 50, chance(3))).toEqual(contend(sides, 50, chance(3)));
  expect(() => sidesOf(tables, PEOPLE, { ...model, chance: 'wits' }, people.rows[0], people.rows[1])).toThrow(/neither mine.COLUMN/);
});

test('a line is put in the place of another while that is there', () => {
  const [first, second] = people.rows.map((row) => JSON.stringify(row));
  const text = data['records/people.json'];
  const next = withLine(text, lineOfRow(0), first, JSON.stringify({ ...people.rows[0], wits: 1 }))!;
  expect(readTable(next, '').rows.map((row) => row.wits)).toEqual([1, 2]);
  expect(readTable(withLine(text, lineOfRow(1), second, null)!, '').rows).toHaveLength(1);
  // Somebody put a row before it meanwhile.
  expect(withLine(text, lineOfRow(9), second, null)).not.toBeNull();
  expect(withLine(text, lineOfRow(0), '{"id":"gone"}', null)).toBeNull();
});
