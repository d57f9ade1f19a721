/** Findings of tables, conversations, people and sequences, each made by one thing that is wrong. */

import { describe, expect, it } from '@jest/globals';
import type { CrateWorld } from '../crate/world.ts';
import type { GameMap, MapObject, Sequence } from '../document/schema.ts';
import { withLine } from '../document/lineFix.ts';
import { LinkGraph } from '../link/graph.ts';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { recordsPath, writeTable, type Row } from '../table/document.ts';
import { MEMORY_PATH, talkPath, writeMemory, writeTalk, type Remembered, type TalkStep } from '../talk/document.ts';
import { testWorld } from '../testing/world.ts';
import { checkCrate } from './checkCrate.ts';
import { memoryLedger } from './memoryLedger.ts';
import { talksOf } from '../talk/talks.ts';
import { usesOfRow } from './usesOfRow.ts';

const start = testWorld();
const { profile } = start;

const WIT: Row = { id: 'riddle', name: 'Riddle', power: 10, cost: 2, ways: [] };
const person = (id: string, more: Row = {}): Row => ({
  id,
  name: 'Odile',
  title: '',
  portrait: null,
  breath: 20,
  wit: 8,
  tide: 'any',
  party: ['riddle'],
  reward: 0,
  teacher: null,
  ...more,
});
const MEMORY: Remembered[] = [{ name: 'won', number: 64, kind: 'flag', label: '' }];
const SAY: TalkStep = { depth: 0, do: 'say', who: 'odile', text: 'Well.' };

interface Given {
  people?: Row[];
  wits?: Row[];
  steps?: TalkStep[];
  memory?: Remembered[];
  script?: string;
  objects?: Record<string, Partial<MapObject> | undefined>;
  sequences?: Record<string, Sequence>;
}

/** A room with one person, a row, and a conversation of one line that nothing is wrong with. */
function crateWith({
  people = [person('odile'), person('you')],
  wits = [WIT],
  steps = [SAY],
  memory = [],
  script,
  objects = {},
  sequences = {},
}: Given): CrateWorld {
  const table = (id: string, rows: Row[]) => [
    recordsPath(id),
    writeTable(
      profile.tables!.find((one) => one.id === id),
      { format: 1, table: id, rows },
    ),
  ];
  const map = start.crate.maps.hall;
  const one = {
    ...newObject(profile, 'person', 'keeper', [0, 0, 0]),
    properties: { ...newObject(profile, 'person', 'keeper', [0, 0, 0]).properties, record: 'odile', talk: 'keeper' },
  };
  const all = Object.fromEntries(
    Object.entries<Partial<MapObject> | undefined>({ o90: {}, ...objects }).map(([id, more = {}]) => [
      id,
      { ...one, name: id === 'o90' ? 'keeper' : id, ...more, properties: { ...one.properties, ...more.properties } },
    ]),
  );
  return {
    ...start,
    crate: {
      ...start.crate,
      ...(script === undefined ? {} : { scripts: { 'scripts/main.lua': script } }),
      data: Object.fromEntries([
        table('people', people),
        table('wits', wits),
        [talkPath('keeper'), writeTalk({ format: 1, title: 'Keeper', steps })],
        [MEMORY_PATH, writeMemory(memory)],
      ]) as Record<string, string>,
      maps: { hall: { ...map, objects: { ...map.objects, ...all }, sequences } as GameMap },
    },
  };
}
/** What is found beside what an untouched crate has. */
const before = new Set(checkCrate(crateWith({})).findings.map(({ code }) => code));
const found = (given: Given) => checkCrate(crateWith(given)).findings.filter(({ code }) => !before.has(code));
const codes = (given: Given) => found(given).map(({ code }) => code);

it('a sound crate has no findings about game data', () => {
  expect([...before].filter((code) => /^(record|talk|memory|person|sight|sequence)-/.test(code))).toEqual([]);
});

