import { describe, expect, it } from '@jest/globals';
import { shaped, terrain } from '../testing/terrains.ts';
import type { Route } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { onLine, Race } from '../trial/race.ts';
import { fly, landingAt, speedFor } from './flight.ts';
import { jumpsOf } from './jumps.ts';
import { beside, measure, placeAlong, ribbonOf } from './ribbon.ts';

const route = (change: Partial<Route> = {}): Route => ({
  name: 'Race',
  start: 's',
  stops: ['a', 'b', 'c'],
  finish: 'f',
  laps: 1,
  width: 4,
  points: [
    [0, 50, 0],
    [100, 50, 0],
  ],
  branches: [],
  ...change,
});

describe('a ribbon', () => {
  it('round a circle has its circumference and its radius', () => {
    const r = 40;
    const circle = Array.from({ length: 361 }, (_, n): Vec3 => [r * Math.cos((n * Math.PI) / 180), r * Math.sin((n * Math.PI) / 180), 0]);
    const { length, stations } = measure(circle);
    expect(length).toBeCloseTo(2 * Math.PI * r, 1);
    for (const { radius } of stations.slice(2, -2)) expect(radius).toBeCloseTo(r, 6);
  });

  it('lies on the ground, and knows what it climbs', () => {
    const { map } = shaped(terrain([101, 101]), (i) => (i < 50 ? i : 100 - i) * 0.5);
    const ribbon = ribbonOf(map, route());
    expect(ribbon.climb).toBeCloseTo(25, 1);
    expect(ribbon.descent).toBeCloseTo(25, 1);
    expect(ribbon.stations[10].gradient).toBeCloseTo(50, 3);
    expect(ribbonOf(map, map.routes.r1 ?? route())).not.toBe(ribbon);
    expect(beside(ribbon, [30, 58, 0])).toEqual({ along: expect.closeTo(30, 6), off: expect.closeTo(8, 6) });
    expect(placeAlong(ribbon, 25).at[0]).toBeCloseTo(25, 6);
    expect(
      measure([
        [0, 0, 0],
        [3, 0, 0],
        [6, 0, 0],
      ]).stations[1].radius,
    ).toBe(Infinity);
  });
});

describe('jumps', () => {
  it('fly v² sin 2p / g far over level ground, and need that speed for it', () => {
    const { map } = shaped(terrain([400, 41]), () => 0);
    const pitch = Math.PI / 6;
    const flight = fly(map, { at: [10, 20, 0.001], speed: 20, heading: 0, pitch }, 9.81, 1);
    expect(flight.distance).toBeCloseTo((400 * Math.sin(2 * pitch)) / 9.81, 1);
    expect(flight.seconds).toBeCloseTo((2 * 20 * Math.sin(pitch)) / 9.81, 2);
    expect(flight.height).toBeCloseTo((20 * Math.sin(pitch)) ** 2 / (2 * 9.81), 1);
    expect(flight.angle).toBeCloseTo(30, 0);
    expect(speedFor(pitch, flight.distance, 0, 9.81)).toBeCloseTo(20, 1);
    expect(speedFor(0, 20, -1, 9.81)).toBeNull();
  });

  it('land where they are wanted, at the speed that it needs', () => {
    const { map } = shaped(terrain([301, 41]), (i) => (i > 60 ? (60 - i) * 0.3 : 0));
    const from = { at: [50, 20, 0] as Vec3, heading: 0, pitch: Math.PI / 12 };
    const found = landingAt(map, from, 70, 9.81)!;
    expect(found.landing).toEqual([120, 20, expect.closeTo(-18, 4)]);
    // The flight at that speed comes down there.
    expect(fly(map, { ...from, speed: found.speed }, 9.81, 1).landing![0]).toBeCloseTo(120, 2);
    expect(landingAt(map, from, -5, 9.81)).toBeNull();
    expect(landingAt(map, from, 900, 9.81)).toBeNull();
  });

  it('lead beyond the ground where there is none', () => {
    const { map } = shaped(terrain([60, 41]), () => 0);
    expect(fly(map, { at: [50, 20, 0.001], speed: 30, heading: 0, pitch: 0.5 }, 9.81, 1).landing).toBeNull();
  });

  it('are found where a rise ends', () => {
    const { map } = shaped(terrain([201, 101]), (i) => (i < 60 ? 0 : i < 80 ? ((i - 60) / 20) ** 2 * 3 : 0));
    const ribbon = ribbonOf(
      map,
      route({
        points: [
          [0, 50, 0],
          [200, 50, 0],
        ],
        width: 2,
      }),
    );
    const [jump, ...more] = jumpsOf(map, ribbon, 15, 9.81, 1);
    expect(more).toEqual([]);
    expect(jump.along).toBeGreaterThan(76);
    expect(jump.along).toBeLessThan(83);
    expect(jump.flight.landing![0]).toBeGreaterThan(85);
  });
});

describe('a race', () => {
  it('takes its stops in order, once each, and ends at the finish', () => {
    const race = new Race(route());
    expect(race.pass('b', 1)).toBe('wrong');
    expect(race.pass('x', 1)).toBeNull();
    expect(['a', 'a', 'b', 'f', 'c', 'f'].map((id, n) => race.pass(id, n + 2))).toEqual(['stop', null, 'stop', 'wrong', 'stop', 'finish']);
    expect(race.state(99)).toMatchObject({ finished: true, time: 5, passed: 0, next: [] });
    expect(race.pass('a', 100)).toBeNull();
  });

  it('laps begin anew at the line', () => {
    const race = new Race(route({ laps: 2, stops: ['a'] }));
    race.start(0);
    expect(['a', 'f', 'a', 'f'].map((id, n) => race.pass(id, (n + 1) * 10))).toEqual(['stop', 'lap', 'stop', 'finish']);
    expect(race.state(50).lapTimes).toEqual([20, 20]);
  });

  it('branches leave and join again', () => {
    const branches = [
      {
        name: 'short',
        after: 1,
        until: 3,
        stops: ['x'],
        points: [
          [0, 0, 0],
          [1, 0, 0],
        ] as [number, number, number][],
      },
    ];
    const race = new Race(route({ branches }));
    race.pass('a', 1);
    expect(race.next).toEqual(['b', 'x']);
    expect([race.pass('x', 2), race.next, race.pass('c', 3), race.next, race.pass('f', 4)]).toEqual(['stop', ['c'], 'stop', ['f'], 'finish']);
  });

  it('who is lost comes back to the nearest place of the line', () => {
    expect(
      onLine(
        [
          [0, 0, 0],
          [10, 0, 2],
        ],
        [4, 7, 0],
      ),
    ).toEqual({ at: [4, 0, expect.closeTo(0.8, 9)], heading: 0, along: 4 });
  });
});
