import { afterEach, expect, test } from '@jest/globals';
import type { GameMap, MapObject } from '../document/schema.ts';
import { newObject } from '../profile/newObject.ts';
import { testCollision } from '../testing/trial.ts';
import { runtimeMap } from '../stages/pack/runtime.ts';
import { recordsPath, writeTable } from '../table/document.ts';
import { talkPath, writeTalk, type TalkStep } from '../talk/document.ts';
import { testWorld } from '../testing/world.ts';
import { STILL } from './move.ts';
import { playWalk, Recorder } from './record.ts';
import { TIME_STEP, TrialWorld, type TrialInputs } from './world.ts';

const { profile, crate } = testWorld();
let world: TrialWorld;
afterEach(() => world?.stop());

const floor = crate.maps.hall.bands.b1.bottom;
const startOf = Object.values(crate.maps.hall.objects).find((object) => object.class === 'start')!.position;

function inputs(
  people: Record<string, Partial<MapObject>>,
  more: { sequences?: GameMap['sequences']; steps?: TalkStep[]; script?: string } = {},
): TrialInputs {
  const objects = Object.fromEntries(
    Object.entries(people).map(([id, { properties, ...rest }]) => {
      const one = newObject(profile, 'person', id, [startOf[0] + 60, startOf[1], floor]);
      return [id, { ...one, ...rest, properties: { ...one.properties, ...properties } }];
    }),
  );
  const map: GameMap = { ...crate.maps.hall, objects: { ...crate.maps.hall.objects, ...objects }, sequences: more.sequences ?? {} };
  const people_ = profile.tables!.find(({ id }) => id === 'people')!;
  const row = (id: string, wit: number, breath: number) => ({
    id,
    name: id,
    title: '',
    portrait: null,
    breath,
    wit,
    tide: 'any',
    party: ['riddle'],
    reward: 0,
    teacher: null,
  });
  return {
    profile,
    map: runtimeMap({ name: 'hall', map, scripts: { 'scripts/main.lua': '' }, models: {} }, {}),
    collision: testCollision(map.solids),
    scripts: { 'scripts/main.lua': more.script ?? 'function startup() end' },
    data: {
      [recordsPath('people')]: writeTable(people_, { format: 1, table: 'people', rows: [row('you', 20, 60), row('keeper', 1, 1)] }),
      [recordsPath('wits')]: '{"format":1,"table":"wits","rows":[{"id":"riddle","name":"R","power":4,"cost":0,"ways":[]}]}',
      [talkPath('keeper')]: writeTalk({ format: 1, title: 'Keeper', steps: more.steps ?? [] }),
    },
  };
}

const pass = (seconds: number): void => {
  for (let t = 0; t < seconds; t += TIME_STEP) world.step(STILL);
};
const placeOf = (name: string) => {
  const item = world.objects.named(name)!;
  return item.object.position.map((v, i) => v + item.pose.offset[i]);
};

test('a conversation is held, a contest is decided by its model, and a script is called and told', async () => {
  world = await TrialWorld.begin(
    inputs(
      { keeper: { properties: { record: 'keeper', talk: 'keeper' } } },
      {
        steps: [
          { depth: 0, do: 'say', who: 'keeper', text: 'Well?' },
          { depth: 0, do: 'contest', contest: 'wits', against: 'keeper', flag: 'bested', texts: { before: 'So.', won: 'Ah.', lost: 'Ha.' } },
          { depth: 1, do: 'won' },
          { depth: 2, do: 'call', function: 'open_up' },
          { depth: 0, do: 'choose' },
          { depth: 1, do: 'option', text: 'Bye.', test: { flag: 'seen', on: true } },
          { depth: 1, do: 'option', text: 'More.' },
        ],
        script: 'function open_up() say("opened " .. tostring(recall("bested"))) remember("seen") end',
      },
    ),
  );
  world.use(world.objects.named('keeper')!);
  expect(world.talking.now).toMatchObject({ who: 'keeper', text: 'Well?', answers: ['Go on'] });
  world.answer(0);
  expect(world.talking.now!.answers).toEqual(['Contend', 'Let it be won', 'Let it be lost']);
  // Wit 20 against 1 with a breath of 1 to take: the model lets the player win.
  world.answer(0);
  expect(world.talking.now!.answers).toEqual(['Bye.', 'More.']);
  expect(world.console.lines.map(({ text }) => text)).toEqual(expect.arrayContaining(['keeper: Ah.', 'opened true']));
  // The player stands while somebody talks.
  const feet = [...world.walker.feet];
  world.step({ move: [1, 0, 0], run: false, jump: false });
  expect(world.walker.feet.slice(0, 2)).toEqual(feet.slice(0, 2));
  world.answer(0);
  expect(world.talking.under).toBe(false);
});

