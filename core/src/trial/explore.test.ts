import { describe, expect, it } from '@jest/globals';
import type { Signal, Solid } from '../document/schema.ts';
import { made } from '../testing/maps.ts';
import { trialInputs } from '../testing/trial.ts';
import { block } from '../solid/primitives.ts';
import { playWalk } from './record.ts';
import { explore } from './explore.ts';

const box = (x: number, y: number, z: number, X: number, Y: number, Z: number): Solid => block({ min: [x, y, z], max: [X, Y, Z] }, 'brick');
/** Two rooms, x from 0 to 256 and from 272 to 512, with a doorway in the wall between them. */
const ROOMS = [
  box(0, 0, -16, 512, 256, 0),
  box(-16, 0, 0, 0, 256, 128),
  box(512, 0, 0, 528, 256, 128),
  box(0, -16, 0, 512, 0, 128),
  box(0, 256, 0, 512, 272, 128),
  box(256, 0, 0, 272, 96, 128),
  box(256, 160, 0, 272, 256, 128),
  box(256, 96, 96, 272, 160, 128),
];
const signal = (from: string, event: string, to: Signal['to']): Signal => ({ from, event, to, delay: 0 });
const door = (opens: string) => ({
  start: made('start', 'start', [64, 64, 2]),
  crank: made('crank', 'crank', [64, 220, 0]),
  door: made('sluice', 'door', [264, 128, 0], { size: [12, 64, 96], travel: [0, 0, 90], speed: 60 }),
  far: made('crank', 'far', [470, 220, 0]),
  goal: made('goal', 'goal', [470, 64, 0], { text: 'Through.' }),
  [opens]: made('crank', opens, [100, 30, 0]),
});
const SIGNALS = {
  s1: signal('crank', 'turned', { object: 'door', action: 'raise' }),
  s2: signal('far', 'turned', { object: 'goal', action: 'complete' }),
};
/** Real time stands still, so that only what there is to try ends the search. */
const unhurried = { seconds: 1, now: () => 0 };

describe('the explorer', () => {
  it('finds the order that wins, and tells it as a walk that can be played back', async () => {
    const inputs = trialInputs(ROOMS, door('other'), SIGNALS);
    const found = await explore(inputs, unhurried);
    expect(found.complete).toBe(true);
    expect(found.won?.order).toEqual(expect.arrayContaining(['use crank', 'use far']));
    expect(found.won!.order.indexOf('use crank')).toBeLessThan(found.won!.order.indexOf('use far'));
    expect(found.unreached).toEqual([]);
    for (const name of ['crank', 'far']) expect([name, found.coverage.used[name] > 0]).toEqual([name, true]);
    const again = await playWalk(inputs, 'won', found.won!.walk);
    expect(again).toMatchObject({ ok: true, exact: true, ended: 'won' });
  });

  it('says that a door that nothing opens keeps what lies behind it from being reached', async () => {
    const found = await explore(trialInputs(ROOMS, door('other'), { s2: SIGNALS.s2 }), unhurried);
    expect(found.won).toBeNull();
    expect(found.unreached).toEqual(['far']);
    expect(found.findings.map(({ code, place }) => [code, place?.object])).toEqual(
      expect.arrayContaining([
        ['explore-not-won', undefined],
        ['explore-unreached', 'far'],
      ]),
    );
  });

  it('proves a dead end: after a wrong step the goal cannot be reached any more', async () => {
    const bolted = {
      ...SIGNALS,
      // The other crank lets the goal go for good.
      s3: signal('other', 'turned', { script: 'spoil' }),
      s1: signal('crank', 'turned', { script: 'open' }),
    };
    const script = `spoilt = false
      function spoil() spoilt = true end
      function open() if not spoilt then fire("door", "raise") end end`;
    const found = await explore(trialInputs(ROOMS, door('other'), bolted, script), unhurried);
    expect(found.complete).toBe(true);
    expect(found.won?.order).not.toContain('use other');
    expect(found.deadEnds[0].order).toEqual(['use other']);
    expect(found.findings).toContainEqual(expect.objectContaining({ code: 'explore-dead-end', message: expect.stringContaining('after use other') }));
  });

  it('gives the same search for the same seed', async () => {
    const inputs = trialInputs(ROOMS, door('other'), SIGNALS);
    const [a, b] = [await explore(inputs, { ...unhurried, seed: 7 }), await explore(inputs, { ...unhurried, seed: 7 })];
    expect(b.won?.walk.hashes).toEqual(a.won?.walk.hashes);
    expect([b.states, b.runs, b.simulated]).toEqual([a.states, a.runs, a.simulated]);
  });

  it('jumps a gap that can be jumped, and tells where it was lost', async () => {
    const gap = [box(0, 0, -16, 200, 128, 0), box(248, 0, -16, 448, 128, 0)];
    const objects = {
      start: made('start', 'start', [64, 64, 2]),
      crank: made('crank', 'crank', [400, 64, 0]),
      goal: made('goal', 'goal', [400, 20, 0]),
    };
    const found = await explore(trialInputs(gap, objects, { s1: signal('crank', 'turned', { object: 'goal', action: 'complete' }) }), unhurried);
    expect(found.won?.order).toEqual(['use crank']);
  });

  it('ends with its time, and says so', async () => {
    let time = 0;
    const found = await explore(trialInputs(ROOMS, door('other'), SIGNALS), { seconds: 1, now: () => (time += 5) });
    expect(found.complete).toBe(false);
    expect(found.simulated).toBeLessThan(60);
    expect(found.findings.find(({ code }) => code === 'explore-not-won')?.message).toContain('within');
  });
});
