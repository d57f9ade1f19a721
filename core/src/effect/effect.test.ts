/** Effects against what mechanics, statistics and optics say of them. */

import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { decay, cosineOfTurns, sineOfTurns } from '../math/exact.ts';
import type { Vec3 } from '../math/vec3.ts';
import { loadProfile } from '../profile/load.ts';
import { UnreadableInput } from '../unreadable.ts';
import { costOf, effectFindings } from './cost.ts';
import { curl } from './curl.ts';
import { curveArea, curveAt, gradientAt } from './curve.ts';
import { newEffect, newEmitter, readEffect, writeEffect, type Effect, type Emitter } from './document.ts';
import { columnsFor, EmitterLook } from './look.ts';
import { EFFECT_STEP, EffectPlay, type Air, type Stand } from './play.ts';
import { worstPlace } from './worst.ts';

const STAND: Stand = { position: [0, 0, 0], turn: 0 };
const STILL: Air = { gravity: 9.81, wind: [0, 0, 0] };
const VIEWER = { eyeHeight: 1.6, radius: 0.35, gravity: 9.81 };

const withEmitter = (change: Partial<Emitter>, more: Partial<Effect> = {}): Effect => {
  const effect = newEffect('Test', 0.1);
  return { ...effect, ...more, emitters: [{ ...effect.emitters[0], ...change }] };
};
/** One particle, thrown with one speed. */
const oneShot = (change: Partial<Emitter>): Effect =>
  withEmitter(
    { rate: [[0, 0]], bursts: [{ at: 0, count: 1, times: 1, every: 1 }], spread: 0, life: [30, 30], ...change },
    { seconds: 60, loop: false },
  );

function played(effect: Effect, steps: number, stand = STAND, air = STILL): EffectPlay {
  const play = new EffectPlay(effect);
  for (let i = 0; i < steps; i++) play.step(stand, air);
  return play;
}

const profileOf = (game: string) => {
  const file = new URL(`../../profiles/${game}.json`, import.meta.url);
  return loadProfile(readFileSync(file, 'utf8'), file.pathname);
};

test('exponentials, sines and cosines are those of the platform, to more digits than a screen shows', () => {
  for (const x of [0, 1e-6, 0.01, 0.3, 1, 5, 29]) expect(Math.abs(decay(x) / Math.exp(-x) - 1)).toBeLessThan(1e-12);
  expect(decay(1000)).toBe(0);
  for (let turns = -2; turns < 2; turns += 0.0371) {
    expect(Math.abs(sineOfTurns(turns) - Math.sin(turns * 2 * Math.PI))).toBeLessThan(1e-12);
    expect(Math.abs(cosineOfTurns(turns) - Math.cos(turns * 2 * Math.PI))).toBeLessThan(1e-12);
  }
});

test('a thrown particle goes the parabola: z = v t − g t²/2 (common textbook)', () => {
  const play = played(oneShot({ direction: [3, 0, 4], speed: [10, 10], forces: { gravity: 1, drag: 0, wind: 0 } }), 61);
  const [pool] = play.pools;
  expect(pool.count).toBe(1);
  // Born in the first step: sixty have moved it.
  expect(pool.x[0]).toBeCloseTo(6, 9);
  expect(pool.z[0]).toBeCloseTo(8 - 9.81 / 2, 9);
  expect(pool.vz[0]).toBeCloseTo(8 - 9.81, 9);
});

test('with linear drag it comes to rest in the wind as the closed form has it, and falls at g/k in the end', () => {
  const [k, wind, time] = [0.8, 5, 2];
  const effect = oneShot({ direction: [1, 0, 0], speed: [10, 10], forces: { gravity: 1, drag: k, wind: 1 } });
  const [pool] = played(effect, time * 60 + 1, STAND, { gravity: 9.81, wind: [wind, 0, 0] }).pools;
  const e = Math.exp(-k * time);
  expect(pool.vx[0]).toBeCloseTo(wind + (10 - wind) * e, 9);
  expect(pool.x[0]).toBeCloseTo(wind * time + ((10 - wind) * (1 - e)) / k, 9);
  const fall = -9.81 / k;
  expect(pool.vz[0]).toBeCloseTo(fall * (1 - e), 9);
  expect(pool.z[0]).toBeCloseTo(fall * time - (fall * (1 - e)) / k, 9);
  const [late] = played(effect, 1500, STAND, { gravity: 9.81, wind: [wind, 0, 0] }).pools;
  expect(late.vz[0]).toBeCloseTo(fall, 6);
});

