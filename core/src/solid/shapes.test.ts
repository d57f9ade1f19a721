import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Solid } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import { testProfile } from '../testing/world.ts';
import { solidsOverlap } from './cut.ts';
import { roomWithOpenings } from './primitives.ts';
import { shapeOf } from './shape.ts';
import { SHAPES, shapeById } from './shapes.ts';
import { solidContains, solidVolume } from './solid.ts';
import { checkSolid } from '../check/checkSolid.ts';
import { bestSteps, checkStair } from './stairs.ts';

const profile = testProfile();
const box: Box3 = { min: [0, 0, 0], max: [256, 192, 128] };
const volumeOf = (list: readonly Solid[]) => list.reduce((sum, solid) => sum + solidVolume(solid), 0);
const make = (id: string, values: Record<string, number | string> = {}, at = box) =>
  shapeById(id).make(at, { ...shapeById(id).defaults(profile), ...values }, 'brick');

describe('shapes', () => {
  it.each(SHAPES.map((shape) => shape.id))('%s is made of closed convex solids within its box', (id) => {
    const list = make(id);
    const shell = id === 'room' ? profile.shellThickness : 0;
    expect(list.length).toBeGreaterThan(0);
    for (const solid of list) {
      expect(checkSolid('s', solid, 'hall')).toEqual([]);
      const { min, max } = shapeOf(solid).box;
      for (let axis = 0; axis < 3; axis++) {
        expect(min[axis]).toBeGreaterThanOrEqual(box.min[axis] - shell - 0.01);
        expect(max[axis]).toBeLessThanOrEqual(box.max[axis] + shell + 0.01);
      }
    }
  });

  // Solid geometry of the handbooks: cone a third of the prism, regular n-gon of radius r: n/2 r² sin(2π/n).
  it('cone, cylinder and wedge have their volumes by formula', () => {
    const square: Box3 = { min: [-32, -32, 0], max: [32, 32, 96] };
    const base = (12 / 2) * 32 ** 2 * Math.sin((2 * Math.PI) / 12);
    expect(volumeOf(make('cone', { sides: 12 }, square)) / ((base * 96) / 3)).toBeCloseTo(1, 3);
    expect(volumeOf(make('cylinder', { sides: 12 }, square)) / (base * 96)).toBeCloseTo(1, 4);
    expect(volumeOf(make('wedge'))).toBeCloseTo((256 * 192 * 128) / 2, 0);
    const ball = volumeOf(make('sphere', { sides: 24 }, { min: [-32, -32, -32], max: [32, 32, 32] }));
    expect(ball / ((4 / 3) * Math.PI * 32 ** 3)).toBeGreaterThan(0.95);
    expect(ball / ((4 / 3) * Math.PI * 32 ** 3)).toBeLessThan(1);
  });

  it('an arch leaves its opening free, and its stones meet without overlapping', () => {
    const stones = make('arch', { along: 'x', segments: 9, thickness: 16 });
    expect(stones).toHaveLength(9);
    expect(stones.some((stone) => solidContains(stone, [128, 96, 20]))).toBe(false);
    expect(stones.some((stone) => solidContains(stone, [128, 96, 120]))).toBe(true);
    for (let i = 1; i < stones.length; i++) expect(solidsOverlap(stones[i - 1], stones[i])).toBe(false);
  });

  it('a ramp is of even thickness, and rises the way it is told', () => {
    const [ramp] = make('ramp', { towards: '-y', thickness: 8 });
    const top = ramp.faces.filter((face) => face.normal[2] > 0.1);
    const below = ramp.faces.filter((face) => face.normal[2] < -0.1 && face.normal[2] > -0.999);
    expect(top).toHaveLength(1);
    expect(top[0].distance + below[0].distance).toBeCloseTo(8, 6);
    expect(solidContains(ramp, [128, 2, 124])).toBe(true);
    expect(solidContains(ramp, [128, 190, 124])).toBe(false);
  });

  it.each(['stair', 'arc', 'spiral'])('%s rises by even risers that the player can climb', (id) => {
    const tops = make(id, {}, { min: [0, 0, 0], max: [320, 320, 120] })
      .map((step) => Math.round(shapeOf(step).box.max[2] * 1000) / 1000)
      .filter((z, i, all) => z < 120 || all.indexOf(z) === i)
      .sort((a, b) => a - b);
    const steps = [...new Set(tops)];
    for (let i = 1; i < steps.length; i++) expect(steps[i] - steps[i - 1]).toBeCloseTo(steps[0], 1);
    expect(steps[0]).toBeLessThanOrEqual(profile.player.stepHeight);
    expect(steps[steps.length - 1]).toBeCloseTo(120, 6);
  });

  it('a room with a door and a window loses just their volume', () => {
    const inner: Box3 = { min: [0, 0, 0], max: [256, 256, 128] };
    const whole = volumeOf(roomWithOpenings(inner, 16, [], 'brick'));
    const open = roomWithOpenings(
      inner,
      16,
      [
        { wall: 'south', at: 0.5, width: 48, sill: 0, height: 80 },
        { wall: 'east', at: 0.5, width: 64, sill: 48, height: 40 },
      ],
      'brick',
    );
    expect(whole - volumeOf(open)).toBeCloseTo(16 * (48 * 80 + 64 * 40), 2);
    expect(open.some((solid) => solidContains(solid, [128, -8, 40]))).toBe(false);
    expect(open.some((solid) => solidContains(solid, [128, -8, 100]))).toBe(true);
  });
});

