import { expect, test } from '@jest/globals';
import type { SequenceStep } from '../document/schema.ts';
import { MOMENT, SequencePlayer, timelineOf, turnTo, type Mover, type MovementWorld } from './play.ts';

const LEVEL: MovementWorld = { gravity: 10, jumpSpeed: 5, floor: () => 0 };
const mover = (x: number, y = 0): Mover => ({ position: [x, y, 0], turn: 0, walk: 2, run: 4, hidden: false, rising: null });
const walk = (who: string, x: number, wait = true): SequenceStep => ({ who, do: 'walk', to: [x, 0, 0], wait });
const ends = (steps: SequenceStep[], movers: Record<string, Mover>, world = LEVEL) => {
  const { moments, endless } = timelineOf(steps, new Map(Object.entries(movers)), world);
  return { seconds: moments[moments.length - 1].time, endless, at: moments[moments.length - 1].at, moments };
};

test('what is waited for comes one after the other, the rest at once', () => {
  expect(ends([walk('a', 4), walk('b', 14)], { a: mover(0), b: mover(10) }).seconds).toBeCloseTo(4, 1);
  expect(ends([walk('a', 4, false), walk('b', 14)], { a: mover(0), b: mover(10) }).seconds).toBeCloseTo(2, 1);
  // One does one thing at a time.
  expect(ends([walk('a', 4, false), walk('a', 0)], { a: mover(0) }).seconds).toBeCloseTo(4, 1);
});

test('a step to a place ends at that very place, looking along the way', () => {
  const { at } = ends([{ who: 'a', do: 'walk', to: [3, 4, 0], wait: true, run: true }], { a: mover(0) });
  expect(at.get('a')!.position.slice(0, 2)).toEqual([3, 4]);
  expect(at.get('a')!.turn).toBeCloseTo(53.13, 2);
});

test('a jump takes as long and comes as high as a thrown body (2v/g, v²/2g)', () => {
  const { seconds, moments } = ends([{ who: 'a', do: 'jump', wait: true }], { a: mover(0) });
  expect(seconds).toBeCloseTo(1, 1);
  expect(Math.max(...moments.map((moment) => moment.at.get('a')!.position[2]))).toBeCloseTo(1.25, 2);
});

test('following keeps its gap and does not hold up the end', () => {
  const steps: SequenceStep[] = [{ who: 'b', do: 'follow', whom: 'a', gap: 1.5, wait: false }, walk('a', 10)];
  // The follower takes its step first: it is one moment behind.
  const { at, endless } = ends(steps, { a: mover(0), b: mover(-5) });
  expect(endless).toBeNull();
  expect(at.get('a')!.position[0] - at.get('b')!.position[0]).toBeCloseTo(1.5 + 2 * MOMENT, 6);
  const player = new SequencePlayer(
    steps,
    new Map([
      ['a', mover(0)],
      ['b', mover(-5)],
    ]),
    LEVEL,
  );
  while (!player.over) player.step(0.05);
  expect(player.following()).toEqual([{ who: 'b', whom: 'a', gap: 1.5 }]);
});

test('what never ends is told with the step that it stays at', () => {
  expect(ends([walk('a', 1), { who: 'b', do: 'follow', whom: 'a', gap: 1, wait: true }], { a: mover(0), b: mover(5) }).endless).toEqual({
    step: 1,
    why: 'stalled',
  });
  const wall: MovementWorld = { ...LEVEL, free: (_who, _from, to) => to[0] < 2 };
  expect(ends([walk('a', 4)], { a: mover(0) }, wall).endless).toEqual({ step: 0, why: 'stalled' });
  const long = Array.from({ length: 3 }, (): SequenceStep => ({ who: 'a', do: 'pause', seconds: 400, wait: true }));
  expect(ends(long, { a: mover(0) }).endless?.why).toBe('long');
});

test('people are shown and hidden, and turn by the shorter way', () => {
  expect(ends([{ who: 'a', do: 'hide', wait: false }], { a: mover(0) }).at.get('a')!.hidden).toBe(true);
  const one = { turn: 350 };
  expect(turnTo(one, 20, 15)).toBe(false);
  expect(one.turn).toBe(5);
  expect(turnTo(one, 20, 15)).toBe(true);
});
