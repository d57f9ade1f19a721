/** Effects as objects of a run: started, stopped, told to burst; and what is found of them in a map. */

import { afterEach, expect, test } from '@jest/globals';
import { checkPlacedEffects } from '../check/checkEffects.ts';
import { effectPath, writeEffect } from '../effect/document.ts';
import { block } from '../solid/primitives.ts';
import { codesOf, hall, made, object, profile, withChanges } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { trialInputs } from '../testing/trial.ts';
import { TIME_STEP, TrialWorld } from './world.ts';

const FLOOR = block({ min: [-256, -256, -16], max: [256, 256, 0] }, 'brick');
const template = (id: string) => profile.effects!.templates.find((one) => one.id === id)!.effect;
const data = { [effectPath('sparks')]: writeEffect(template('sparks')), [effectPath('smoke')]: writeEffect(template('smoke')) };

let world: TrialWorld;
afterEach(() => world?.stop());

async function begin(effect: string, running: boolean, script: string) {
  const objects = {
    start: made('start', 'start', [0, 0, 2]),
    fx: made('effect', 'fx', [0, 0, 40], { effect, running }),
    r: made('relay', 'relay', [0, 0, 50]),
  };
  const signals = { g0: { from: 'fx', event: 'ended', to: { object: 'r', action: 'close' }, delay: 0 } };
  world = await TrialWorld.begin({ ...trialInputs([FLOOR], objects, signals, script), data });
}
const run = (seconds: number) => {
  for (let i = 0; i < Math.round(seconds / TIME_STEP); i++) world.step({ move: [0, 0, 0], run: false, jump: false });
};
const of = (name: string, property: string) => world.objects.value(world.objects.named(name)!, property);

test('one that does not go round and round ends by itself, and says so', async () => {
  await begin('sparks', false, 'function startup() fire("fx", "start") end');
  expect(of('fx', 'running')).toBe(true);
  run(1.4);
  expect([of('fx', 'running'), of('relay', 'open')]).toEqual([true, 1]);
  run(0.3);
  expect([of('fx', 'running'), of('relay', 'open')]).toEqual([false, 0]);
  expect(of('fx', 'started')).toBe(1);
});

test('one that goes round and round runs until it is stopped; bursts are counted', async () => {
  await begin('smoke', true, 'function startup() fire("fx", "burst") fire("fx", "burst") after(20, function() fire("fx", "stop") end) end');
  run(19);
  expect([of('fx', 'running'), of('fx', 'bursts')]).toEqual([true, 2]);
  run(2);
  expect(of('fx', 'running')).toBe(false);
});

test('an effect that is not there stops nothing', async () => {
  await begin('nobody', true, '');
  run(1);
  expect(of('fx', 'running')).toBe(true);
  expect(world.findings).toEqual([]);
});

test('in a map: one without an effect, one that is not there, one that nothing starts, and too many in one place', () => {
  const found = (effect: string, running: boolean) => codesOf(withChanges(hall(), object('fx', 'effect', 'fx', [0, 0, 40], { effect, running })));
  expect(found('', true)).toContain('effect-empty');
  expect(found('nobody', true)).toContain('effect-missing');
  const dense = template('smoke');
  const heavy = { ...dense, emitters: dense.emitters.map((one) => ({ ...one, most: 400, rate: [[0, 100]] as [number, number][] })) };
  const crate = testWorld();
  const crowd = {
    ...crate,
    crate: { ...crate.crate, data: { [effectPath('heavy')]: writeEffect(heavy) } },
  };
  const objects = Object.fromEntries(Array.from({ length: 6 }, (_, i) => [`fx${i}`, made('effect', `fx${i}`, [i * 4, 0, 40], { effect: 'heavy' })]));
  const [worst] = checkPlacedEffects(crowd, { ...hall(), objects }, 'hall');
  expect(worst.code).toBe('effect-worst-place');
  expect(worst.message).toMatch(/beside fx\d \(\d/);
  expect(worst.place?.point).toBeDefined();
});
