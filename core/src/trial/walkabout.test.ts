import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Solid } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { block, cylinder, wedge } from '../solid/primitives.ts';
import { solidPolygons } from '../solid/solid.ts';
import { testProfile } from '../testing/world.ts';
import { obstacleFromBox, obstacleFromPlanes, overlapping, shiftObstacle, sweepBox, type Obstacle } from './collide.ts';
import { newWalker, stepWalker } from './move.ts';
import { TIME_STEP } from './world.ts';

const { player } = testProfile();
const half: Vec3 = [player.radius, player.radius, player.height / 2];

const obstacle = (solid: Solid, id = 's'): Obstacle =>
  obstacleFromPlanes(
    id,
    solidPolygons(solid).map(({ face }) => [...solid.faces[face].normal, solid.faces[face].distance] as [number, number, number, number]),
  );

const FLOOR = obstacle(block({ min: [-400, -400, -16], max: [400, 400, 0] }, 'brick'), 'floor');
const WALLS = [
  block({ min: [-416, -416, 0], max: [-400, 416, 200] }, 'brick'),
  block({ min: [400, -416, 0], max: [416, 416, 200] }, 'brick'),
  block({ min: [-400, -416, 0], max: [400, -400, 200] }, 'brick'),
  block({ min: [-400, 400, 0], max: [400, 416, 200] }, 'brick'),
].map((solid) => obstacle(solid, 'wall'));

const coordinate = fc.integer({ min: -20, max: 20 }).map((v) => v * 16);
const extent = fc.integer({ min: 1, max: 6 }).map((v) => v * 16);
const furniture: fc.Arbitrary<Solid> = fc
  .tuple(coordinate, coordinate, extent, extent, fc.integer({ min: 4, max: 96 }), fc.integer({ min: 0, max: 3 }))
  .map(([x, y, w, d, h, kind]) => {
    const box = { min: [x, y, 0] as Vec3, max: [x + w, y + d, h] as Vec3 };
    if (kind === 1) return wedge(box, 0, 1, 'brick');
    if (kind === 2) return cylinder(box, 8, 'brick');
    return block(box, 'brick');
  });

describe('walking about', () => {
  it('never ends up inside anything, nor outside the walls, however one walks and jumps', () => {
    fc.assert(
      fc.property(
        fc.array(furniture, { maxLength: 14 }),
        fc.array(fc.tuple(fc.double({ min: 0, max: 6.3, noNaN: true }), fc.boolean(), fc.boolean()), { minLength: 4, maxLength: 12 }),
        (solids, legs) => {
          const obstacles = [FLOOR, ...WALLS, ...solids.map((s, i) => obstacle(s, `s${i}`))];
          const walker = newWalker([0, 0, 120]);
          fc.pre(overlapping(obstacles, [0, 0, 120 + half[2]], half).length === 0);
          for (const [angle, run, jump] of legs) {
            for (let i = 0; i < 30; i++) {
              stepWalker(walker, { move: [Math.cos(angle), Math.sin(angle), 0], run, jump }, obstacles, player, TIME_STEP);
              const inside = overlapping(obstacles, [walker.feet[0], walker.feet[1], walker.feet[2] + half[2]], half);
              expect(inside.map((o) => o.id)).toEqual([]);
              expect(walker.feet[2]).toBeGreaterThan(-0.1);
              expect(Math.max(Math.abs(walker.feet[0]), Math.abs(walker.feet[1]))).toBeLessThan(400);
            }
          }
        },
      ),
      { numRuns: 40 },
    );
  });

  it('a longer way in the same direction never stops earlier', () => {
    fc.assert(
      fc.property(furniture, fc.double({ min: 0, max: 6.3, noNaN: true }), (solid, angle) => {
        const obstacles = [obstacle(solid)];
        const from: Vec3 = [-380, -380, half[2]];
        fc.pre(overlapping(obstacles, from, half).length === 0);
        const reach = (length: number) => {
          const sweep = sweepBox(obstacles, from, half, [Math.abs(Math.cos(angle)) * length, Math.abs(Math.sin(angle)) * length, 0]);
          return sweep.fraction * length;
        };
        expect(reach(900)).toBeGreaterThanOrEqual(Math.min(reach(450), 450) - 1e-6);
      }),
    );
  });

  it('a moved obstacle is met where it has moved to', () => {
    const gate = shiftObstacle(obstacleFromBox('gate', { min: [40, -50, 0], max: [48, 50, 96] }), [0, 0, 88]);
    expect(gate.box.min[2]).toBe(88);
    expect(sweepBox([gate], [0, 0, half[2]], half, [200, 0, 0]).fraction).toBe(1);
    expect(sweepBox([gate], [0, 0, 60 + half[2]], half, [200, 0, 0]).fraction).toBeLessThan(0.2);
  });
});