describe('tables', () => {
  it.each<[string, Given]>([
    ['record-reference', { people: [person('odile', { teacher: 'nobody' }), person('you')] }],
    ['record-reference', { people: [person('odile', { party: ['shout'] }), person('you')] }],
    ['record-few', { people: [person('odile', { party: [] }), person('you')] }],
    ['record-range', { people: [person('odile', { breath: 99 }), person('you')] }],
    ['record-text-long', { people: [person('odile', { name: 'Odile of the low sluice' }), person('you')] }],
    ['record-letters', { people: [person('odile', { name: 'Odíle' }), person('you')] }],
    ['record-flags', { wits: [{ ...WIT, ways: ['flies'] }] }],
    ['record-choice', { people: [person('odile', { tide: 'spring' }), person('you')] }],
    ['record-key', { people: [person('odile'), person('odile'), person('you')] }],
    ['record-column', { people: [person('odile', { shoes: 2 }), person('you')] }],
    ['record-file', { people: [person('odile', { portrait: 'textures/none.ktx2' }), person('you')] }],
    ['record-unused', { people: [person('odile'), person('you'), person('stray')] }],
    ['record-unreached', { people: [person('odile'), person('you'), person('stray', { teacher: 'other' }), person('other')] }],
  ])('%s', (code, given) => {
    expect(codes(given)).toContain(code);
  });

  it('a fix puts the row right, as a line of its file', () => {
    const world = crateWith({ people: [person('odile', { breath: 99 }), person('you')] });
    const { fix } = checkCrate(world).findings.find(({ code }) => code === 'record-range')!;
    expect(fix).toMatchObject({ kind: 'line', file: 'records/people.json', line: 5 });
    if (fix?.kind !== 'line') throw new Error('no line');
    const next = withLine(world.crate.data[fix.file], fix.line, fix.was, fix.to)!;
    const data = { ...world.crate.data, [fix.file]: next };
    expect(checkCrate({ ...world, crate: { ...world.crate, data } }).findings.map(({ code }) => code)).not.toContain('record-range');
  });

  it('a damaged file is a blocker with its line, and says nothing of what else would be wrong', () => {
    const world = crateWith({});
    const data = { ...world.crate.data, 'records/people.json': '{\n "format": 1,\n oops' };
    const told = checkCrate({ ...world, crate: { ...world.crate, data } }).findings.find(({ code }) => code === 'document-syntax');
    expect(told).toMatchObject({ severity: 'blocker', place: { file: 'records/people.json', line: 3 } });
  });

  it('a table that the game does not have is told', () => {
    const world = crateWith({});
    const data = { ...world.crate.data, 'records/ghosts.json': '{"format":1,"table":"ghosts","rows":[]}' };
    expect(checkCrate({ ...world, crate: { ...world.crate, data } }).findings.map(({ code }) => code)).toContain('record-table');
  });
});

const contest = (texts: Record<string, string>): TalkStep => ({ depth: 0, do: 'contest', contest: 'wits', against: 'odile', texts });
const TEXTS = { before: 'So.', won: 'Ah.', lost: 'Ha.' };

describe('conversations', () => {
  it.each<[string, Given]>([
    ['talk-contest-text', { steps: [contest({ before: 'So.', won: 'Ah.' })] }],
    ['talk-contest-text', { steps: [contest({ ...TEXTS, full: 'No room.' })] }],
    ['talk-contest', { steps: [{ ...contest(TEXTS), contest: 'fists' } as TalkStep] }],
    ['talk-row', { steps: [{ ...contest(TEXTS), against: 'nobody' } as TalkStep] }],
    ['talk-speaker', { steps: [{ ...SAY, who: 'ghost' } as TalkStep] }],
    ['talk-options', { steps: [{ depth: 0, do: 'choose' }] }],
    ['talk-label', { steps: [SAY, { depth: 0, do: 'go', to: 'nowhere' }] }],
    ['talk-function', { steps: [{ depth: 0, do: 'call', function: 'gone' }] }],
    ['talk-sequence', { steps: [{ depth: 0, do: 'move', sequence: 'none', wait: true }] }],
    ['talk-sound', { steps: [{ depth: 0, do: 'sound', sound: 'sounds/none.wav' }] }],
    ['talk-letters', { steps: [{ ...SAY, text: 'Öl.' } as TalkStep] }],
    ['talk-word-long', { steps: [{ ...SAY, text: 'A lamplighterslamplighterslamplighters.' } as TalkStep] }],
    ['talk-endless', { steps: [{ depth: 0, do: 'label', name: 'a' }, SAY, { depth: 0, do: 'go', to: 'a' }] }],
    ['talk-unreached', { steps: [{ depth: 0, do: 'end' }, SAY] }],
    ['memory-never-set', { memory: MEMORY, steps: [{ depth: 0, do: 'if', test: { flag: 'won', on: true } }, { ...SAY, depth: 1 } as TalkStep] }],
    ['memory-never-read', { memory: MEMORY, steps: [{ depth: 0, do: 'set', flag: 'won' }] }],
    ['memory-unknown', { steps: [{ depth: 0, do: 'set', flag: 'won' }] }],
    ['memory-unused', { memory: MEMORY }],
    ['memory-number', { memory: [...MEMORY, { name: 'lost', number: 64, kind: 'flag', label: '' }] }],
    ['memory-range', { memory: [{ ...MEMORY[0], number: 3000 }] }],
  ])('%s', (code, given) => {
    expect(codes(given)).toContain(code);
  });

  it('a talk that goes on while somebody walks is told, with the fix', () => {
    const sequences = { q1: { name: 'aside', steps: [{ who: 'o90', do: 'turn' as const, to: 90, wait: true }], starts: [] } };
    const [told] = found({ sequences, steps: [{ depth: 0, do: 'move', sequence: 'aside', wait: false }, SAY] });
    expect(told).toMatchObject({ code: 'talk-no-wait', fix: { to: '{"depth":0,"do":"move","sequence":"aside","wait":true}' } });
  });

  it('who sets and reads what is known over conversations and scripts', () => {
    const world = crateWith({
      memory: MEMORY,
      steps: [{ depth: 0, do: 'set', flag: 'won' }],
      script: 'function startup()\n  if recall("won") then remember("won", false) end\nend\n',
    });
    const uses = memoryLedger(talksOf(world.crate.data).talks, world.crate.scripts, MEMORY).get('won')!.uses;
    expect(uses.map(({ does, path, step, line }) => [does, path, step ?? line])).toEqual([
      ['set', 'talk/keeper.json', 0],
      ['read', 'scripts/main.lua', 2],
      ['clear', 'scripts/main.lua', 2],
    ]);
    expect(checkCrate(world).findings.map(({ code }) => code)).not.toContain('memory-never-read');
  });

  it('the links know what tables and conversations need, and the rows who uses them', () => {
    const world = crateWith({
      steps: [SAY, { depth: 0, do: 'sound', sound: 'sounds/bell.wav' }],
      people: [person('odile', { portrait: 'textures/odile.ktx2' }), person('you')],
    });
    const reach = new LinkGraph(world).reach(['map:hall']);
    expect([...reach]).toEqual(
      expect.arrayContaining(['table:people', 'talk:keeper', 'sound:sounds/bell.wav', 'texture:textures/odile.ktx2', 'table:wits']),
    );
    expect(usesOfRow(world, 'people', 'odile').map(({ words }) => words)).toEqual(['keeper in map hall', 'Keeper: 1 step']);
  });
});

