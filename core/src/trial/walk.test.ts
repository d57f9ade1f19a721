import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { MapObject, Signal } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { block } from '../solid/primitives.ts';
import { made } from '../testing/maps.ts';
import { trialInputs } from '../testing/trial.ts';
import { BOX_MODEL, cubeBody, movable } from '../testing/trialBodies.ts';
import type { Intent } from './move.ts';
import { playWalk, Recorder } from './record.ts';
import { actText, compareWalks, INPUT_LIMIT, intentText, readInputs, roundIntent, walkSteps, type Walk } from './walk.ts';
import { readWalk, walkFindings, walksAmong } from './walkFiles.ts';
import { TrialWorld, type TrialInputs } from './world.ts';

const FLOOR = block({ min: [-8192, -8192, -16], max: [8192, 8192, 0] }, 'brick');
const SIGNALS: Signal[] = [{ from: 'p', event: 'entered', to: { object: 'g', action: 'raise' }, delay: 0.25 }];

/** A box to carry onto a plate that opens a gate; scripts that use chance and the order of tables. */
function plateMap(box: Vec3 = [40, 0, 0], script = ''): TrialInputs {
  const objects: Record<string, MapObject> = {
    s: made('start', 'start', [0, 0, 1]),
    p: made('trigger', 'plate', [160, 0, 0], { size: [40, 40, 24], senses: 'things' }),
    g: made('sluice', 'gate', [300, 0, 0]),
    a: movable('box', box),
  };
  const inputs = trialInputs([FLOOR], objects, Object.fromEntries(SIGNALS.map((one, i) => [`g${i}`, one])), script);
  inputs.map.bodies[BOX_MODEL] = cubeBody(24, 12);
  return inputs;
}

const EAST: Vec3 = [1, 0, 0];
const still = (look: Vec3 = EAST): Intent => ({ move: [0, 0, 0], run: false, jump: false, look });

async function recorded(
  inputs: TrialInputs,
  play: (recorder: Recorder, steps: (count: number, intent: Intent) => void, world: TrialWorld) => void,
): Promise<Walk> {
  const world = await TrialWorld.begin(inputs);
  const recorder = new Recorder(world);
  play(
    recorder,
    (count, intent) => {
      for (let i = 0; i < count; i++) recorder.step(intent);
    },
    world,
  );
  const walk = structuredClone(recorder.walk('hall'));
  world.stop();
  return walk;
}

const carryOver = (inputs: TrialInputs) =>
  recorded(inputs, (recorder, steps) => {
    steps(30, still());
    recorder.act({ act: 'operate', look: EAST });
    steps(66, { ...still(), move: EAST });
    recorder.act({ act: 'operate', look: EAST });
    steps(240, still());
  });

describe('a recorded walk', () => {
  it('plays back to the bit, and says in words what happened', async () => {
    const walk = await carryOver(plateMap());
    expect(walk.inputs.map((line) => line.split(' ')[0])).toEqual(['30', 'operate', '66', 'operate', '240']);
    expect(walk.marks.map(([, text]) => text)).toEqual(['pick up box', 'set down box', 'plate.entered → gate.raise']);
    expect(await playWalk(plateMap(), 'over', walk)).toMatchObject({ ok: true, exact: true, difference: null, seconds: 5.6 });
    expect(JSON.parse(JSON.stringify(walk))).toEqual(walk);
  });

  it('that no longer works says when, where, and what is missing', async () => {
    const walk = await carryOver(plateMap());
    const gone = await playWalk(plateMap([40, 200, 0]), 'over', walk);
    expect(gone).toMatchObject({ ok: false, exact: false });
    expect(gone.difference).toMatchObject({ second: 0.5, message: '“pick up box” did not happen' });
    expect(walkFindings('hall', gone)).toMatchObject([{ code: 'walk-broken', place: { map: 'hall', point: gone.difference!.at } }]);
    const wall = plateMap();
    const blocked = {
      ...wall,
      collision: {
        ...wall.collision,
        solids: [...wall.collision.solids, ...trialInputs([block({ min: [70, -90, 0], max: [90, 90, 99] }, 'brick')], {}).collision.solids],
      },
    };
    const stuck = await playWalk(blocked, 'over', walk);
    expect(stuck.difference!.message).toMatch(/^the player is at \d+, -?\d+, -?\d+ and not at/);
    expect(stuck.difference!.at[0]).toBeLessThan(70);
  });

  it('still works where something small was moved out of its way', async () => {
    const walk = await carryOver(plateMap());
    expect(await playWalk(plateMap([43, 1, 0]), 'over', walk)).toMatchObject({ ok: true, exact: false });
  });

  it('is the run up to its limit where that is longer, and still plays back', async () => {
    const walk = await recorded(plateMap(), (recorder, steps) => {
      steps(60, still());
      for (let i = 0; i < INPUT_LIMIT; i++) recorder.act({ act: 'lua', text: '' });
      recorder.act({ act: 'operate', look: EAST });
      steps(60, still());
    });
    expect([walk.inputs.length, walk.hashes.length, walk.marks.some(([, text]) => text === 'pick up box')]).toEqual([INPUT_LIMIT, 1, false]);
    expect(() => readInputs(walk.inputs)).not.toThrow();
  });

  it('ten minutes with chance, tables and things that fall are the same to the bit, whatever the time of day', async () => {
    const script = [
      'local names = {}',
      'for i = 1, 12 do names["k" .. i] = i end',
      'local function stir()',
      '  for key in pairs(names) do set("gate", "last", key .. math.random(1000)) end',
      '  fire("gate", math.random() < 0.5 and "raise" or "lower")',
      '  after(1.7, stir)',
      'end',
      'function startup() stir() end',
    ].join('\n');
    const inputs = plateMap([40, 0, 60], script);
    const walk = await recorded(inputs, (recorder, steps, world) => {
      let angle = 0;
      while (world.time < 600 && !world.ended) {
        angle += 0.7;
        const move: Vec3 = [Math.cos(angle), Math.sin(angle), 0];
        steps(45, { move, run: angle % 2 < 1, jump: angle % 3 < 1, look: move });
        recorder.act({ act: angle % 4 < 2 ? 'operate' : 'fling', look: move });
      }
    });
    expect(walk.hashes.length).toBeGreaterThan(590);
    expect(new Set(walk.hashes).size).toBeGreaterThan(500);
    expect(await playWalk(inputs, 'long', walk)).toMatchObject({ ok: true, exact: true });
  }, 120_000);
});