test('the air of turbulence gathers nowhere: its divergence is nothing within the error of differences', () => {
  const flow = new Float64Array(3);
  const at = (x: number, y: number, z: number) => (curl(x, y, z, flow), [...flow]);
  const h = 1e-4;
  let [worst, square] = [0, 0];
  for (let n = 0; n < 400; n++) {
    const [x, y, z] = [Math.sin(n) * 9, Math.cos(n * 1.7) * 9, n * 0.071];
    const divergence =
      (at(x + h, y, z)[0] - at(x - h, y, z)[0] + at(x, y + h, z)[1] - at(x, y - h, z)[1] + at(x, y, z + h)[2] - at(x, y, z - h)[2]) / (2 * h);
    worst = Math.max(worst, Math.abs(divergence));
    square += at(x, y, z).reduce((sum, v) => sum + v * v, 0) / 400;
  }
  expect(worst).toBeLessThan(2e-5);
  // It is no still air either.
  expect(square).toBeGreaterThan(0.1);
});

test('colours are mixed in linear light: half of black and white is 188 of 255 in sRGB (IEC 61966-2-1)', () => {
  const gradient = [
    { at: 0, colour: '#000000', alpha: 0 },
    { at: 1, colour: '#ffffff', alpha: 1 },
  ];
  const [r, , , a] = gradientAt(gradient, 0.5);
  expect(r).toBeCloseTo(0.5, 9);
  expect(a).toBeCloseTo(0.5, 9);
  expect(Math.round((1.055 * r ** (1 / 2.4) - 0.055) * 255)).toBe(188);
});

test('curves go straight between keys and stay outside them; their area is exact', () => {
  const curve: [number, number][] = [
    [0.2, 10],
    [0.6, 30],
  ];
  expect([0, 0.2, 0.4, 0.6, 1].map((t) => curveAt(curve, t))).toEqual([10, 10, 20, 30, 30]);
  expect(curveArea(curve)).toBeCloseTo(0.2 * 10 + 0.4 * 20 + 0.4 * 30, 12);
});

test('a rate gives as many births as lie below its curve, and bursts come when they are due', () => {
  const effect = withEmitter(
    {
      rate: [
        [0, 0],
        [1, 60],
      ],
      bursts: [{ at: 0.5, count: 7, times: 3, every: 0.25 }],
      most: 500,
      life: [50, 50],
    },
    { seconds: 2, loop: false },
  );
  expect(Math.abs(played(effect, 200).pools[0].born - (60 + 21))).toBeLessThanOrEqual(1);
  expect(played(effect, 30).pools[0].born).toBeLessThan(8);
  expect(played(effect, 32).pools[0].born).toBeGreaterThanOrEqual(7);
});

test.each([
  ['sphere', { shape: 'sphere', radius: 2, shell: false }, (p: Vec3) => Math.hypot(...p) / 2, (share: number) => share ** 3],
  ['shell', { shape: 'sphere', radius: 2, shell: true }, (p: Vec3) => (p[2] / 2 + 1) / 2, (share: number) => share],
  ['box', { shape: 'box', size: [4, 2, 6] }, (p: Vec3) => p[2] / 6 + 0.5, (share: number) => share],
  [
    'path',
    {
      shape: 'path',
      points: [
        [0, 0, 0],
        [1, 0, 0],
        [4, 0, 0],
      ],
    },
    (p: Vec3) => p[0] / 4,
    (share: number) => share,
  ],
] as const)('births fill a %s evenly (Kolmogorov–Smirnov at 0.1 %%)', (_, from, measure, expected) => {
  const count = 2000;
  const effect = oneShot({
    from: from as Emitter['from'],
    most: count,
    bursts: [{ at: 0, count, times: 1, every: 1 }],
    speed: [0, 0],
  });
  const [pool] = played(effect, 1).pools;
  const sorted = Array.from({ length: count }, (_, i) => expected(measure([pool.x[i], pool.y[i], pool.z[i]]))).sort((a, b) => a - b);
  const farthest = Math.max(...sorted.map((value, i) => Math.max(Math.abs(value - i / count), Math.abs(value - (i + 1) / count))));
  // 1.95/√n, from tables of the test.
  expect(farthest).toBeLessThan(1.95 / Math.sqrt(count));
});

