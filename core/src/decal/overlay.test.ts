import { describe, expect, test } from '@jest/globals';
import { applyEdit } from '../document/edit.ts';
import type { Overlay } from '../document/schema.ts';
import { withCarried } from '../map/member/carried.ts';
import type { Vec3 } from '../math/vec3.ts';
import { block } from '../solid/primitives.ts';
import { transformSolid, translation } from '../solid/transform.ts';
import { windingArea, type Winding } from '../solid/winding.ts';
import { blank, codesOf, findingsOf, mended, solid, withChanges } from '../testing/maps.ts';
import type { DecalPiece } from './clip.ts';
import { hostsOf, layDecals } from './lay.ts';
import { OverlayThrower } from './overlay.ts';
import { lyingAt, newOverlay, plainOverlay, plainStyle } from './place.ts';

const FLOOR: Winding = [[-500, -500, 0], [500, -500, 0], [500, 500, 0], [-500, 500, 0]]; // prettier-ignore
const UP: Vec3 = [0, 0, 1];
const overlay = (points: Vec3[], more: Partial<Overlay> = {}): Overlay => ({
  name: 'strip',
  ...plainOverlay('paint', 8),
  points,
  normal: UP,
  ...more,
});
const onFloor = (of: Overlay) => new OverlayThrower(of).on(FLOOR, UP);
const area = (pieces: readonly DecalPiece[]) => pieces.reduce((sum, { winding }) => sum + windingArea(winding), 0);
/** Cover times area. */
const paint = (pieces: readonly DecalPiece[]) =>
  pieces.reduce((sum, { winding, alpha }) => {
    let volume = 0;
    for (let i = 2; i < winding.length; i++)
      volume += (windingArea([winding[0], winding[i - 1], winding[i]]) * (alpha[0] + alpha[i - 1] + alpha[i])) / 3;
    return sum + volume;
  }, 0);
const uvAt = (pieces: readonly DecalPiece[], [x, y]: [number, number]) => {
  for (const { winding, uv } of pieces) {
    const i = winding.findIndex((p) => Math.hypot(p[0] - x, p[1] - y) < 1e-6);
    if (i >= 0) return uv[i].map((v) => Math.round(v * 1e6) / 1e6 + 0);
  }
  return null;
};

describe('a strip', () => {
  test.each([
    [
      'straight',
      [
        [0, 0, 0],
        [100, 0, 0],
      ],
      100,
    ],
    [
      'bent by a right angle',
      [
        [0, 0, 0],
        [60, 0, 0],
        [60, 80, 0],
      ],
      140,
    ],
    [
      'bent a little, up and down',
      [
        [0, 0, 0],
        [50, 10, 2],
        [100, -10, -2],
        [150, 0, 0],
      ],
      Math.hypot(50, 10) + Math.hypot(50, 20) + Math.hypot(50, 10),
    ],
  ] as [string, Vec3[], number][])('%s is as large as its line is long times its width', (_, points, length) => {
    // A mitre takes as much from the one piece as it gives to the other.
    expect(area(onFloor(overlay(points)))).toBeCloseTo(length * 8, 6);
  });

  test('repeats its picture along itself, its upper edge to the left', () => {
    const pieces = onFloor(overlay([[0, 0, 0], [32, 0, 0]], { repeat: 16 })); // prettier-ignore
    expect([uvAt(pieces, [0, 4]), uvAt(pieces, [32, -4])]).toEqual([
      [0, 0],
      [2, 1],
    ]);
    const once = onFloor(overlay([[0, 0, 0], [32, 0, 0]], { repeat: 0 })); // prettier-ignore
    expect(uvAt(once, [32, -4])).toEqual([1, 1]);
  });

  test('fades at both ends, evenly', () => {
    const line: Vec3[] = [[0, 0, 0], [40, 0, 0], [100, 0, 0]]; // prettier-ignore
    // A trapezium: the length less one fade.
    expect(paint(onFloor(overlay(line, { ends: 30 })))).toBeCloseTo((100 - 30) * 8, 6);
    // Longer than half of it, it is a ridge.
    expect(paint(onFloor(overlay(line, { ends: 500 })))).toBeCloseTo(50 * 8, 6);
  });

  test('lies over the edge between two surfaces without a gap, and not on what looks elsewhere', () => {
    const halves: Winding[] = [[[-500, -500, 0], [20, -500, 0], [20, 500, 0], [-500, 500, 0]], [[20, -500, 0], [500, -500, 0], [500, 500, 0], [20, 500, 0]]]; // prettier-ignore
    const thrower = new OverlayThrower(overlay([[0, 0, 0], [60, 10, 0]])); // prettier-ignore
    const both = halves.flatMap((half) => thrower.on(half, UP));
    expect(area(both)).toBeCloseTo(area(thrower.on(FLOOR, UP)), 6);
    expect(thrower.on(FLOOR, [1, 0, 0])).toEqual([]);
    expect(thrower.on(FLOOR.map(([x, y]) => [x, y, 50] as Vec3), UP)).toEqual([]); // prettier-ignore
  });
});

