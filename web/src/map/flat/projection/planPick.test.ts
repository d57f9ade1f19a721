import { describe, expect, it } from '@jest/globals';
import type { Change } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { expandMap } from '@violet-crate/core/map/prefab';
import { block } from '@violet-crate/core/solid/primitives';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { blank, object, profile, solid, withChanges } from '@violet-crate/core/testing/maps';
import { pickPlan, pickPlanFace, planRelation, segmentDistance, snapToCorners, snapToOutlines } from './planPick.ts';

const VIEW = { hidden: {}, hiddenLayers: {} };
const WITHOUT_WALL = { hidden: { 'solids/wall': true as const }, hiddenLayers: {} };
const BAND = { bottom: 0, top: 128 };
const CUT = 64;
const sheet = { scale: 2, centre: [0, 0] as Point2 };
const box = (x: number, y: number, z: number, size: number, height: number) =>
  block({ min: [x, y, z], max: [x + size, y + size, z + height] }, 'brick');
const room = (...changes: Change[]): GameMap => withChanges(blank(), ...changes);
const names = (map: GameMap, at: Point2) =>
  pickPlan(map, expandMap(map, profile), { at, sheet }, CUT, BAND, VIEW).map(({ kind, id }) => `${kind}/${id}`);

describe('what lies under a point of the plan', () => {
  it('is cut, below or above, by the height of the cut alone', () => {
    const at = (min: number, max: number) => planRelation({ min: [0, 0, min], max: [1, 1, max] }, CUT);
    expect([at(0, 64), at(0, 65), at(63, 80), at(64, 80)]).toEqual(['below', 'cut', 'cut', 'above']);
  });

  it('objects come first, then what is cut, then floors from the top, then what is above', () => {
    const map = room(
      solid('floor', box(0, 0, -16, 100, 16)),
      solid('rug', box(0, 0, 0, 100, 2)),
      solid('wall', box(0, 0, 0, 100, 128)),
      solid('roof', box(0, 0, 128, 100, 16)),
      object('o9', 'lamp', 'lamp', [50, 50, 90]),
    );
    expect(names(map, [50, 50])).toEqual(['objects/o9', 'solids/wall', 'solids/rug', 'solids/floor', 'solids/roof']);
    expect(names(map, [101, 50])).toEqual([]);
  });

  it('an object is meant within nine pixels, whatever the scale, and only on its band', () => {
    const map = room(object('o9', 'lamp', 'lamp', [0, 0, 64]), object('o8', 'lamp', 'deep', [0, 0, -40]));
    expect(names(map, [4.5, 0])).toEqual(['objects/o9']);
    expect(names(map, [4.6, 0])).toEqual([]);
  });

  it('a line is meant within six pixels, the side that closes a loop too', () => {
    const points: [number, number, number][] = [
      [0, 0, 0],
      [40, 0, 0],
      [40, 40, 0],
    ];
    const path = (loop: boolean) => room({ of: 'paths', id: 'w1', to: { name: 'round', points, loop } });
    expect(names(path(false), [20, 2.9])).toEqual(['paths/w1']);
    expect(names(path(false), [20, 3.1])).toEqual([]);
    expect([names(path(false), [10, 10]), names(path(true), [10, 10])]).toEqual([[], ['paths/w1']]);
  });

  it('what a copy stands for selects the copy, once', () => {
    const map = room({ of: 'copies', id: 'c1', to: { prefab: 'mooring', position: [0, 0, 0], turn: 0, values: {} } as never });
    const whole = expandMap(map, profile);
    const first = Object.values(whole.solids)[0];
    expect(first).toBeDefined();
    const found = names(map, [0, 0]);
    expect(found.filter((one) => one === 'copies/c1')).toHaveLength(1);
    expect(found.some((one) => one.startsWith('solids/'))).toBe(false);
  });

  it('what is hidden is not there', () => {
    const map = room(solid('wall', box(0, 0, 0, 100, 128)));
    expect(pickPlan(map, map, { at: [50, 50], sheet }, CUT, BAND, WITHOUT_WALL)).toEqual([]);
    expect(pickPlanFace(map, { at: [50, 50], sheet }, CUT, WITHOUT_WALL)).toBeNull();
  });
});

describe('faces in the plan', () => {
  const map = room(solid('low', box(0, 0, 0, 100, 32)), solid('wall', box(20, 20, 0, 20, 128)), solid('roof', box(0, 0, 128, 100, 16)));
  const face = (at: Point2) => {
    const found = pickPlanFace(map, { at, sheet }, CUT, VIEW);
    return found && [found.solid, map.solids[found.solid].faces[found.face].normal];
  };
  it('a side is picked along its line, a top within it; what is above the cut is not', () => {
    expect(face([1, 50])).toEqual(['low', [-1, 0, 0]]);
    expect(face([70, 99])).toEqual(['low', [0, 1, 0]]);
    expect(face([70, 70])).toEqual(['low', [0, 0, 1]]);
    expect(face([30, 30])).toEqual(['wall', [0, 0, 1]]);
    expect(face([200, 200])).toBeNull();
  });
});

describe('snapping', () => {
  it('a corner within reach goes before a nearer side', () => {
    const square: Point2[] = [
      [0, 0],
      [10, 0],
      [10, 10],
      [0, 10],
    ];
    expect(snapToOutlines([square], [2, 1], 3)).toEqual([0, 0]);
    expect(snapToOutlines([square], [5, 1], 3)).toEqual([5, 0]);
    expect(snapToOutlines([square], [5, 5], 3)).toBeNull();
  });

  it('only shown solids are snapped to', () => {
    const map = room(solid('wall', box(0, 0, 0, 100, 128)));
    expect(snapToCorners(map, [98, 99], 4, VIEW)).toEqual([100, 100]);
    expect(snapToCorners(map, [98, 99], 4, WITHOUT_WALL)).toBeNull();
  });

  it('the distance to a segment ends at its ends', () => {
    expect(segmentDistance([5, 3], [0, 0], [10, 0])).toBe(3);
    expect(segmentDistance([13, 4], [0, 0], [10, 0])).toBe(5);
    expect(segmentDistance([3, 4], [0, 0], [0, 0])).toBe(5);
  });
});
