import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import manifoldModule, { type ManifoldToplevel } from 'manifold-3d';
import { block } from '../../solid/primitives.ts';
import { windingArea } from '../../solid/winding.ts';
import { exposeFaces, measureExposed } from './expose.ts';

type Box = { min: [number, number, number]; max: [number, number, number] };

const boxArbitrary = fc
  .tuple(
    fc.tuple(fc.integer({ min: 0, max: 96 }), fc.integer({ min: 0, max: 96 }), fc.integer({ min: 0, max: 96 })),
    fc.tuple(fc.integer({ min: 1, max: 64 }), fc.integer({ min: 1, max: 64 }), fc.integer({ min: 1, max: 64 })),
  )
  .map(([min, size]): Box => ({ min, max: [min[0] + size[0], min[1] + size[1], min[2] + size[2]] }));

describe('exposed faces', () => {
  let wasm: ManifoldToplevel;
  beforeAll(async () => {
    wasm = await manifoldModule();
    wasm.setup();
  });

  const union = (boxes: Box[]) => {
    const parts = boxes.map(({ min, max }) => wasm.Manifold.cube([max[0] - min[0], max[1] - min[1], max[2] - min[2]]).translate(min));
    const whole = wasm.Manifold.union(parts);
    const result = { volume: whole.volume(), area: whole.surfaceArea() };
    whole.delete();
    parts.forEach((part) => part.delete());
    return result;
  };

  // Outside reference: the union of the same boxes by manifold-3d.
  it('enclose the volume and area of the union, on random overlapping boxes', () => {
    fc.assert(
      fc.property(fc.array(boxArbitrary, { minLength: 1, maxLength: 14 }), (boxes) => {
        const solids = boxes.map((b) => block(b, 'brick'));
        const ours = measureExposed(solids, exposeFaces(solids));
        const theirs = union(boxes);
        expect(Math.abs(ours.volume - theirs.volume)).toBeLessThan(1e-3 * theirs.volume + 0.01);
        expect(Math.abs(ours.area - theirs.area)).toBeLessThan(1e-3 * theirs.area + 0.01);
      }),
      { numRuns: 150 },
    );
  });

  it('vanish where two blocks touch face to face', () => {
    const solids = [block({ min: [0, 0, 0], max: [16, 16, 16] }, 'a'), block({ min: [16, 0, 0], max: [32, 16, 16] }, 'b')];
    const exposed = exposeFaces(solids);
    expect(exposed.some((p) => p.winding.every((q) => q[0] === 16))).toBe(false);
    expect(measureExposed(solids, exposed).area).toBeCloseTo(2 * (32 * 16 * 2 + 16 * 16), 6);
  });

  it('are kept once where two blocks share a face’s plane and direction', () => {
    const solids = [block({ min: [0, 0, 0], max: [16, 16, 16] }, 'a'), block({ min: [8, 0, 0], max: [24, 16, 16] }, 'b')];
    const tops = exposeFaces(solids).filter((p) => p.winding.every((q) => q[2] === 16));
    expect(tops.reduce((sum, p) => sum + windingArea(p.winding), 0)).toBeCloseTo(24 * 16, 6);
  });

  it('of a translucent solid do not hide what is behind', () => {
    const solids = [block({ min: [0, 0, 0], max: [16, 16, 16] }, 'glass'), block({ min: [4, 4, 4], max: [12, 12, 12] }, 'brick')];
    const exposed = exposeFaces(solids, (solid) => solid.faces[0].material !== 'glass');
    expect(exposed.filter((p) => p.solid === 1)).toHaveLength(6);
  });
});
