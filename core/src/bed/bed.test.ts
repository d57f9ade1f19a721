/** Sound of a map against room acoustics by the book, and through a door against through a wall. */

import { expect, test } from '@jest/globals';
import type { Bed, GameMap, Mood } from '../document/schema.ts';
import { roomOf, soundWorld } from '../map/sound.ts';
import type { Vec3 } from '../math/vec3.ts';
import { block } from '../solid/primitives.ts';
import { boxMinusBoxes } from '../testing/rooms.ts';
import { codesOf, hall, made, object, withChanges } from '../testing/maps.ts';
import { testWorld } from '../testing/world.ts';
import { sealTree } from '../stages/sealing/stage.ts';
import { soundCells, soundFile } from '../stages/pack/soundFile.ts';
import { leafAt } from '../stages/sealing/bsp.ts';
import { amplitude, edgeLoss, Hearing } from './hear.ts';
import { roomAt, SABINE, sabine } from './reverb.ts';
import { isHeard, ShotClock } from './schedule.ts';
import { cellAt, Ways } from './space.ts';

test('Sabine: a room of 10 × 8 × 3 m whose surfaces take a tenth sounds on for 1.44 s, by 0.161 V / A', () => {
  expect(SABINE).toBeCloseTo(0.161, 3);
  // V = 240 m³, S = 268 m²: a worked example as handbooks have it, with their rounded constant.
  expect(sabine(240, [{ area: 268, absorbs: 0.1 }])).toBeCloseTo((0.161 * 240) / 26.8, 2);
  // Another surface each: floor of carpet 0.3, ceiling of tiles 0.7, walls of plaster 0.03 (at 500 Hz, from memory).
  const absorbing = [
    { area: 80, absorbs: 0.3 },
    { area: 80, absorbs: 0.7 },
    { area: 108, absorbs: 0.03 },
  ];
  expect(sabine(240, absorbing)).toBeCloseTo((0.161 * 240) / (24 + 56 + 3.24), 2);
  expect(sabine(240, [])).toBe(Infinity);
});

/** The inside of a box: distance along a ray to its walls. */
const within = (size: Vec3, takes: (axis: number, high: boolean) => number) => (from: Vec3, d: Vec3) => {
  let [best, axis] = [Infinity, 0];
  for (let k = 0; k < 3; k++) {
    if (d[k] === 0) continue;
    const t = ((d[k] > 0 ? size[k] : 0) - from[k]) / d[k];
    if (t < best) [best, axis] = [t, k];
  }
  const normal: Vec3 = [0, 0, 0];
  normal[axis] = d[axis] > 0 ? -1 : 1;
  return { distance: Math.max(0, best), normal, absorbs: takes(axis, d[axis] > 0) };
};

test('rays find the mean free path 4 V / S and the mean absorption of a room, whatever its form (Kosten 1960)', () => {
  const size: Vec3 = [10, 8, 3];
  const room = roomAt(
    [3, 2, 1],
    within(size, () => 0.1),
    1,
    400,
    60,
  )!;
  expect(room.path / ((4 * 240) / 268)).toBeCloseTo(1, 1);
  expect(room.seconds / sabine(240, [{ area: 268, absorbs: 0.1 }])).toBeCloseTo(1, 1);
  const uneven = roomAt(
    [3, 2, 1],
    within(size, (axis, high) => (axis !== 2 ? 0.03 : high ? 0.7 : 0.3)),
    1,
    400,
    60,
  )!;
  expect(uneven.absorbs / ((24 + 56 + 3.24) / 268)).toBeCloseTo(1, 1);
  // Long and narrow.
  const hallway = roomAt(
    [1, 1, 1],
    within([40, 2, 2.5], () => 0.05),
    1,
    400,
    60,
  )!;
  expect(Math.abs(hallway.path / ((4 * 200) / (2 * (80 + 100 + 5))) - 1)).toBeLessThan(0.06);
});

test('a detour costs what Maekawa’s chart has: nothing in the open, 13.6 dB at N = 1, 3 dB for each doubling far out', () => {
  const at = (n: number) => edgeLoss((n * 343) / (2 * 500)) + 10 * Math.log10(3);
  expect(edgeLoss(0)).toBe(0);
  expect(at(1)).toBeCloseTo(13.6, 1);
  expect(at(100) - at(50)).toBeCloseTo(3, 1);
  expect(amplitude(-6.0206)).toBeCloseTo(0.5, 4);
});

