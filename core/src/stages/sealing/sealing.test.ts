import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Solid } from '../../document/schema.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { subtractSolid } from '../../solid/cut.ts';
import { block, roomShell } from '../../solid/primitives.ts';
import { solidContains } from '../../solid/solid.ts';
import { buildBsp, findPortals, leafAt } from './bsp.ts';
import { flood } from './flood.ts';

const INNER = { min: [0, 0, 0] as Vec3, max: [160, 128, 96] as Vec3 };

function floodOf(solids: Solid[], points: Vec3[]) {
  const bsp = buildBsp(solids, { extra: points });
  return flood(
    bsp,
    findPortals(bsp),
    points.map((point, i) => ({ id: `o${i}`, point })),
  );
}

/** Cells of a voxel grid that a flood from `start` reaches; true when it gets to the rim. */
function voxelLeaks(solids: Solid[], start: Vec3, step: number, from: Vec3, to: Vec3): boolean {
  const size = from.map((v, a) => Math.round((to[a] - v) / step));
  const at = (i: number, j: number, k: number) => (i * size[1] + j) * size[2] + k;
  const seen = new Uint8Array(size[0] * size[1] * size[2]);
  const cell = start.map((v, a) => Math.floor((v - from[a]) / step));
  const queue = [cell];
  seen[at(cell[0], cell[1], cell[2])] = 1;
  for (let next = queue.pop(); next; next = queue.pop()) {
    for (let axis = 0; axis < 3; axis++) {
      for (const way of [-1, 1]) {
        const to2 = [...next];
        to2[axis] += way;
        if (to2[axis] < 0 || to2[axis] >= size[axis]) return true;
        const index = at(to2[0], to2[1], to2[2]);
        if (seen[index]) continue;
        seen[index] = 1;
        const point = to2.map((v, a) => from[a] + (v + 0.5) * step) as Vec3;
        if (!solids.some((solid) => solidContains(solid, point))) queue.push(to2);
      }
    }
  }
  return false;
}