describe('an area', () => {
  test('of any outline is as large as that, hollow corners too', () => {
    const hook: Vec3[] = [[0, 0, 0], [60, 0, 0], [60, 20, 0], [20, 20, 0], [20, 50, 0], [0, 50, 0]]; // prettier-ignore
    const of = overlay(hook, { form: 'area', repeat: 16 });
    expect(area(onFloor(of))).toBeCloseTo(60 * 20 + 20 * 30, 6);
    expect(area(onFloor({ ...of, points: [...hook].reverse() }))).toBeCloseTo(60 * 20 + 20 * 30, 6);
    expect(uvAt(onFloor(of), [20, 20])).toEqual([20 / 16, 30 / 16]);
  });

  test('of four corners takes the picture into these', () => {
    const pieces = onFloor(overlay([[0, 0, 0], [40, -4, 0], [50, 30, 0], [3, 20, 0]], { form: 'area', repeat: 0 })); // prettier-ignore
    const corners = ([[0, 0], [40, -4], [50, 30], [3, 20]] as [number, number][]).map((at) => uvAt(pieces, at)); // prettier-ignore
    expect(corners).toEqual([[0, 1], [1, 1], [1, 0], [0, 0]]); // prettier-ignore
  });
});

test('it is found under a point, lies among decals by its order, and is drawn after what it lies over', () => {
  const all = {
    d1: { name: 'stain', ...plainStyle('stain', [32, 32]), position: [10, 0, 0] as Vec3, normal: UP },
    v1: overlay([[0, 0, 0], [60, 0, 0]], { order: 1 }), // prettier-ignore
  };
  expect(lyingAt(all, { point: [12, 1, 0], normal: UP })).toEqual(['v1', 'd1']);
  expect(lyingAt(all, { point: [12, 12, 0], normal: UP })).toEqual(['d1']);
  expect(layDecals(all, hostsOf([{ winding: FLOOR, normal: UP }])).map(({ decal, rank, level }) => [decal, rank, level])).toEqual([
    ['d1', 1, 0],
    ['v1', 2, 1],
  ]);
});

describe('in a map', () => {
  const floor = block({ min: [-100, -100, -16], max: [100, 100, 0] }, 'brick');
  const map = withChanges(blank(), solid('s1', floor));
  const points = [
    { point: [-20, 0, 0] as Vec3, normal: UP, solid: 's1' },
    { point: [20, 0, 0] as Vec3, normal: UP, solid: 's1' },
  ];

  test('it is made of points on surfaces, and too few of them make none', () => {
    const { id, edit } = newOverlay(map, plainOverlay('brick', 8), points)!;
    const made = applyEdit(map, edit);
    expect([id, made.overlays.v1.on, made.overlays.v1.normal]).toEqual(['v1', 's1', UP]);
    expect(codesOf(made).filter((code) => code.startsWith('decal'))).toEqual(['decal-material']);
    expect(newOverlay(map, { ...plainOverlay('brick', 8), form: 'area' }, points)).toBeNull();
    expect(newOverlay(map, plainOverlay('brick', 8), [points[0], { ...points[1], normal: [0, 0, -1] }])).toBeNull();
  });

  test('it goes with its solid, and hanging in the air it is found', () => {
    const { edit } = newOverlay(map, plainOverlay('brick', 8), points)!;
    const made = applyEdit(map, edit);
    const moved = transformSolid(floor, translation([5, 6, 7]), true);
    const after = applyEdit(made, withCarried(made, { name: 'move', changes: [{ of: 'solids', id: 's1', to: moved }] }));
    expect(after.overlays.v1.points).toEqual([[-15, 6, 7], [25, 6, 7]]); // prettier-ignore
    const alone = applyEdit(made, { name: 'move', changes: [{ of: 'overlays', id: 'v1', to: { ...made.overlays.v1, points: [[0, 0, 60], [9, 0, 60]] } }] }); // prettier-ignore
    const [found] = findingsOf(alone).filter(({ code }) => code === 'decal-air');
    expect(found.message).toMatch(/^The overlay strip hangs in the air/);
    expect(found.place).toMatchObject({ overlay: 'v1' });
    expect(mended(alone, 'decal-air').overlays).toEqual({});
  });
});