describe('stairs', () => {
  // Blondel's rule as builders' handbooks give it: two risers and a tread make 600 to 640 mm.
  it('knows a comfortable stair: 170 mm risers and 290 mm treads', () => {
    const verdict = checkStair(170, 290, 300, 0.001);
    expect(verdict).toMatchObject({ climbable: true, comfortable: true });
    expect(verdict.stride).toBeCloseTo(0.63, 9);
  });

  it.each([
    [150, 250, 'short'],
    [190, 300, 'long'],
  ])('a stair of %d by %d mm is too %s', (riser, tread, way) => {
    const verdict = checkStair(riser, tread, 300, 0.001);
    expect(verdict.comfortable).toBe(false);
    expect(verdict.says).toContain(way);
  });

  it('a stair of treads too short to stand on is not comfortable, whatever its stride', () => {
    expect(checkStair(270, 80, 400, 0.001)).toMatchObject({ climbable: true, comfortable: false, says: expect.stringContaining('too short') });
  });

  it.each([90, 180, 300])('an arc stair of %d° fills the box that was drawn', (degrees) => {
    const steps = make('arc', { degrees }, { min: [10, 20, 0], max: [330, 260, 100] });
    const boxes = steps.map((step) => shapeOf(step).box);
    const low = [0, 1].map((axis) => Math.min(...boxes.map((b) => b.min[axis])));
    const high = [0, 1].map((axis) => Math.max(...boxes.map((b) => b.max[axis])));
    // Steps are chords of the circle: they may stay a little inside it.
    [low[0] - 10, low[1] - 20, 330 - high[0], 260 - high[1]].forEach((gap) => {
      expect(gap).toBeGreaterThan(-0.01);
      expect(gap).toBeLessThan(8);
    });
  });

  it('says when the player cannot step that high', () => {
    expect(checkStair(16, 16, profile.player.stepHeight, profile.unit.metres)).toMatchObject({ climbable: false });
  });

  it('the number of steps chosen is climbable and no neighbour is more comfortable', () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 400 }), fc.integer({ min: 40, max: 800 }), (rise, run) => {
        const steps = bestSteps(rise, run, 13, 0.03125);
        expect(rise / steps).toBeLessThanOrEqual(13 + 1e-9);
        const off = (n: number) => Math.abs(((2 * rise) / n + run / n) * 0.03125 - 0.62);
        if (rise / (steps - 1) <= 13) expect(off(steps)).toBeLessThanOrEqual(off(steps - 1) + 1e-9);
      }),
    );
  });

  it('a spiral of too many turns says how little headroom it leaves', () => {
    const spiral = shapeById('spiral');
    const note = spiral.note!({ min: [0, 0, 0], max: [128, 128, 128] }, { ...spiral.defaults(profile), turns: 3 }, profile);
    expect(note).toMatchObject({ good: false, says: expect.stringContaining('headroom') });
  });
});
