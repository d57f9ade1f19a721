import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import manifoldModule, { type Manifold, type ManifoldToplevel } from 'manifold-3d';
import { Matrix4, Vector3 } from 'three';
import type { Solid } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import { dot, type Vec3 } from '../math/vec3.ts';
import {
  extrudeFace,
  hollowSolid,
  intersectSolids,
  mergeSolids,
  pushFace,
  ringCut,
  solidsOverlap,
  splitSolid,
  subtractSolid,
  unionVolume,
} from './cut.ts';
import { hullSolid } from './hull.ts';
import { block, cone, cylinder, sphere, wedge } from './primitives.ts';
import { moveCorners, skeletonOf } from './reshape.ts';
import { shapeOf } from './shape.ts';
import { solidContains, solidVolume } from './solid.ts';
import { applyAffine, determinant, rotation, scaling, shearing, transformSolid } from './transform.ts';

let wasm: ManifoldToplevel;
beforeAll(async () => {
  wasm = await manifoldModule();
  wasm.setup();
});

const cornersOf = (solid: Solid): Vec3[] => skeletonOf(solid).corners;
const asManifold = (solid: Solid): Manifold => wasm.Manifold.hull(cornersOf(solid));

const range = (min: number, max: number) => fc.integer({ min, max });
const boxes: fc.Arbitrary<Box3> = fc
  .tuple(range(-40, 40), range(-40, 40), range(-40, 40), range(4, 60), range(4, 60), range(4, 60))
  .map(([x, y, z, w, d, h]) => ({ min: [x, y, z], max: [x + w, y + d, z + h] }));
const solids: fc.Arbitrary<Solid> = fc.tuple(boxes, range(0, 4), range(0, 23)).map(([box, kind, turns]) => {
  const made = [block(box, 'a'), wedge(box, 0, 1, 'a'), cylinder(box, 7, 'a'), cone(box, 6, 'a'), sphere(box, 6, 'a')][kind];
  return transformSolid(made, rotation((turns % 3) as 0 | 1 | 2, turns * 15, [3, -5, 7]));
});

// manifold-3d is an independent implementation of solids by triangles.
describe('solids against manifold-3d', () => {
  it('intersection and subtraction have its volumes', () => {
    fc.assert(
      fc.property(solids, solids, (a, b) => {
        const [ma, mb] = [asManifold(a), asManifold(b)];
        const common = intersectSolids([a, b]);
        const scale = 1 + solidVolume(a) * 1e-3;
        expect(Math.abs((common ? solidVolume(common) : 0) - wasm.Manifold.intersection(ma, mb).volume()) / scale).toBeLessThan(1);
        const rest = subtractSolid(a, b).reduce((sum, piece) => sum + solidVolume(piece), 0);
        expect(Math.abs(rest - wasm.Manifold.difference(ma, mb).volume()) / scale).toBeLessThan(1);
      }),
      { numRuns: 150 },
    );
  });

  it('a sliver that ends in a face too small to see stays a sliver', () => {
    // The last but one plane of the can passes within a few hundredths of an edge of what is left of the bar.
    const bar = transformSolid(block({ min: [0, 0, 0], max: [10, 4, 4] }, 'a'), rotation(1, 285, [3, -5, 7]));
    const can = transformSolid(cylinder({ min: [2, 0, -1], max: [6, 6, 3] }, 7, 'a'), rotation(1, 240, [3, -5, 7]));
    const rest = subtractSolid(bar, can).reduce((sum, piece) => sum + solidVolume(piece), 0);
    expect(rest).toBeCloseTo(wasm.Manifold.difference(asManifold(bar), asManifold(can)).volume(), 1);
  });

  it('the union of several has its volume', () => {
    fc.assert(
      fc.property(fc.array(solids, { minLength: 2, maxLength: 5 }), (list) => {
        const volume = wasm.Manifold.union(list.map(asManifold)).volume();
        expect(Math.abs(unionVolume(list) - volume) / volume).toBeLessThan(2e-3);
      }),
      { numRuns: 60 },
    );
  });

  it('the hull of points has its volume', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(range(-50, 50), range(-50, 50), range(-50, 50)), { minLength: 4, maxLength: 24 }), (points) => {
        const hull = hullSolid(points as Vec3[], block({ min: [0, 0, 0], max: [1, 1, 1] }, 'a').faces);
        const reference = wasm.Manifold.hull(points as Vec3[]).volume();
        fc.pre(reference > 1);
        expect(Math.abs(solidVolume(hull!) - reference) / reference).toBeLessThan(2e-3);
      }),
      { numRuns: 100 },
    );
  });
});