describe('the text of inputs', () => {
  const part = fc.integer({ min: -1000, max: 1000 });
  it('reads back as it was', () => {
    fc.assert(
      fc.property(
        fc.tuple(part, part, part),
        fc.tuple(part, part, part),
        fc.boolean(),
        fc.boolean(),
        fc.boolean(),
        (move, look, run, jump, crouch) => {
          const intent = roundIntent({ move: move.map((v) => v / 999) as Vec3, look: look.map((v) => v / 997) as Vec3, run, jump, crouch });
          expect(readInputs([`7 ${intentText(intent)}`])).toEqual([{ steps: 7, intent }]);
          const act = { act: 'operate' as const, look: intent.look! };
          expect(readInputs([actText(act), 'glide', 'lua say("x y")'])).toEqual([act, { act: 'glide' }, { act: 'lua', text: 'say("x y")' }]);
        },
      ),
    );
  });

  it.each([
    ['7 0 0'],
    ['x 0 0 0 - 1 0 0'],
    ['7 0 0 0 q 1 0 0'],
    ['7 0 NaN 0 - 1 0 0'],
    ['fling 1 2'],
    [''],
    ['7 0 0 0 - 1e9 0 0'],
    ['99999999 0 0 0 - 1 0 0'],
  ])('refuses "%s" with its line', (line) => {
    expect(() => readInputs(['1 0 0 0 - 1 0 0', line])).toThrow(/[Ll]ine 2/);
  });

  it('a walk of a day is refused', () => {
    expect(() => readInputs(['216000 0 0 0 - 1 0 0', '1 0 0 0 - 1 0 0'])).toThrow('216000 steps');
  });
});

describe('files of walks', () => {
  const walk: Walk = { format: 1, map: 'hall', inputs: [], marks: [], track: [], hashes: [], ended: null };

  it('are found by map, and refused where they are of another map or no walk at all', () => {
    const paths = ['walks/hall/b.walk.json', 'walks/hall/a.walk.json', 'walks/tower/c.walk.json', 'walks/hall/note.txt', 'maps/hall.map.json'];
    expect(walksAmong(paths, 'hall')).toEqual(['a', 'b']);
    expect(readWalk(JSON.stringify(walk), paths[0], 'hall')).toEqual(walk);
    expect(() => readWalk(JSON.stringify(walk), paths[0], 'tower')).toThrow('recorded in the map hall, not in tower');
    expect(() => readWalk('{"format":1}', paths[0], 'hall')).toThrow();
    expect(() => readWalk('[', paths[0], 'hall')).toThrow();
  });
});

describe('comparing', () => {
  const base = {
    marks: [
      [1, 'a'],
      [2, 'b'],
    ] as Walk['marks'],
    track: [
      [0, 0, 0],
      [10, 0, 0],
    ] as Vec3[],
    ended: 'won' as const,
  };
  it.each<[string, Partial<typeof base> | { ended: null }, string | null]>([
    ['the same', {}, null],
    [
      'another order',
      {
        marks: [
          [1, 'b'],
          [2, 'a'],
        ],
      },
      null,
    ],
    [
      'something more',
      {
        marks: [
          [1, 'a'],
          [1.5, 'c'],
          [2, 'b'],
        ],
      },
      '“c” happened',
    ],
    ['something less', { marks: [[1, 'a']] }, '“b” did not happen'],
    [
      'elsewhere',
      {
        track: [
          [0, 0, 0],
          [90, 0, 0],
        ],
      },
      'the player is at 90, 0, 0 and not at 10, 0, 0',
    ],
    ['another end', { ended: null }, 'nothing ended the run, where the run was won before'],
  ])('%s', (_name, change, message) => {
    const difference = compareWalks(base, { ...base, ...change }, 20);
    if (message === null) expect(difference).toBeNull();
    else expect(difference!.message).toContain(message);
  });

  it('what was done before the first step happened, too', () => {
    const first = { ...base, marks: [[0, 'pick up box']] as [number, string][] };
    expect(compareWalks(first, first, 20)).toBeNull();
    expect(compareWalks(first, { ...first, marks: [] }, 20)?.message).toBe('“pick up box” did not happen');
  });
});

describe('a walk as trial steps', () => {
  it('has the corners of its way and what was operated', () => {
    const track: Vec3[] = [];
    for (let x = 0; x <= 100; x += 10) track.push([x, 0, 0]);
    for (let y = 10; y <= 50; y += 10) track.push([100, y, 0]);
    expect(
      walkSteps({
        track,
        marks: [
          [2.5, 'use crank'],
          [3, 'gate.raised → x.y'],
        ],
      }),
    ).toEqual([{ walkTo: [100, 0, 0] }, { use: 'crank' }, { walkTo: [100, 50, 0] }]);
    expect(
      walkSteps({
        track: [
          [0, 0, 0],
          [0, 0, 0],
        ],
        marks: [],
      }),
    ).toEqual([]);
  });
});
