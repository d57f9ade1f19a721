/** Moods: sky, sun and moon by published examples; going over from one to another; what a build and a run make of them. */

import { afterEach, expect, test } from '@jest/globals';
import type { GameMap, Mood } from '../document/schema.ts';
import { hexOfLinear } from '../math/srgb.ts';
import { moonPlace } from '../sky/moon.ts';
import { block } from '../solid/primitives.ts';
import { parametersOf } from '../stages/contract/parameters.ts';
import { stageInputs } from '../stages/inputs.ts';
import { codesOf, hall, made, object, profile, withChanges } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { trialInputs } from '../testing/trial.ts';
import { TIME_STEP, TrialWorld } from '../trial/world.ts';
import { blendMoods } from './blend.ts';
import { airMass, inMood, lightOfMood } from './light.ts';

const NOON: Mood = {
  name: 'Noon',
  hour: 12,
  skyColour: '#6688cc',
  horizonColour: '#dde4ee',
  skyIntensity: 1,
  clouds: 0,
  sunIntensity: 3,
  moonIntensity: 0.1,
  fogColour: '#ffffff',
  fog: 0,
  fogHeight: 0,
  windFrom: 350,
  wind: 10,
  gusts: 0,
  falling: 'none',
  heavy: 0,
  exposure: 1,
};
const NIGHT: Mood = {
  ...NOON,
  name: 'Night',
  hour: 22,
  windFrom: 30,
  wind: 20,
  fog: 100,
  falling: 'rain',
  heavy: 0.8,
  exposure: 4,
  skyColour: '#000000',
};

test('the moon of 12 April 1992, 0h: Meeus, Astronomical Algorithms, example 47.a, and its lit share by 48.a', () => {
  const { longitude, latitude, lit } = moonPlace(Date.UTC(1992, 3, 12));
  expect(Math.abs(longitude - 133.162655)).toBeLessThan(0.1);
  expect(Math.abs(latitude - -3.229126)).toBeLessThan(0.05);
  expect(Math.abs(lit - 0.6786)).toBeLessThan(0.005);
});

test('air masses are those of Kasten and Young (1989), table II (its values from memory)', () => {
  expect(airMass(90)).toBeCloseTo(1, 2);
  expect(airMass(30)).toBeCloseTo(1.9943, 2);
  expect(airMass(10)).toBeCloseTo(5.586, 1);
  expect(airMass(0)).toBeCloseTo(37.92, 0);
});

test('at midsummer noon the sun stands as high as latitude and tilt have it, reddens as it sinks, and leaves the moon at night', () => {
  const place = { latitude: 52, day: '2024-06-21' };
  const noon = lightOfMood(NOON, place);
  expect(noon.sunHeight).toBeCloseTo(90 - 52 + 23.44, 0);
  // North is +y: at noon it shines from the south.
  expect(noon.sun!.towards[1]).toBeLessThan(-0.4);
  const low = lightOfMood({ ...NOON, hour: 19.5 }, place);
  expect(low.sun!.intensity).toBeLessThan(noon.sun!.intensity);
  expect(low.sun!.colour[2]).toBeLessThan(noon.sun!.colour[2]);
  expect(lightOfMood({ ...NOON, clouds: 1 }, place).sun!.intensity).toBeLessThan(noon.sun!.intensity * 0.1);
  const full = lightOfMood({ ...NOON, hour: 0.5 }, { latitude: 52, day: '2024-01-26' });
  expect(full.sun).toBeNull();
  expect(full.moon!.towards[2]).toBeGreaterThan(0.3);
  expect(full.day).toBe(0);
});

test('between two moods light is mixed as light, angles and hours go the shorter way, fog by its density', () => {
  const half = blendMoods(NOON, NIGHT, 0.5);
  expect(half.hour).toBe(17);
  expect(blendMoods({ ...NOON, hour: 23 }, { ...NOON, hour: 1 }, 0.5).hour).toBe(0);
  expect(half.windFrom).toBeCloseTo(10, 9);
  expect(half.wind).toBe(15);
  expect(half.fog).toBe(200);
  expect(half.exposure).toBeCloseTo(2, 9);
  expect([half.falling, half.heavy]).toEqual(['rain', 0.4]);
  expect(blendMoods({ ...NOON, skyColour: '#000000' }, { ...NOON, skyColour: '#ffffff' }, 0.5).skyColour).toBe(hexOfLinear([0.5, 0.5, 0.5]));
  expect(blendMoods(NOON, NIGHT, 0)).toBe(NOON);
  expect(blendMoods(NOON, NIGHT, 1)).toBe(NIGHT);
});

