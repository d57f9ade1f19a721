import { expect, test } from '@jest/globals';
import type { GameMap, MapObject } from '../document/schema.ts';
import { emptyMap } from '../profile/emptyMap.ts';
import { newObject } from '../profile/newObject.ts';
import type { CollisionGround } from '../stages/pack/collisionBin.ts';
import { runtimeMap } from '../stages/pack/runtime.ts';
import { recordsPath } from '../table/document.ts';
import { testProfile } from '../testing/world.ts';
import { STILL, type Intent } from './move.ts';
import { runRace } from './raceTrial.ts';
import { TIME_STEP, TrialWorld, type TrialInputs } from './world.ts';

const profile = testProfile('skarrow');
const BRAKED: Intent = { ...STILL, move: [-1, 0, 0] };
const AHEAD: Intent = { ...STILL, move: [1, 0, 0] };

const FLAT: CollisionGround = {
  id: 't1',
  nx: 81,
  ny: 41,
  origin: [-60, -80],
  spacing: 4,
  heights: new Float32Array(81 * 41),
  covers: new Uint8Array(81 * 41),
  feels: [''],
  things: new Float64Array(0),
};

/** A straight of 120 m down a gale, the player's sled, and one for every rider, side by side. */
function straight(riders: Record<string, { nerve: number; kite: number; weight: number }>): TrialInputs {
  const one = (type: string, name: string, at: [number, number, number], properties: MapObject['properties'] = {}) => {
    const object = newObject(profile, type, name, at);
    return { ...object, properties: { ...object.properties, ...properties } };
  };
  const gate: MapObject['properties'] = { size: [3, 60, 6] };
  const objects: Record<string, MapObject> = {
    o1: one('start_gate', 'start', [4, 0, 0], gate),
    o2: one('checkpoint', 'half', [60, 0, 0], gate),
    o3: one('finish', 'finish', [120, 0, 0], gate),
    o4: one('sled', 'mine', [0, 0, 0.1], { ridden: true }),
  };
  Object.keys(riders).forEach((rider, n) => (objects[`o${n + 5}`] = one('sled', `sled_${rider}`, [0, 6 * (n + 1), 0.1], { rider })));
  const base = emptyMap(profile);
  const map: GameMap = {
    ...base,
    objects,
    routes: { r1: { name: 'Straight', start: 'o1', stops: ['o2'], finish: 'o3', laps: 1, width: 20, points: [[4, 0, 0], [60, 0, 0], [120, 0, 0]], branches: [] } }, // prettier-ignore
    settings: { ...base.settings, weather: { ...base.settings.weather!, wind: 16, windFrom: 180, gusts: 0 } },
  };
  const kit = Object.entries(riders).map(([id, { kite }]) => ({ id, name: id, mass: 0, kite, grip: 0 }));
  const racers = Object.entries(riders).map(([id, { nerve, weight }]) => ({
    id,
    name: id.toUpperCase(),
    temper: 'steady',
    nerve,
    weight,
    kit: [id],
  }));
  return {
    profile,
    map: runtimeMap({ name: 'straight', map, scripts: {}, models: {} }, {}),
    collision: { solids: [], grounds: [FLAT] },
    scripts: {},
    data: {
      [recordsPath('kit')]: JSON.stringify({ format: 1, table: 'kit', rows: kit }),
      [recordsPath('racers')]: JSON.stringify({ format: 1, table: 'racers', rows: racers }),
    },
  };
}

const FIELD = { orm: { nerve: 1, kite: 6, weight: 60 }, runa: { nerve: 1, kite: -3, weight: 160 } };

test('riders wait for the player, ride each as their kit lets them, and the standings are in their order', async () => {
  const world = await TrialWorld.begin(straight(FIELD), {});
  const place = (id: string) => world.vehicles.get(id)!.state.at[0];
  for (let n = 0; n < 60; n++) world.step(BRAKED);
  expect([place('o5'), place('o6')].map(Math.round)).toEqual([0, 0]);
  expect(world.rivals.standings().map(({ time }) => time)).toEqual([null, null, null]);
  for (let n = 0; n < 40 / TIME_STEP && !world.race!.finished; n++) world.step(AHEAD);
  const standings = world.rivals.standings();
  const times = standings.map(({ time }) => time ?? Infinity);
  expect(Math.min(...times)).toBeLessThan(40);
  expect(times).toEqual([...times].sort((a, b) => a - b));
  // A larger kite with less to pull.
  expect(standings.findIndex(({ name }) => name === 'ORM')).toBeLessThan(standings.findIndex(({ name }) => name === 'RUNA'));
  expect(standings.filter(({ own }) => own)).toHaveLength(1);
  world.stop();
});

test('nobody takes a sled that somebody rides, and one taken out of the map is out of the race', async () => {
  const inputs = straight(FIELD);
  const { ridden: _, ...walked } = inputs.map.objects.o4.properties;
  inputs.map.objects.o4 = { ...inputs.map.objects.o4, properties: walked, position: [0, -20, 0.1] };
  inputs.map.objects.o5 = { ...inputs.map.objects.o5, position: [1, 0, 0.1] };
  const world = await TrialWorld.begin(inputs, {});
  world.step(STILL);
  expect(world.rivals.rides('o5')).toBe(true);
  world.edit({ objects: { o5: null }, solids: {}, signals: null, paths: null, models: {}, bodies: {}, left: [] });
  expect(world.rivals.standings().map(({ name }) => name).sort()).toEqual(['RUNA', 'You']); // prettier-ignore
  world.stop();
});

test('a race without a screen tells the standings, the same ones each time', async () => {
  const race = () => runRace(straight(FIELD), { seed: 3, veer: 0, factor: 1 });
  const [first, second] = [await race(), await race()];
  expect(first.finished).toBe(true);
  expect(first.standings).toEqual(second.standings);
  expect(first.standings!.find(({ name }) => name === 'You')!.time).toBeCloseTo(first.seconds, 1);
  // Alone there is nobody to stand before or behind.
  expect((await runRace(straight({}), { seed: 3, veer: 0, factor: 1 })).standings).toBeUndefined();
});

test('a sled for somebody whose formula fails stands there, and it is said why', async () => {
  const inputs = straight({ orm: FIELD.orm });
  inputs.profile = { ...profile, riders: { ...profile.riders!, nerve: 'nerves' } };
  const world = await TrialWorld.begin(inputs, {});
  world.step(AHEAD);
  expect(world.rivals.any).toBe(false);
  expect(world.console.since(0).map(({ text }) => text)).toContain('ORM cannot ride: Racers has no column "nerves".');
  world.stop();
});
