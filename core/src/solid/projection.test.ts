import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { dot, type Vec3 } from '../math/vec3.ts';
import { wedge } from './primitives.ts';
import { shapeOf } from './shape.ts';
import { rotation, transformSolid } from './transform.ts';
import { faceAxes, fitProjection, projectPoint, texelDensity, wrapProjection } from './projection.ts';

describe('texture projection', () => {
  const face = (normal: Vec3, distance = 0) => ({ normal, distance, material: 'brick' });

  it('carried along, every point keeps its coordinates through any turn, mirror and move', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 }), fc.integer({ min: -180, max: 180 }), fc.integer({ min: -90, max: 90 }), (axis, degrees, turn) => {
        const start = wedge({ min: [0, 0, 0], max: [64, 48, 32] }, 0, 1, 'brick');
        start.faces = start.faces.map((f) => ({ ...f, turn, shift: [5, -3] as [number, number], scale: 0.5 }));
        const affine = rotation(axis as 0 | 1 | 2, degrees, [8, 9, 10]);
        const moved = transformSolid(start, affine, true);
        for (const { face: i, winding } of shapeOf(start).polygons) {
          for (const p of winding) {
            const q: Vec3 = [0, 1, 2].map((k) => dot(affine.rows[k], p) + affine.move[k]) as Vec3;
            const [before, after] = [projectPoint(start.faces[i], p, 64), projectPoint(moved.faces[i], q, 64)];
            expect(Math.hypot(before[0] - after[0], before[1] - after[1])).toBeLessThan(1e-6);
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  it('wraps around a corner without a seam: points of the common edge agree', () => {
    const from = { ...face([0, -1, 0], 0), turn: 20, scale: 2, shift: [7, 3] as [number, number] };
    const slope: Vec3 = [Math.SQRT1_2, 0, Math.SQRT1_2];
    for (const to of [face([1, 0, 0], 64), face(slope, 50)]) {
      const next = wrapProjection(from, to);
      const onEdge = (z: number): Vec3 => (to.normal[2] === 0 ? [64, 0, z] : [(50 - slope[2] * z) / slope[0], 0, z]);
      for (const z of [0, 13, 48]) {
        const [a, b] = [projectPoint(from, onEdge(z), 64), projectPoint(next, onEdge(z), 64)];
        expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(1e-6);
      }
      expect(next.material).toBe('brick');
    }
  });

  it('fits so that the texture covers the face from edge to edge', () => {
    const ring: Vec3[] = [
      [10, 0, 5],
      [90, 0, 5],
      [90, 0, 45],
      [10, 0, 45],
    ];
    const fitted = fitProjection(face([0, -1, 0]), ring, 64, [2, 1]);
    const uv = ring.map((p) => projectPoint(fitted, p, 64));
    expect(Math.max(...uv.map(([u]) => u)) - Math.min(...uv.map(([u]) => u))).toBeCloseTo(2, 9);
    expect(Math.min(...uv.map(([, v]) => v))).toBeCloseTo(0, 9);
    expect(Math.max(...uv.map(([, v]) => v))).toBeCloseTo(1, 9);
  });

  it('texel density: 256 texels over a repeat of 64 units of 1/32 m are 128 per metre; along a slope the face’s own axes keep it', () => {
    expect(texelDensity(face([0, 0, 1]), 64, 256, 1 / 32)).toBeCloseTo(128, 9);
    const slope: Vec3 = [Math.SQRT1_2, 0, Math.SQRT1_2];
    expect(texelDensity(face(slope), 64, 256, 1 / 32)).toBeCloseTo(128 * Math.SQRT1_2, 9);
    expect(texelDensity({ ...face(slope), axes: faceAxes(slope) }, 64, 256, 1 / 32)).toBeCloseTo(128, 9);
  });
});