const withMoods = (map: GameMap, moods: Mood[]): GameMap => ({ ...map, settings: { ...map.settings, moods } });

test('a build lights the first mood, or the one that is asked for, on the same walls and rays', () => {
  const world = testWorld();
  const sunny = withChanges(hall(), object('sun', 'sun', 'sun', [0, 0, 40]));
  const inputs = (map: GameMap, mood = 1) =>
    stageInputs({ ...world, crate: { ...world.crate, maps: { hall: map } } }, 'hall', parametersOf('draft', profile, { mood }));
  const plain = inputs(sunny);
  const first = inputs(withMoods(sunny, [NOON, NIGHT]));
  const second = inputs(withMoods(sunny, [NOON, NIGHT]), 2);
  expect(first.lighting.sky).not.toEqual(plain.lighting.sky);
  expect(second.lighting.sky).not.toEqual(first.lighting.sky);
  expect(second.lighting.lights).not.toEqual(first.lighting.lights);
  for (const stage of ['geometry', 'sealing', 'visibility', 'navigation'] as const) expect(second[stage]).toEqual(first[stage]);
  expect(inMood(profile, sunny, 0)).toBe(sunny);
});

let run: TrialWorld | null = null;
afterEach(() => run?.stop());

test('a signal lets the map go over: wind and what is seen follow, and from the middle of one change to another', async () => {
  const floor = block({ min: [-256, -256, -16], max: [256, 256, 0] }, 'brick');
  const objects = {
    start: made('start', 'start', [0, 0, 2]),
    w: made('weather', 'weather', [0, 0, 40], { mood: 'Night', seconds: 4 }),
    t: made('timer', 'clock', [0, 0, 40], { seconds: 1, running: true }),
    r: made('relay', 'relay', [0, 0, 50]),
  };
  const signals = {
    g0: { from: 't', event: 'elapsed', to: { object: 'w', action: 'change' }, delay: 0 },
    g1: { from: 'w', event: 'changed', to: { object: 'r', action: 'close' }, delay: 0 },
    g2: { from: 'r', event: 'passed', to: { object: 'w', action: 'change' }, delay: 0, value: 'Noon' },
  };
  const given = trialInputs([floor], objects, signals, 'function startup() after(8, function() fire("relay", "open") fire("relay", "pass") end) end');
  given.map.settings = { ...given.map.settings, moods: [NOON, NIGHT] };
  run = await TrialWorld.begin(given);
  const world = run;
  const seconds = (time: number) => {
    for (let i = 0; i < Math.round(time / TIME_STEP); i++) world.step({ move: [0, 0, 0], run: false, jump: false });
  };
  const speed = () => Math.hypot(...world.wind.at(world.time));
  expect(world.moods.now).toBe(NOON);
  expect(speed()).toBeCloseTo(10, 6);
  seconds(3);
  expect(world.moods.now!.wind).toBeCloseTo(15, 0);
  expect(speed()).toBeCloseTo(world.moods.now!.wind, 6);
  seconds(3);
  expect(world.moods.now).toBe(NIGHT);
  expect(world.objects.value(world.objects.named('relay')!, 'open')).toBe(0);
  seconds(8);
  expect(world.moods.now).toBe(NOON);
});

test('what is wrong with moods is found', () => {
  const sunless = withMoods(hall(), [NOON, NOON]);
  expect(codesOf(sunless)).toEqual(expect.arrayContaining(['mood-name', 'mood-sun']));
  const lost = withChanges(withMoods(hall(), [NOON]), object('w', 'weather', 'weather', [0, 0, 40], { mood: 'Storm' }));
  expect(codesOf(lost)).toContain('mood-missing');
  const none = withChanges(withMoods(hall(), [NOON]), object('w', 'weather', 'weather', [0, 0, 40]));
  expect(codesOf(none)).toContain('mood-empty');
  const day = { ...hall(), settings: { ...hall().settings, moods: [NOON], place: { latitude: 10, day: '2024-02-31' } } };
  expect(codesOf(day)).toContain('mood-day');
});