test('a sequence walks people about, waits, and has somebody follow afterwards', async () => {
  const from = startOf;
  world = await TrialWorld.begin(
    inputs(
      { keeper: {} },
      {
        sequences: {
          q1: {
            name: 'along',
            starts: [],
            steps: [
              { who: 'keeper', do: 'walk', to: [from[0] + 60, from[1] + 60, floor], wait: true },
              { who: 'keeper', do: 'follow', whom: 'player', gap: 50, wait: false },
            ],
          },
        },
      },
    ),
  );
  expect(world.people.play('none')).toBe(false);
  expect(world.people.play('along')).toBe(true);
  let far = -Infinity;
  for (let n = 0; n < 90; n++) {
    world.step(STILL);
    far = Math.max(far, placeOf('keeper')[1]);
  }
  expect(far).toBeCloseTo(from[1] + 60, 3);
  expect(world.people.moving).toBe(false);
  for (let n = 0; n < 120; n++) world.step({ move: [-1, 0, 0], run: false, jump: false });
  pass(2);
  const [x, y] = placeOf('keeper');
  const [px, py] = world.walker.feet;
  expect(Math.hypot(x - px, y - py)).toBeLessThan(70);
});

test('the player is led by a sequence, and free again afterwards', async () => {
  const to: [number, number, number] = [startOf[0] - 40, startOf[1] + 20, floor];
  const steps = [
    { who: 'player', do: 'walk' as const, to, wait: false },
    { who: 'keeper', do: 'hide' as const, wait: false },
  ];
  world = await TrialWorld.begin(inputs({ keeper: {} }, { sequences: { q1: { name: 'led', starts: [], steps } } }));
  world.people.play('led');
  for (let n = 0; n < 60; n++) world.step({ move: [1, 0, 0], run: true, jump: false });
  expect(Math.hypot(world.walker.feet[0] - to[0], world.walker.feet[1] - to[1])).toBeLessThan(60);
  expect(world.people.leads).toBe(false);
  expect(world.objects.value(world.objects.named('keeper')!, 'hidden')).toBe(1);
  const [x] = world.walker.feet;
  for (let n = 0; n < 30; n++) world.step({ move: [1, 0, 0], run: false, jump: false });
  expect(world.walker.feet[0]).toBeGreaterThan(x + 20);
});

test('somebody sees the player within so many steps, by the rule of the game', async () => {
  world = await TrialWorld.begin(inputs({ keeper: { turn: 180, properties: { sight: 3, cone: 90 } } }));
  pass(0.1);
  expect(world.objects.value(world.objects.named('keeper')!, 'seeing')).toBe(1);
  world.put([startOf[0] + 160, startOf[1], floor + 1]);
  pass(0.1);
  // Behind their back.
  expect(world.objects.value(world.objects.named('keeper')!, 'seeing')).toBe(0);
});

test('who wanders keeps within the area, on the navmesh, and a run with people repeats to the bit', async () => {
  const given = inputs({ keeper: { properties: { moves: 'wanders', area: 40 } } });
  world = await TrialWorld.begin(given);
  const home = world.objects.named('keeper')!.object.position;
  const recorder = new Recorder(world);
  let far = 0;
  for (let n = 0; n < 60 * 20; n++) {
    recorder.step(STILL);
    const [x, y] = placeOf('keeper');
    far = Math.max(far, Math.hypot(x - home[0], y - home[1]));
  }
  expect(far).toBeGreaterThan(5);
  expect(far).toBeLessThan(60);
  expect(await playWalk(given, 'again', recorder.walk('hall'))).toMatchObject({ ok: true, exact: true });
});