describe('BSP', () => {
  it('classifies every sampled point as the solids do', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.integer({ min: 0, max: 60 }),
            fc.integer({ min: 0, max: 60 }),
            fc.integer({ min: 0, max: 60 }),
            fc.integer({ min: 2, max: 40 }),
            fc.integer({ min: 2, max: 40 }),
            fc.integer({ min: 2, max: 40 }),
          ),
          { minLength: 1, maxLength: 8 },
        ),
        fc.array(fc.tuple(fc.integer({ min: -10, max: 110 }), fc.integer({ min: -10, max: 110 }), fc.integer({ min: -10, max: 110 })), {
          minLength: 20,
          maxLength: 20,
        }),
        (boxes, points) => {
          const solids = boxes.map(([x, y, z, w, d, h]) => block({ min: [x, y, z], max: [x + w, y + d, z + h] }, 'brick'));
          const bsp = buildBsp(solids);
          for (const p of points) {
            // Off the integer planes, where both answers would be right.
            const point: Vec3 = [p[0] + 0.37, p[1] + 0.41, p[2] + 0.43];
            expect(leafAt(bsp, point).solid).toBe(solids.some((solid) => solidContains(solid, point)));
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});

const pierced = (solid: Solid, min: Vec3, max: Vec3): Solid[] => subtractSolid(solid, block({ min, max }, 'brick'));

describe('sealing', () => {
  it('a closed room is sealed, and its inside is known', () => {
    const result = floodOf(roomShell(INNER, 16, 'brick'), [[80, 64, 40]]);
    expect(result.leaks).toEqual([]);
    expect(result.inside.size).toBeGreaterThan(0);
    expect(result.buried).toEqual([]);
  });

  it('a room without one wall leaks, and the trail leads through the hole', () => {
    const shell = roomShell(INNER, 16, 'brick');
    for (const [missing, axis, plane] of [
      [2, 0, 0],
      [3, 0, 160],
      [4, 1, 0],
      [5, 1, 128],
      [0, 2, 0],
      [1, 2, 96],
    ] as const) {
      const { leaks } = floodOf(
        shell.filter((_, i) => i !== missing),
        [[80, 64, 40]],
      );
      expect(leaks.length).toBeGreaterThan(0);
      const [leak] = leaks;
      expect(leak.trail[0]).toEqual([80, 64, 40]);
      // Some leg of the trail crosses the plane of the missing slab within the room's outline.
      const crossed = leak.trail.slice(1).some((q, i) => {
        const p = leak.trail[i];
        if ((p[axis] - plane) * (q[axis] - plane) > 0) return false;
        const t = (plane - p[axis]) / (q[axis] - p[axis] || 1);
        return [0, 1, 2].every((a) => a === axis || (p[a] + (q[a] - p[a]) * t >= INNER.min[a] - 16 && p[a] + (q[a] - p[a]) * t <= INNER.max[a] + 16));
      });
      expect(crossed).toBe(true);
    }
  });

  it('names the hole and not the inner door on the way to it', () => {
    const shell = roomShell(INNER, 16, 'brick').filter((_, i) => i !== 3);
    // An inner wall with a small door; the whole east wall is missing behind it.
    const inner = [
      block({ min: [72, 0, 0], max: [80, 48, 96] }, 'brick'),
      block({ min: [72, 80, 0], max: [80, 128, 96] }, 'brick'),
      block({ min: [72, 48, 64], max: [80, 80, 96] }, 'brick'),
    ];
    const [leak] = floodOf([...shell, ...inner], [[32, 64, 40]]).leaks;
    expect(Math.abs(leak.hole[0] - 160)).toBeLessThan(6);
    expect(leak.holeArea).toBeCloseTo(128 * 96, 0);
  });

  it('every opening is told, each once', () => {
    const [floor, ceiling, west, east, south, north] = roomShell(INNER, 16, 'brick');
    // Openings of 16 by 16 in the west and the east wall, and one of 32 by 32 in the ceiling.
    const solids = [
      floor,
      ...pierced(ceiling, [64, 48, 80], [96, 80, 128]),
      ...pierced(west, [-32, 48, 32], [16, 64, 48]),
      ...pierced(east, [150, 48, 32], [190, 64, 48]),
      south,
      north,
    ];
    const { leaks } = floodOf(solids, [[80, 64, 40]]);
    expect(leaks.map((leak) => Math.round(leak.holeArea)).sort((a, b) => a - b)).toEqual([256, 256, 1024]);
    expect(new Set(leaks.map((leak) => leak.hole.map((v) => (v < 0 ? '-' : v > 96 ? '+' : '0')).join(''))).size).toBe(3);
  });

  it('an object within a solid is reported, not flooded from', () => {
    const result = floodOf(roomShell(INNER, 16, 'brick'), [[-8, 64, 40]]);
    expect(result.buried.map((b) => b.id)).toEqual(['o0']);
  });

  it('agrees with a brute-force voxel flood on random rooms with random holes', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 5 }), fc.integer({ min: 0, max: 4 }), fc.integer({ min: 0, max: 3 })), { maxLength: 3 }),
        fc.array(fc.tuple(fc.integer({ min: -1, max: 9 }), fc.integer({ min: -1, max: 7 }), fc.integer({ min: -1, max: 5 })), { maxLength: 5 }),
        (holes, blocks) => {
          const solids: Solid[] = [];
          roomShell(INNER, 16, 'brick').forEach((slab, i) => {
            if (!holes.some(([side]) => side === i)) solids.push(slab);
          });
          // Blocks on the grid may close what a missing slab opened.
          for (const [x, y, z] of blocks)
            solids.push(block({ min: [x * 16, y * 16, z * 16], max: [x * 16 + 32, y * 16 + 32, z * 16 + 32] }, 'brick'));
          const start: Vec3 = [72, 72, 40];
          fc.pre(!solids.some((solid) => solidContains(solid, start)));
          const leaks = voxelLeaks(solids, start, 16, [-64, -64, -64], [240, 208, 176]);
          expect(floodOf(solids, [start]).leaks.length > 0).toBe(leaks);
        },
      ),
      { numRuns: 60 },
    );
  });
});
