import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { lookDirection, readIntent, turnTowards } from './controls.ts';

const read = (keys: string[], yaw = 0, pitch = 0, flying = false) => readIntent(new Set(keys), yaw, pitch, flying);

describe('keys of the test run', () => {
  it('walk where one looks, and sideways to the right of it', () => {
    expect(read(['w']).intent.move).toEqual([1, 0, 0]);
    const [x, y] = read(['ArrowUp'], Math.PI / 2).intent.move;
    expect(x).toBeCloseTo(0, 9);
    expect(y).toBeCloseTo(1, 9);
    // Looking along +x, right is -y.
    expect(read(['d']).intent.move[1]).toBeCloseTo(-1, 9);
    expect(read(['w', 's']).intent.move.every((v) => v === 0)).toBe(true);
  });

  it('looking down does not slow walking, but steers gliding', () => {
    expect(read(['w'], 0, -1).intent.move[0]).toBeCloseTo(1, 9);
    const glide = read(['w'], 0, -1, true).intent.move;
    expect(glide[2]).toBeCloseTo(Math.sin(-1), 9);
    expect(glide[0]).toBeCloseTo(Math.cos(-1), 9);
  });

  it('run, jump and turn', () => {
    expect(read(['Shift', ' ']).intent).toMatchObject({ run: true, jump: true });
    expect(read([' '], 0, 0, true).intent).toMatchObject({ jump: false, move: [0, 0, 1] });
    expect(read(['ArrowLeft']).turn).toBeGreaterThan(0);
    expect(read(['ArrowRight']).turn).toBeLessThan(0);
    expect(read([]).turn).toBe(0);
  });

  it('no mix of keys goes faster than one', () => {
    fc.assert(
      fc.property(
        fc.subarray(['w', 'a', 's', 'd', ' ', 'ArrowUp', 'ArrowDown']),
        fc.double({ min: -7, max: 7, noNaN: true }),
        fc.double({ min: -1.5, max: 1.5, noNaN: true }),
        fc.boolean(),
        (keys, yaw, pitch, flying) => {
          expect(Math.hypot(...read(keys, yaw, pitch, flying).intent.move)).toBeLessThanOrEqual(1 + 1e-9);
        },
      ),
    );
  });
});

describe('where one looks', () => {
  it('is a unit vector, level along x at first and upwards with the pitch', () => {
    expect(lookDirection({ yaw: 0, pitch: 0 })).toEqual([1, 0, 0]);
    lookDirection({ yaw: Math.PI / 2, pitch: 0 }).forEach((v, i) => expect(v).toBeCloseTo([0, 1, 0][i]));
    const up = lookDirection({ yaw: 1, pitch: 0.7 });
    expect(Math.hypot(...up)).toBeCloseTo(1);
    expect(up[2]).toBeCloseTo(Math.sin(0.7));
  });

  it('a demonstration turns the short way round, a little each step, and arrives', () => {
    expect(turnTowards(3, -3)).toBeGreaterThan(3);
    expect(turnTowards(-3, 3)).toBeLessThan(-3);
    expect(turnTowards(0, 0.01)).toBeCloseTo(0.01);
    let yaw = 0;
    for (let i = 0; i < 60; i++) yaw = turnTowards(yaw, 2);
    expect(yaw).toBeCloseTo(2);
    expect(turnTowards(0, 2)).toBeCloseTo(3 / 60);
  });
});