/** Two rooms of 200 × 200 × 100 with a wall of 10 between, and a doorway in its middle. */
function twoRooms(door: boolean): GameMap {
  const outer = { min: [-10, -10, -10] as Vec3, max: [420, 210, 110] as Vec3 };
  const holes = [
    { min: [0, 0, 0] as Vec3, max: [200, 200, 100] as Vec3 },
    { min: [210, 0, 0] as Vec3, max: [410, 200, 100] as Vec3 },
    ...(door ? [{ min: [200, 80, 0] as Vec3, max: [210, 120, 80] as Vec3 }] : []),
  ];
  const solids = Object.fromEntries(boxMinusBoxes(outer, holes).map((box, i) => [`s${i}`, block(box, 'brick')]));
  const area = made('sound_area', 'engine', [60, 100, 0], { bed: 'Engine', size: [100, 150, 90], near: 60 });
  return { ...hall(), solids, objects: { engine: area } };
}

function hearing(map: GameMap): Hearing {
  const world = testWorld();
  const tree = sealTree(Object.values(map.solids));
  const rooms = new Set([leafAt(tree.bsp, [60, 100, 50]).index]);
  // All free cells that are open to the first room.
  for (let grown = true; grown;) {
    grown = false;
    for (const { a, b } of tree.portals)
      if (rooms.has(a) !== rooms.has(b)) {
        rooms.add(a).add(b);
        grown = true;
      }
  }
  for (const point of [[300, 100, 50] as Vec3]) rooms.add(leafAt(tree.bsp, point).index);
  const cells = soundCells(soundFile({ tree, output: { inside: [...rooms] } }));
  return new Hearing(soundWorld(world, map, cells));
}

test('a bed is heard through the door, and hardly through the wall; it seems to come from the door', () => {
  const open = hearing(twoRooms(true));
  const shut = hearing(twoRooms(false));
  const inLine: Vec3 = [300, 100, 50];
  const aside: Vec3 = [230, 20, 50];
  const [within] = open.at([60, 100, 50]);
  expect([within.gain, within.way]).toEqual([1, 'within']);
  const [through] = open.at(inLine);
  expect(through.way).toBe('openings');
  expect(through.cutoff).toBe(20_000);
  const [round] = open.at(aside);
  expect(round.way).toBe('openings');
  expect(round.cutoff).toBeLessThan(2000);
  expect(round.from[0]).toBeGreaterThanOrEqual(200);
  expect(round.from[0]).toBeLessThanOrEqual(210);
  // Nearer to the area than he who stands in the door's line, and yet softer.
  expect(round.gain).toBeLessThan(through.gain);
  const behind = shut.at(inLine);
  const decibels = 20 * Math.log10(through.gain / (behind[0]?.gain ?? 1e-6));
  expect(decibels).toBeGreaterThan(30);
});

test('the way through one opening is the shortest there is, exactly', () => {
  const map = twoRooms(true);
  const tree = sealTree(Object.values(map.solids));
  const free = tree.bsp.leaves.filter(({ solid }) => !solid).map(({ index }) => index);
  const cells = soundCells(soundFile({ tree, output: { inside: free } }));
  const ways = new Ways(cells);
  const from: Vec3 = [300, 40, 50];
  expect(ways.look(from)).toBe(true);
  const target = { min: [100, 100, 50] as Vec3, max: [100, 100, 50] as Vec3 };
  const found = ways.to(target, new Set([cellAt(cells, [100, 100, 50])]))!;
  // Round the near corner of the doorway, which is 10 thick: (210, 80) and (200, 80) in the plan.
  const exact = Math.hypot(90, 40) + 10 + Math.hypot(100, 20);
  expect(found.length).toBeGreaterThanOrEqual(Math.hypot(200, 60) - 1e-9);
  expect(found.length / exact).toBeLessThan(1.02);
});

