import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { block, cylinder, wedge } from '@violet-crate/core/solid/primitives';
import { dragHandle, handleAt } from '../flat/projection/handles.ts';
import { fitSheet, toScreen, toSheet } from '../../common/sheet.ts';
import { convexHull, insideOutline, sectionDirection, shapeOf, sliceSolid, type Point2 } from '@violet-crate/core/solid/shape';

const area = (outline: readonly Point2[]) =>
  outline.reduce((sum, [x, y], i) => {
    const [nx, ny] = outline[(i + 1) % outline.length];
    return sum + (x * ny - nx * y) / 2;
  }, 0);

const point = fc.tuple(fc.integer({ min: -500, max: 500 }), fc.integer({ min: -500, max: 500 }));

describe('outlines', () => {
  it('a hull holds all its points and turns one way', () => {
    fc.assert(
      fc.property(fc.array(point, { minLength: 3, maxLength: 30 }), (points) => {
        const hull = convexHull(points as Point2[]);
        fc.pre(hull.length >= 3 && area(hull) > 1);
        for (const p of points) expect(insideOutline(hull, p as Point2)).toBe(true);
      }),
    );
  });

  it('points that differ by rounding do not cost a corner', () => {
    const noisy: Point2[] = [
      [10, 8],
      [10 + 1e-10, 224],
      [10 - 1e-10, 8 + 1e-10],
      [18, 224],
      [18 + 1e-10, 8],
      [18, 8],
    ];
    expect(area(convexHull(noisy))).toBeCloseTo(8 * 216, 3);
  });

  it('of a block seen from above is its rectangle; values are kept for the same solid', () => {
    const solid = block({ min: [0, 0, 0], max: [32, 16, 8] }, 'brick');
    expect(area(shapeOf(solid).outline)).toBeCloseTo(512, 6);
    expect(shapeOf(solid)).toBe(shapeOf(solid));
  });
});

describe('sections', () => {
  const line = { from: [-100, 8] as Point2, to: [100, 8] as Point2 };

  it('a block is cut as width by height, whichever way the line runs', () => {
    const solid = block({ min: [0, 0, 16], max: [32, 16, 64] }, 'brick');
    expect(area(sliceSolid(solid, line)!)).toBeCloseTo(32 * 48, 4);
    expect(area(sliceSolid(solid, { from: [8, 100], to: [8, -100] })!)).toBeCloseTo(16 * 48, 4);
    const diagonal = sliceSolid(solid, { from: [0, 0], to: [16, 16] })!;
    expect(area(diagonal)).toBeCloseTo(16 * Math.SQRT2 * 48, 0);
  });

  it('a wedge shows its triangle, a cylinder its rectangle', () => {
    expect(area(sliceSolid(wedge({ min: [0, 0, 0], max: [64, 16, 32] }, 0, 1, 'brick'), line)!)).toBeCloseTo((64 * 32) / 2, 3);
    const pipe = sliceSolid(cylinder({ min: [0, -8, 0], max: [24, 16, 96] }, 12, 'brass'), { from: [-50, 4], to: [50, 4] })!;
    expect(pipe).toHaveLength(4);
    expect(Math.max(...pipe.map((p) => p[1])) - Math.min(...pipe.map((p) => p[1]))).toBeCloseTo(96, 6);
  });

  it('what the line misses is not shown', () => {
    expect(sliceSolid(block({ min: [0, 20, 0], max: [8, 30, 8] }, 'brick'), line)).toBeNull();
    expect(sectionDirection({ from: [0, 0], to: [3, 4] })).toEqual([0.6, 0.8]);
  });
});

describe('sheets', () => {
  const canvas = { width: 640, height: 400 };

  it('screen and sheet coordinates are inverse, and v grows upwards', () => {
    fc.assert(
      fc.property(point, point, fc.double({ min: 0.05, max: 30, noNaN: true }), (centre, at, scale) => {
        const sheet = { centre: centre as Point2, scale };
        const back = toSheet(sheet, canvas, toScreen(sheet, canvas, at as Point2));
        expect(back[0]).toBeCloseTo(at[0], 6);
        expect(back[1]).toBeCloseTo(at[1], 6);
      }),
    );
    const sheet = { centre: [0, 0] as Point2, scale: 1 };
    expect(toScreen(sheet, canvas, [0, 10])[1]).toBeLessThan(toScreen(sheet, canvas, [0, 0])[1]);
  });

  it('fitting shows the whole rectangle', () => {
    const sheet = fitSheet(canvas, [-100, 0], [900, 200]);
    for (const corner of [
      [-100, 0],
      [900, 200],
    ] as Point2[]) {
      const [x, y] = toScreen(sheet, canvas, corner);
      expect(x).toBeGreaterThanOrEqual(0);
      expect(x).toBeLessThanOrEqual(canvas.width);
      expect(y).toBeGreaterThanOrEqual(0);
      expect(y).toBeLessThanOrEqual(canvas.height);
    }
  });

  it('handles are met at their place and never turn a rectangle inside out', () => {
    const rect = { min: [0, 0] as Point2, max: [64, 32] as Point2 };
    const sheet = { centre: [32, 16] as Point2, scale: 4 };
    expect(handleAt(rect, sheet, canvas, [64, 32])).toEqual([1, 1]);
    expect(handleAt(rect, sheet, canvas, [0, 16])).toEqual([-1, 0]);
    expect(handleAt(rect, sheet, canvas, [32, 16])).toBeNull();
    fc.assert(
      fc.property(point, fc.constantFrom([-1, -1], [0, 1], [1, 0], [1, 1], [-1, 0]), (to, handle) => {
        const next = dragHandle(rect, handle as [-1 | 0 | 1, -1 | 0 | 1], to as Point2, 1);
        expect(next.max[0] - next.min[0]).toBeGreaterThanOrEqual(1);
        expect(next.max[1] - next.min[1]).toBeGreaterThanOrEqual(1);
      }),
    );
  });
});