/** The height of the floor of the room of the template. */
const floor = start.crate.maps.hall.bands.b1.bottom;

describe('people', () => {
  it.each<[string, Given]>([
    ['person-name', { objects: { o90: { properties: { record: 'nobody' } } } }],
    ['person-name', { objects: { o90: { properties: { talk: 'none' } } } }],
    ['person-off-floor', { objects: { o90: { position: [0, 0, floor + 40] } } }],
    ['person-in-way', { objects: { o91: { position: [5, 5, floor] } } }],
    ['sequence-nobody', { sequences: { q1: { name: 'x', starts: [], steps: [{ who: 'o1', do: 'jump', wait: true }] } } }],
    ['sequence-empty', { sequences: { q1: { name: 'x', starts: [], steps: [] } } }],
    [
      'sequence-endless',
      { sequences: { q1: { name: 'x', starts: [], steps: [{ who: 'o90', do: 'follow', whom: 'player', gap: 32, wait: true }] } } },
    ],
    ['sequence-solid', { sequences: { q1: { name: 'x', starts: [], steps: [{ who: 'o90', do: 'walk', to: [9000, 0, floor], wait: true }] } } }],
    ['sequence-floor', { sequences: { q1: { name: 'x', starts: [], steps: [{ who: 'o90', do: 'walk', to: [9000, 0, floor], wait: true }] } } }],
    [
      'sequence-collides',
      {
        objects: { o91: { position: [80, 0, floor] } },
        sequences: { q1: { name: 'x', starts: [[0, 300, floor]], steps: [{ who: 'o90', do: 'walk', to: [80, 0, floor], wait: true }] } },
      },
    ],
  ])('%s', (code, given) => {
    expect(codes(given)).toContain(code);
  });

  it('who would see through a wall is told with the most steps that are safe; with them it is mended', () => {
    const wall = block({ min: [60, -120, floor], max: [68, 120, floor + 128] }, 'brick');
    const world = crateWith({ objects: { o90: { properties: { sight: 5, cone: 0 } } } });
    const { hall } = world.crate.maps;
    const walled: CrateWorld = { ...world, crate: { ...world.crate, maps: { hall: { ...hall, solids: { ...hall.solids, s99: wall } } } } };
    const told = checkCrate(walled).findings.find(({ code }) => code === 'sight-through')!;
    expect(told.message).toBe('keeper sees through a wall: the game asks for 5 steps and for no walls.');
    // A step is 32 units: two of them reach the wall at 60, and no place behind it where anybody could stand.
    expect(told.fix).toMatchObject({ kind: 'edit', label: 'See 2 steps' });
    const edit = told.fix?.kind === 'edit' ? told.fix.edit.changes[0] : null;
    const mended = { ...hall.objects.o90, properties: { ...hall.objects.o90.properties, sight: 2 } };
    expect(edit).toMatchObject({ of: 'objects', id: 'o90', to: mended });
    const after = { ...walled, crate: { ...walled.crate, maps: { hall: { ...walled.crate.maps.hall, objects: { ...hall.objects, o90: mended } } } } };
    expect(checkCrate(after).findings.map(({ code }) => code)).not.toContain('sight-through');
  });
});