test('higher priority hides lower while one is within it', () => {
  const world = {
    areas: [
      { id: 'a', bed: 'A', box: { min: [0, 0, 0] as Vec3, max: [100, 100, 100] as Vec3 }, near: 10, priority: 0 },
      { id: 'b', bed: 'B', box: { min: [40, 40, 0] as Vec3, max: [60, 60, 100] as Vec3 }, near: 10, priority: 1 },
    ],
    cells: null,
    metres: 1,
    lossAlong: () => 0,
  };
  const ears = new Hearing(world);
  expect(ears.at([50, 50, 50]).map(({ id }) => id)).toEqual(['b']);
  expect(
    ears
      .at([10, 50, 50])
      .map(({ id }) => id)
      .sort(),
  ).toEqual(['a', 'b']);
});

test('day, night and weather let a sound be heard or not', () => {
  const mood = { hour: 12, falling: 'rain', heavy: 0.5, sunIntensity: 3, moonIntensity: 0, clouds: 0 } as Mood;
  expect(isHeard({ when: 'always', weather: 'any' }, null)).toBe(true);
  expect(isHeard({ when: 'day', weather: 'rain' }, mood)).toBe(true);
  expect(isHeard({ when: 'night', weather: 'any' }, mood)).toBe(false);
  expect(isHeard({ when: 'night', weather: 'any' }, { ...mood, hour: 0 })).toBe(true);
  expect(isHeard({ when: 'always', weather: 'dry' }, mood)).toBe(false);
});

test('shots come within their bounds, the same for any pace of looking, and only the last after a pause', () => {
  const times = (step: number) => {
    const clock = new ShotClock([2, 5], 9);
    const at: number[] = [];
    for (let t = 0; t < 100; t += step) if (clock.due(t).length > 0) at.push(Math.round(t));
    return at;
  };
  const fine = times(0.01);
  expect(fine.length).toBeGreaterThan(19);
  expect(fine.slice(1).every((t, i) => t - fine[i] >= 1 && t - fine[i] <= 6)).toBe(true);
  expect(times(0.25).length).toBe(fine.length);
  expect(new ShotClock([1, 1], 3).due(1000)).toHaveLength(1);
});

const BED: Bed = { name: 'Engine', fade: 1, loops: [{ sound: 'sounds/hum.wav', volume: 0.5, when: 'always', weather: 'any' }], shots: [] };
const withBeds = (map: GameMap, beds: Bed[]): GameMap => ({ ...map, settings: { ...map.settings, beds } });

test('what is wrong with beds is found', () => {
  const area = (properties: object) => object('a', 'sound_area', 'area', [0, 0, 0], { bed: 'Engine', size: [40, 40, 40], ...properties });
  const fine = withChanges(withBeds(hall(), [BED]), area({ near: 20 }));
  expect(codesOf(fine).filter((code) => /bed|sound/.test(code))).toEqual([]);
  expect(codesOf(withChanges(hall(), area({})))).toContain('bed-missing');
  expect(codesOf(withChanges(hall(), area({ bed: '' })))).toContain('bed-empty');
  expect(codesOf(withBeds(hall(), [BED]))).toContain('bed-unused');
  expect(codesOf(withBeds(hall(), [BED, BED]))).toContain('bed-name');
  expect(codesOf(withChanges(withBeds(hall(), [BED]), area({ near: 5000 })))).toContain('sound-everywhere');
  const loud = { ...BED, loops: [{ ...BED.loops[0], volume: 3 }] };
  expect(codesOf(withChanges(withBeds(hall(), [loud]), area({})))).toContain('bed-clips');
  const night = { ...BED, loops: [{ ...BED.loops[0], when: 'night' as const }] };
  expect(codesOf(withChanges(withBeds(hall(), [night]), area({})))).toContain('sound-never');
});

test('a hall of brick sounds on as its size and surfaces have it', () => {
  const map = twoRooms(false);
  const world = testWorld();
  const { metres } = world.profile.unit;
  const room = roomOf(world, map, [100, 100, 50])!;
  const [w, d, h] = [200 * metres, 200 * metres, 100 * metres];
  const surface = 2 * (w * d + w * h + d * h);
  expect(room.seconds / sabine(w * d * h, [{ area: surface, absorbs: 0.04 }])).toBeCloseTo(1, 0);
  expect(room.path / ((4 * w * d * h) / surface)).toBeCloseTo(1, 0);
});
