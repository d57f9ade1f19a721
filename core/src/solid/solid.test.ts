import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { boxSize } from '../math/box3.ts';
import { block, cylinder, roomShell, straightStair, wedge } from './primitives.ts';
import { moveSolid, resizeSolid, solidBox, solidContains, solidPolygons, solidVolume } from './solid.ts';
import { checkSolid } from '../check/checkSolid.ts';
import { newell, splitWinding, windingArea } from './winding.ts';

const box = (min: [number, number, number], max: [number, number, number]) => ({ min, max });

describe('solids', () => {
  it('a block has six faces and the volume of its edges', () => {
    const solid = block(box([0, -16, 8], [64, 16, 24]), 'brick');
    expect(solidPolygons(solid)).toHaveLength(6);
    expect(solidVolume(solid)).toBeCloseTo(64 * 32 * 16, 6);
    expect(solidBox(solid)).toEqual(box([0, -16, 8], [64, 16, 24]));
  });

  it('a block’s polygons are those that clipping finds, each seen counter-clockwise from outside', () => {
    const plain = block(box([-5, 3, 0.5], [64, 48, 32]), 'brick');
    // A seventh plane that bounds nothing makes the solid go through clipping.
    const clipped = { faces: [...plain.faces, { normal: [0, 0, 1] as [number, number, number], distance: 500, material: 'brick' }] };
    const key = (winding: number[][]) =>
      winding
        .map((p) => p.join())
        .sort()
        .join(' ');
    const [ours, theirs] = [solidPolygons(plain), solidPolygons(clipped)];
    expect(ours.map((p) => [p.face, key(p.winding)])).toEqual(theirs.map((p) => [p.face, key(p.winding)]));
    for (const { face, winding } of ours) {
      const n = newell(winding);
      expect(n.map((v) => Math.sign(v) + 0)).toEqual(plain.faces[face].normal.map((v) => Math.sign(v) + 0));
    }
  });

  it('a wedge is half its box', () => {
    for (const axis of [0, 1] as const) {
      for (const rising of [1, -1] as const) {
        const solid = wedge(box([0, 0, 0], [64, 48, 32]), axis, rising, 'brick');
        expect(solidPolygons(solid)).toHaveLength(5);
        expect(solidVolume(solid)).toBeCloseTo((64 * 48 * 32) / 2, 3);
      }
    }
  });

  it('a cylinder has the volume of its regular prism: n/2 r² sin(2π/n) h', () => {
    const solid = cylinder(box([-16, -16, 0], [16, 16, 64]), 12, 'brick');
    expect(solidVolume(solid)).toBeCloseTo(6 * 256 * Math.sin(Math.PI / 6) * 64, 0);
  });

  it('a room shell encloses exactly its inner box', () => {
    const shell = roomShell(box([0, 0, 0], [128, 96, 64]), 16, 'brick');
    const volume = shell.reduce((sum, solid) => sum + solidVolume(solid), 0);
    expect(volume).toBeCloseTo(160 * 128 * 96 - 128 * 96 * 64, 3);
  });

  it('a stair rises evenly', () => {
    const steps = straightStair(box([0, 0, 0], [90, 64, 55]), 0, 1, 10, 'slate');
    expect(steps.map((s) => solidBox(s).max[2])).toEqual([5.5, 11, 16.5, 22, 27.5, 33, 38.5, 44, 49.5, 55]);
  });

  it('moving and resizing keep the shape', () => {
    fc.assert(
      fc.property(
        fc.tuple(fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 })),
        fc.integer({ min: 1, max: 8 }),
        (by, factor) => {
          const solid = cylinder(box([0, 0, 0], [32, 48, 16]), 7, 'brick');
          const moved = moveSolid(solid, by);
          expect(solidVolume(moved)).toBeCloseTo(solidVolume(solid), 3);
          const from = solidBox(solid);
          const size = boxSize(from);
          const resized = resizeSolid(solid, {
            min: from.min,
            max: [from.min[0] + size[0] * factor, from.min[1] + size[1], from.min[2] + size[2] * 2],
          });
          expect(solidVolume(resized)).toBeCloseTo(solidVolume(solid) * factor * 2, 1);
        },
      ),
      { numRuns: 50 },
    );
  });

  it('contains its inside and not its outside', () => {
    const solid = block(box([0, 0, 0], [8, 8, 8]), 'brick');
    expect(solidContains(solid, [4, 4, 4])).toBe(true);
    expect(solidContains(solid, [9, 4, 4])).toBe(false);
  });

  it('an open solid is a blocker with a fix', () => {
    const solid = block(box([0, 0, 0], [8, 8, 8]), 'brick');
    const open = { faces: solid.faces.slice(0, 5) };
    const [finding] = checkSolid('s1', open, 'hall');
    expect(finding.code).toBe('solid-open');
    expect(finding.fix?.kind).toBe('edit');
  });
});

describe('windings', () => {
  it('splitting conserves area', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -20, max: 20, noNaN: true }),
        (a, b, distance) => {
          const size = Math.hypot(a, b);
          fc.pre(size > 0.1);
          const winding = solidPolygons(block(box([-16, -16, 0], [16, 16, 32]), 'x'))[4].winding;
          const { front, back, on } = splitWinding(winding, { normal: [a / size, b / size, 0], distance });
          expect(on).toBe(false);
          expect((front ? windingArea(front) : 0) + (back ? windingArea(back) : 0)).toBeCloseTo(1024, 0);
        },
      ),
    );
  });
});