describe('turning and stretching', () => {
  it('turns like three’s matrices', () => {
    fc.assert(
      fc.property(range(0, 2), range(-360, 360), fc.tuple(range(-50, 50), range(-50, 50), range(-50, 50)), (axis, degrees, p) => {
        const centre: Vec3 = [4, -6, 8];
        const ours = applyAffine(rotation(axis as 0 | 1 | 2, degrees, centre), p as Vec3);
        const direction = new Vector3(...[0, 1, 2].map((i) => (i === axis ? 1 : 0)));
        const theirs = new Vector3(...p)
          .sub(new Vector3(...centre))
          .applyMatrix4(new Matrix4().makeRotationAxis(direction, (degrees * Math.PI) / 180))
          .add(new Vector3(...centre));
        expect(Math.hypot(ours[0] - theirs.x, ours[1] - theirs.y, ours[2] - theirs.z)).toBeLessThan(1e-9);
      }),
    );
  });

  it('volumes change by the determinant, mirrors included, and points go where the solid goes', () => {
    fc.assert(
      fc.property(solids, range(-3, 3), range(1, 3), range(-2, 2), (solid, x, y, shear) => {
        fc.pre(x !== 0);
        for (const affine of [scaling([x, y, 1.5], [1, 2, 3]), shearing(0, 2, shear / 2, [0, 0, 0])]) {
          const moved = transformSolid(solid, affine);
          const wanted = solidVolume(solid) * Math.abs(determinant(affine));
          expect(Math.abs(solidVolume(moved) - wanted) / wanted).toBeLessThan(5e-3);
          for (const corner of cornersOf(solid)) expect(solidContains(moved, applyAffine(affine, corner), 0.05)).toBe(true);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('four right angles give back the identical solid', () => {
    const solid = wedge({ min: [0, 16, 0], max: [64, 48, 32] }, 0, 1, 'brick');
    let turned = solid;
    for (let i = 0; i < 4; i++) turned = transformSolid(turned, rotation(2, 90, [16, 16, 0]));
    for (const [i, face] of turned.faces.entries()) {
      expect(face.distance).toBeCloseTo(solid.faces[i].distance, 9);
      face.normal.forEach((n, axis) => expect(n).toBeCloseTo(solid.faces[i].normal[axis], 12));
    }
    expect(() => transformSolid(solid, scaling([1, 0, 1], [0, 0, 0]))).toThrow(RangeError);
  });
});

describe('cutting', () => {
  const cube = block({ min: [0, 0, 0], max: [64, 64, 64] }, 'brick');

  it('both sides of a cut together are the whole', () => {
    fc.assert(
      fc.property(solids, range(0, 359), range(-30, 30), (solid, degrees, distance) => {
        const angle = (degrees * Math.PI) / 180;
        const { front, back } = splitSolid(solid, { normal: [Math.cos(angle), Math.sin(angle), 0], distance });
        const sum = (front ? solidVolume(front) : 0) + (back ? solidVolume(back) : 0);
        expect(Math.abs(sum - solidVolume(solid)) / solidVolume(solid)).toBeLessThan(5e-3);
      }),
      { numRuns: 100 },
    );
  });

  it('a plane beside the solid leaves it as it is', () => {
    expect(splitSolid(cube, { normal: [1, 0, 0], distance: 64 })).toEqual({ front: null, back: cube });
  });

  it('rings are of equal depth', () => {
    const parts = ringCut(cube, [0, 0, 1], 4);
    expect(parts.map((part) => shapeOf(part).box.max[2])).toEqual([16, 32, 48, 64]);
  });

  it('hollowing leaves walls that overlap nowhere and enclose the inside', () => {
    const walls = hollowSolid(cube, 8) as Solid[];
    expect(walls).toHaveLength(6);
    expect(walls.reduce((sum, wall) => sum + solidVolume(wall), 0)).toBeCloseTo(64 ** 3 - 48 ** 3, 3);
    for (const a of walls) for (const b of walls) if (a !== b) expect(solidsOverlap(a, b)).toBe(false);
    const outside = hollowSolid(cube, -8) as Solid[];
    expect(outside.reduce((sum, wall) => sum + solidVolume(wall), 0)).toBeCloseTo(80 ** 3 - 64 ** 3, 3);
    expect(hollowSolid(cube, 32)).toContain('too small');
  });

  it('merges only what is convex together, and says how far it is from that', () => {
    const [low, high] = ringCut(cube, [0, 0, 1], 2);
    const whole = mergeSolids([low, high]) as Solid;
    expect(whole.faces).toHaveLength(6);
    expect(solidVolume(whole)).toBeCloseTo(64 ** 3, 3);
    const beside = block({ min: [64, 0, 0], max: [96, 64, 32] }, 'brick');
    expect(mergeSolids([cube, beside])).toMatch(/not convex: \d+(\.\d)? % /);
  });

  it('pushes a face until another would vanish', () => {
    const top = cube.faces.findIndex((face) => face.normal[2] === 1);
    expect(shapeOf(pushFace(cube, top, -16) as Solid).box.max[2]).toBe(48);
    expect(pushFace(cube, top, -64)).toBe('Nothing would be left of the solid.');
    const slope = wedge({ min: [0, 0, 0], max: [64, 64, 64] }, 0, 1, 'brick');
    const back = slope.faces.findIndex((face) => face.normal[0] === 1);
    expect(typeof pushFace(slope, back, 16)).toBe('object');
  });

  it('grows a prism on a face', () => {
    const roof = cone({ min: [0, 0, 0], max: [64, 64, 64] }, 5, 'brick');
    const side = shapeOf(roof).polygons.find(({ face }) => roof.faces[face].normal[2] > 0)!;
    const grown = extrudeFace(roof, side.face, 8) as Solid;
    expect(shapeOf(grown).polygons).toHaveLength(5);
    expect(solidsOverlap(roof, grown)).toBe(false);
    expect(solidVolume(grown)).toBeCloseTo(8 * polygonArea(side.winding), 0);
  });
});

const polygonArea = (ring: Vec3[]): number => {
  let sum = 0;
  for (let i = 1; i + 1 < ring.length; i++) {
    const [a, b] = [ring[i], ring[i + 1]].map((p) => p.map((v, k) => v - ring[0][k]));
    sum += Math.hypot(a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]) / 2;
  }
  return sum;
};

describe('corners and edges', () => {
  const cube = block({ min: [0, 0, 0], max: [64, 64, 64] }, 'brick');
  const corner = (solid: Solid, at: Vec3) => skeletonOf(solid).corners.findIndex((c) => c.every((v, i) => Math.abs(v - at[i]) < 0.01));

  // Euler's formula for convex polyhedra.
  it('corners - edges + faces = 2', () => {
    fc.assert(
      fc.property(solids, (solid) => {
        const { corners, edges, faces } = skeletonOf(solid);
        expect(corners.length - edges.length + faces.length).toBe(2);
      }),
      { numRuns: 100 },
    );
  });

  it('a corner pulled outwards stays one convex solid', () => {
    const moved = moveCorners(cube, [corner(cube, [64, 64, 64])], [16, 16, 16]);
    expect('solids' in moved && moved.solids).toHaveLength(1);
    const [solid] = (moved as { solids: Solid[] }).solids;
    expect(solidContains(solid, [79, 79, 79], 0.1)).toBe(true);
    expect(solidVolume(solid)).toBeGreaterThan(64 ** 3);
  });

  it('an edge moved along makes a slope; the bottom stays', () => {
    const edge = [corner(cube, [64, 0, 64]), corner(cube, [64, 64, 64])];
    const [solid] = (moveCorners(cube, edge, [-32, 0, 0]) as { solids: Solid[] }).solids;
    expect(solid.faces).toHaveLength(6);
    expect(solidVolume(solid)).toBeCloseTo(64 * 64 * 48, 2);
  });

  it('a dent is refused with its reason, or split into convex parts of the right volume', () => {
    const sunk = [corner(cube, [64, 64, 64])];
    expect(moveCorners(cube, sunk, [-40, -40, -40])).toEqual({ reason: expect.stringContaining('concave') });
    const split = moveCorners(cube, sunk, [-24, -24, -24], true) as { solids: Solid[] };
    expect(split.solids.length).toBeGreaterThan(1);
    const volume = split.solids.reduce((sum, solid) => sum + solidVolume(solid), 0);
    // The cube loses the pyramid over its three faces at that corner: 3 × (64² / 2 × 24 / 3).
    expect(volume).toBeCloseTo(64 ** 3 - 3 * ((64 * 64) / 2) * (24 / 3), -1);
    for (const a of split.solids) for (const b of split.solids) if (a !== b) expect(solidsOverlap(a, b)).toBe(false);
  });

  it('a dent along a whole upright edge is one, too', () => {
    const column = [corner(cube, [0, 0, 0]), corner(cube, [0, 0, 64])];
    expect(moveCorners(cube, column, [40, 40, 0])).toEqual({ reason: expect.stringContaining('concave') });
    const split = moveCorners(cube, column, [40, 40, 0], true) as { solids: Solid[] };
    const volume = split.solids.reduce((sum, solid) => sum + solidVolume(solid), 0);
    // The outline loses the two triangles between the old corner, the new one and its neighbours: 2 × 64 × 40 / 2.
    expect(volume).toBeCloseTo(64 ** 3 - 64 * 40 * 64, 0);
  });

  it('corners do not meet and solids do not go flat', () => {
    expect(moveCorners(cube, [corner(cube, [64, 64, 64])], [0, 0, -64])).toEqual({ reason: expect.stringContaining('meet') });
    const top = [0, 1, 2, 3, 4, 5, 6, 7].filter((i) => skeletonOf(cube).corners[i][2] === 64);
    expect(moveCorners(cube, top, [8, 8, -64])).toEqual({ reason: 'The solid would be flat.' });
  });

  it('moving all corners moves the solid', () => {
    const all = skeletonOf(cube).corners.map((_, i) => i);
    const [solid] = (moveCorners(cube, all, [5, 6, 7]) as { solids: Solid[] }).solids;
    expect(shapeOf(solid).box).toEqual({ min: [5, 6, 7], max: [69, 70, 71] });
    expect(solid.faces.every((face) => Math.abs(Math.hypot(...face.normal) - 1) < 1e-9 && dot(face.normal, face.normal) > 0)).toBe(true);
  });
});