test('births lie on the surface of a model, as many as there is area', () => {
  // A square of 1 × 1 at z = 0 and one of 3 × 1 at z = 5.
  const square = (w: number, z: number) => [0, 0, z, w, 0, z, w, 1, z, 0, 0, z, w, 1, z, 0, 1, z];
  const mesh = Float32Array.from([...square(1, 0), ...square(3, 5)]);
  const count = 4000;
  const effect = oneShot({
    from: { shape: 'model', model: 'models/x.glb' },
    most: count,
    bursts: [{ at: 0, count, times: 1, every: 1 }],
    speed: [0, 0],
  });
  const play = new EffectPlay(effect, 0, () => mesh);
  play.step(STAND, STILL);
  const [pool] = play.pools;
  const high = pool.z.subarray(0, count).filter((z) => Math.abs(z - 5) < 1e-9).length;
  expect(Math.abs(high / count - 0.75)).toBeLessThan(0.03);
  expect([...pool.z.subarray(0, count)].every((z) => Math.min(Math.abs(z), Math.abs(z - 5)) < 1e-9)).toBe(true);
});

test('what touches the plane bounces with its share of speed, or dies and leaves children', () => {
  const ground = { against: 'plane' as const, height: -2, bounce: 0.5, friction: 0, dies: false };
  const drop = oneShot({ speed: [0, 0], forces: { gravity: 1, drag: 0, wind: 0 }, ground });
  const play = new EffectPlay(drop);
  let highest = -Infinity;
  let touched = false;
  for (let i = 0; i < 120; i++) {
    play.step(STAND, STILL);
    const [z, vz] = [play.pools[0].z[0], play.pools[0].vz[0]];
    touched ||= vz > 0;
    if (touched && vz <= 0) {
      highest = z;
      break;
    }
  }
  // Half the speed comes back, a quarter of the height: 0.5 of 2 above the plane, but for a step.
  expect(highest).toBeGreaterThan(-2 + 0.4);
  expect(highest).toBeLessThan(-2 + 0.6);
  const child = { ...newEmitter('Splash', 0.1), rate: [[0, 0] as [number, number]] };
  const parent = {
    ...drop.emitters[0],
    ground: { ...ground, dies: true },
    children: { emitter: 'Splash', when: 'touch' as const, count: 5, inherit: 0 },
  };
  const splashed = played({ ...drop, emitters: [parent, child] }, 60);
  expect(splashed.pools.map(({ count }) => count)).toEqual([0, 5]);
  expect(splashed.pools[1].z[0]).toBeGreaterThanOrEqual(-2);
});

test('what falls stops on what the map has below it', () => {
  const ground = { against: 'depth' as const, height: 0, bounce: 0, friction: 1, dies: false };
  const effect = oneShot({ speed: [0, 0], forces: { gravity: 1, drag: 0, wind: 0 }, ground });
  const table = (x: number) => (x < 50 ? -1 : null);
  const on = played(effect, 120, STAND, { ...STILL, below: table });
  expect(on.pools[0].z[0]).toBeCloseTo(-1, 6);
  const beside = played(effect, 120, { position: [100, 0, 0], turn: 0 }, { ...STILL, below: table });
  expect(beside.pools[0].z[0]).toBeLessThan(-10);
});

