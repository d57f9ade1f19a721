import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Ray as ThreeRay, Vector3 } from 'three';
import { noMembers } from '@violet-crate/core/document/members';
import { emptyMap } from '@violet-crate/core/profile/emptyMap';
import type { GameMap } from '@violet-crate/core/document/schema';
import { addScaled, type Vec3 } from '@violet-crate/core/math/vec3';
import { testProfile } from '@violet-crate/core/testing/world';
import { block } from '@violet-crate/core/solid/primitives';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { applyAffine } from '@violet-crate/core/solid/transform';
import { dragHandle, scaleOf } from './projection/handles.ts';
import { marqueed } from './projection/marquee.ts';
import { alongLine, dragged, draggedEdit, type Grab } from '../perspective/perspectiveDrag.ts';
import { snapToOutlines } from './projection/planPick.ts';
import { turnBetween } from './projection/turnHandle.ts';
import { emptySelection } from '../../state/viewSlice.ts';

const map: GameMap = { ...emptyMap(testProfile()), solids: { s1: block({ min: [0, 0, 0], max: [64, 64, 64] }, 'brick') } };
const snap = (v: number) => Math.round(v / 8) * 8;
const top = map.solids.s1.faces.findIndex((f) => f.normal[2] > 0.9);

describe('the point of a line nearest to a ray', () => {
  const coordinate = fc.integer({ min: -100, max: 100 });
  const point = fc.tuple(coordinate, coordinate, coordinate);
  test("agrees with three's distance between a ray and a segment", () => {
    fc.assert(
      fc.property(point, point, point, point, (origin, direction, at, line) => {
        fc.pre(Math.hypot(...direction) > 1 && Math.hypot(...line) > 1);
        const t = alongLine({ origin, direction }, at, line);
        fc.pre(t !== null && Math.abs(t) < 50);
        const nearest = addScaled(at, line, t!);
        // A segment around the found point, cut off at 100 lengths, holds the nearest point of the whole line.
        const ray = new ThreeRay(new Vector3(...origin), new Vector3(...direction).normalize());
        const [a, b] = [addScaled(at, line, t! - 100), addScaled(at, line, t! + 100)];
        const on = new Vector3();
        const onRay = new Vector3();
        ray.distanceSqToSegment(new Vector3(...a), new Vector3(...b), onRay, on);
        // Behind the eye three takes the eye itself.
        fc.pre(onRay.distanceTo(ray.origin) > 1e-6);
        expect(on.distanceTo(new Vector3(...nearest))).toBeLessThan(1e-3 * (1 + Math.hypot(...nearest)));
      }),
    );
  });
  test('there is none where the two run alike', () => {
    expect(alongLine({ origin: [0, 0, 0], direction: [0, 0, 1] }, [5, 5, 5], [0, 0, 1])).toBeNull();
  });
});

describe('dragging in the perspective', () => {
  const from: Vec3 = [32, -200, 300];
  const towards = (p: Vec3) => ({ origin: from, direction: [p[0] - from[0], p[1] - from[1], p[2] - from[2]] as Vec3 });
  const grab: Grab = { what: 'members', at: [32, 32, 64] };

  test('slides at the height of the point that is held, on the grid', () => {
    expect(dragged(grab, map, towards([50, 71, 64]), false, snap)).toEqual([16, 40, 0]);
  });
  test('rises and sinks with Shift', () => {
    expect(dragged(grab, map, towards([32, 32, 90]), true, snap)).toEqual([0, 0, 24]);
  });
  test('tells nothing where the ray never meets the ground', () => {
    expect(dragged(grab, map, { origin: from, direction: [0, 1, 0.5] }, false, snap)).toBeNull();
  });
  test('pushes a face along its normal only', () => {
    const face: Grab = { what: { solid: 's1', face: top }, at: [32, 32, 64] };
    const by = dragged(face, map, towards([32, 32, 97]), false, snap)!;
    expect(by).toEqual([0, 0, 32]);
    const edit = draggedEdit(face, map, emptySelection, by, false);
    expect(edit).toMatchObject({ name: 'push face' });
    expect(typeof edit === 'object' && edit!.changes[0].of === 'solids' && shapeOf(edit!.changes[0].to!).box.max).toEqual([64, 64, 96]);
  });
  test('says why a face cannot be pushed through its opposite', () => {
    const face: Grab = { what: { solid: 's1', face: top }, at: [32, 32, 64] };
    expect(draggedEdit(face, map, emptySelection, [0, 0, -64], false)).toEqual(expect.stringMatching(/\w/));
  });
});

test('turns go by steps of fifteen degrees, the short way round', () => {
  expect(turnBetween([0, 0], [10, 0], [8, 5], false)).toBe(30);
  expect(turnBetween([0, 0], [-10, 1], [-10, -1], false)).toBe(15);
  expect(turnBetween([0, 0], [10, 0], [10, 1], true)).toBe(5.5);
});

test('corners are snapped to before edges', () => {
  const square: [number, number][] = [
    [0, 0],
    [10, 0],
    [10, 10],
    [0, 10],
  ];
  expect(snapToOutlines([square], [9, 1], 2)).toEqual([10, 0]);
  expect(snapToOutlines([square], [5, 1], 2)).toEqual([5, 0]);
  expect(snapToOutlines([square], [5, 5], 2)).toBeNull();
});

test('a rectangle replaces, adds to or takes from what is selected', () => {
  const found = { ...noMembers, solids: ['s1', 's2'] };
  const before = { ...emptySelection, solids: ['s1'], objects: ['o1'] };
  expect(marqueed(before, found, 'replace')).toMatchObject({ solids: ['s1', 's2'], objects: [] });
  expect(marqueed(before, found, 'add')).toMatchObject({ solids: ['s1', 's2'], objects: ['o1'] });
  expect(marqueed(before, found, 'remove')).toMatchObject({ solids: [], objects: ['o1'] });
});

test('scaling by a handle carries every corner of the rectangle to the dragged one', () => {
  const from = { min: [8, -16] as [number, number], max: [40, 16] as [number, number] };
  for (const handle of [
    [-1, 0],
    [1, 1],
    [0, -1],
    [-1, 1],
  ] as [-1 | 0 | 1, -1 | 0 | 1][]) {
    const to = dragHandle(from, handle, [64, 48], 8);
    const scale = scaleOf(from, to);
    const flat = (p: [number, number]) => applyAffine(scale, [...p, 5]);
    flat(from.min).forEach((v, i) => expect(v).toBeCloseTo([...to.min, 5][i], 9));
    flat(from.max).forEach((v, i) => expect(v).toBeCloseTo([...to.max, 5][i], 9));
  }
});
