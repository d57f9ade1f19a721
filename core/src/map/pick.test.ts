import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { dot, type Vec3 } from '../math/vec3.ts';
import { cylinder } from '../solid/primitives.ts';
import { shapeOf } from '../solid/shape.ts';
import { solidContains } from '../solid/solid.ts';
import { rotation, transformSolid } from '../solid/transform.ts';
import { surfaceBelow } from './member/collider.ts';
import { collidersOf } from './member/members.ts';
import { pickSolids } from './pick.ts';
import { blank, withChanges, cube, solid } from '../testing/maps.ts';

describe('picking', () => {
  // Ray parity, an independent rule: a point is inside where a ray from it crosses the surface an odd number of times.
  it('point in solid agrees with ray parity', () => {
    const shape = transformSolid(cylinder({ min: [-20, -20, -20], max: [20, 20, 20] }, 7, 'brick'), rotation(0, 35, [0, 0, 0]));
    const inRange = fc.double({ min: -30, max: 30, noNaN: true });
    fc.assert(
      fc.property(inRange, inRange, inRange, (x, y, z) => {
        const direction: Vec3 = [0.9, 0.31, 0.22];
        let crossings = 0;
        for (const { face, winding } of shapeOf(shape).polygons) {
          const { normal, distance } = shape.faces[face];
          const t = (distance - dot(normal, [x, y, z])) / dot(normal, direction);
          if (t < 0) continue;
          const p: Vec3 = [x + direction[0] * t, y + direction[1] * t, z + direction[2] * t];
          const inside = winding.every((a, i) => {
            const b = winding[(i + 1) % winding.length];
            const edge: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
            const to: Vec3 = [p[0] - a[0], p[1] - a[1], p[2] - a[2]];
            return dot([edge[1] * to[2] - edge[2] * to[1], edge[2] * to[0] - edge[0] * to[2], edge[0] * to[1] - edge[1] * to[0]], normal) >= 0;
          });
          if (inside) crossings++;
        }
        fc.pre(shape.faces.every((f) => Math.abs(dot(f.normal, [x, y, z]) - f.distance) > 0.01));
        expect(solidContains(shape, [x, y, z])).toBe(crossings % 2 === 1);
      }),
    );
  });

  it('what a ray meets comes nearest first, with the face it enters by', () => {
    const map = withChanges(blank(), solid('s1', cube([0, 0, 0])), solid('s2', cube([40, 0, 0])));
    const hits = pickSolids(map.solids, [-50, 8, 8], [1, 0, 0]);
    expect(hits.map((h) => [h.solid, h.t])).toEqual([
      ['s1', 50],
      ['s2', 90],
    ]);
    expect(map.solids.s1.faces[hits[0].face].normal).toEqual([-1, 0, 0]);
    expect(pickSolids(map.solids, [-50, 8, 8], [1, 0, 0], (id) => id !== 's1')).toHaveLength(1);
    expect(surfaceBelow(collidersOf(map), [8, 8, 100])).toBe(16);
    expect(surfaceBelow(collidersOf(map), [30, 8, 100])).toBeNull();
  });
});