test('turned objects throw where they look, and what goes along does', () => {
  const shot = { direction: [1, 0, 0] as Vec3, speed: [3, 3] as [number, number], forces: { gravity: 0, drag: 0, wind: 0 } };
  const inMap = played(oneShot(shot), 61, { position: [10, 0, 0], turn: 90 });
  expect(inMap.pools[0].x[0]).toBeCloseTo(10, 6);
  expect(inMap.pools[0].y[0]).toBeCloseTo(3, 6);
  const along = played(oneShot({ ...shot, frame: 'object' }), 61, { position: [10, 0, 0], turn: 90 });
  expect([along.pools[0].x[0], along.pools[0].y[0]].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([3, 0]);
});

test('stops, begins anew, and bursts when it is told to', () => {
  const play = new EffectPlay(withEmitter({ rate: [[0, 60]], life: [0.5, 0.5] }), 0, () => null, false);
  play.step(STAND, STILL);
  expect(play.particles).toBe(0);
  play.start();
  for (let i = 0; i < 60; i++) play.step(STAND, STILL);
  expect(play.particles).toBeGreaterThan(25);
  play.stop();
  for (let i = 0; i < 40; i++) play.step(STAND, STILL);
  expect(play.particles).toBe(0);
  play.burst();
  play.step(STAND, STILL);
  expect(play.particles).toBe(6);
});

test('a state kept is gone on from to the bit, and another object of the same effect is another dance', () => {
  const effect = profileOf('brinewick').effects!.templates.find(({ id }) => id === 'smoke')!.effect;
  const straight = played(effect, 240);
  const first = played(effect, 100);
  const second = new EffectPlay(effect);
  second.restore(first.keep());
  for (let i = 0; i < 140; i++) second.step(STAND, STILL);
  expect(second.hash()).toBe(straight.hash());
  const other = new EffectPlay(effect, 5);
  for (let i = 0; i < 240; i++) other.step(STAND, STILL);
  expect(other.hash()).not.toBe(straight.hash());
});

test('columns for drawing hold what lives: size by its curve, colour by its gradient', () => {
  const effect = oneShot({
    life: [1, 1],
    speed: [0, 0],
    size: {
      from: [2, 2],
      over: [
        [0, 1],
        [1, 3],
      ],
    },
    colour: [
      { at: 0, colour: '#ff0000', alpha: 1 },
      { at: 1, colour: '#ff0000', alpha: 0 },
    ],
  });
  const play = played(effect, 31);
  const columns = columnsFor(1);
  expect(new EmitterLook(effect.emitters[0]).fill(play.pools[0], play.seedOf(0), columns)).toBe(1);
  expect(columns.shape[0]).toBeCloseTo(4, 1);
  expect([...columns.colour.subarray(0, 3)]).toEqual([1, 0, 0]);
  expect(columns.colour[3]).toBeCloseTo(0.5, 1);
});

test.each(['brinewick', 'skarrow'])('the templates of %s are read, keep to their budget, and cost what is measured', (game) => {
  const profile = profileOf(game);
  for (const { effect } of profile.effects!.templates) {
    expect(readEffect(writeEffect(effect), 'x')).toEqual(effect);
    const cost = costOf(effect, profile.player);
    expect(cost.particles).toBeGreaterThan(0);
    expect(effectFindings(effect, cost, profile.effects, {})).toEqual([]);
  }
});

const effectText = (change: (emitters: Record<string, unknown>[]) => void): string => {
  const effect = JSON.parse(writeEffect(newEffect('Bad', 1))) as { emitters: Record<string, unknown>[] };
  change(effect.emitters);
  return JSON.stringify(effect);
};
const second = { ...newEmitter('Second', 1) };

test.each([
  ['an emitter of ten million', effectText(([one]) => (one.most = 10_000_000)), /emitter 1, most: .*100000/],
  ['a burst of ten million', effectText(([one]) => (one.bursts = [{ at: 0, count: 1e7, times: 1, every: 1 }])), /emitter 1, bursts 0 count/],
  ['not a number in a curve', effectText(() => {}).replace('[[0,40]]', '[[0,NaN]]'), /not valid JSON/],
  ['infinity in a curve', effectText(() => {}).replace('[[0,40]]', '[[0,1e999]]'), /rate/],
  [
    'keys in no order',
    effectText(
      ([one]) =>
        (one.rate = [
          [0.5, 1],
          [0, 2],
        ]),
    ),
    /keys of its rate/,
  ],
  ['a range upside down', effectText(([one]) => (one.life = [3, 1])), /life goes from 3 to 1/],
  [
    'children of themselves',
    effectText((all) => (all[0].children = { emitter: 'Main', when: 'death', count: 2, inherit: 0 })),
    /without end: Main → Main/,
  ],
  [
    'children in a circle',
    effectText((all) => {
      all[0].children = { emitter: 'Second', when: 'death', count: 1, inherit: 0 };
      all.push({ ...second, children: { emitter: 'Main', when: 'death', count: 1, inherit: 0 } });
    }),
    /Main → Second → Main/,
  ],
  [
    'children that are not there',
    effectText((all) => (all[0].children = { emitter: 'Nobody', when: 'death', count: 1, inherit: 0 })),
    /"Nobody", which there is not/,
  ],
  ['two of a name', effectText((all) => all.push({ ...second, name: 'Main' })), /two emitters are called "Main"/],
])('refuses %s, and says where', (_, text, words) => {
  expect(() => readEffect(text, 'effects/bad.effect.json')).toThrow(UnreadableInput);
  expect(() => readEffect(text, 'effects/bad.effect.json')).toThrow(words);
});

test('what costs too much is told with the emitter that does it, within bounded time', () => {
  const effect = withEmitter(
    { most: 100_000, rate: [[0, 100_000]], life: [2, 2], size: { from: [3, 3], over: [[0, 1]] }, forces: { gravity: 0, drag: 0, wind: 1 } },
    { seconds: 60 },
  );
  const cost = costOf(effect, VIEWER);
  expect(cost.measured).toBeLessThan(10);
  const codes = effectFindings(effect, cost, { particles: 1000, overdraw: 10, screens: 4, bytes: 1 << 20 }, {}).map(({ code }) => code);
  expect(codes).toEqual(['effect-particles', 'effect-fill', 'effect-overdraw', 'effect-memory', 'effect-full', 'effect-drag']);
});

test('one square that fills half of the picture is counted as half a picture, three of them as three layers', () => {
  // 60° upright: at a distance d the picture is 2·d·tan 30° high.
  const half = 2 * 3 * Math.tan(Math.PI / 6);
  const still = (count: number) =>
    oneShot({
      most: count,
      bursts: [{ at: 0, count, times: 1, every: 1 }],
      at: [3 - 0.7, 0, 1.6],
      speed: [0, 0],
      size: { from: [half, half], over: [[0, 1]] },
      forces: { gravity: 0, drag: 0, wind: 0 },
    });
  const one = costOf(still(1), VIEWER);
  expect(one.screens).toBeCloseTo(9 / 16, 2);
  expect(costOf(still(3), VIEWER).overdraw / one.overdraw).toBeCloseTo(3, 1);
});

test('the worst place of a map is beside the effects that stand together, unless a wall hides one', () => {
  const puff = withEmitter({ most: 50, rate: [[0, 60]], size: { from: [0.5, 0.5], over: [[0, 1]] } });
  const at = (name: string, x: number) => ({ name, effect: puff, position: [x, 0, 0] as Vec3, turn: 0 });
  const placed = [at('alone', 100), at('left', 0), at('right', 1)];
  const open = worstPlace(placed, VIEWER, () => true)!;
  expect(open.of.map(({ name }) => name).sort()).toEqual(['left', 'right']);
  expect(Math.abs(open.eye[0])).toBeLessThan(3);
  const walled = worstPlace(placed, VIEWER, (from, to) => from[0] < 0.5 === to[0] < 0.5)!;
  expect(walled.screens).toBeLessThan(open.screens);
  expect(worstPlace([], VIEWER, () => true)).toBeNull();
});

test('two thousand steps of a template are the same to the bit when they are played again', () => {
  for (const { effect } of profileOf('skarrow').effects!.templates.slice(0, 3)) {
    const hash = (steps = 2000) => played(effect, steps, STAND, { gravity: 9.81, wind: [3, 1, 0] }).hash();
    expect(hash()).toBe(hash());
    // It is of what there is to see, which half a second in is another than at the end.
    expect(hash(30)).not.toBe(hash());
  }
  expect(EFFECT_STEP).toBe(1 / 60);
});
