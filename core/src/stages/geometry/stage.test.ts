import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { cross, dot, length, sub, type Vec3 } from '../../math/vec3.ts';
import { rotation, transformSolid } from '../../solid/transform.ts';
import { windingArea } from '../../solid/winding.ts';
import { testProfile } from '../../testing/world.ts';
import { block } from '../../solid/primitives.ts';
import type { Face, Solid } from '../../document/schema.ts';
import { projectPoint } from '../../solid/projection.ts';
import type { BuildMaterial } from '../surface/materials.ts';
import { buildGeometry } from './stage.ts';

const types = Object.fromEntries(testProfile().materialTypes.map((t) => [t.id, t]));
const material = (name: string, type: string): BuildMaterial => ({ name, type, albedo: [0.5, 0.5, 0.5], emission: [0, 0, 0], unitsPerRepeat: 64 });
const materials = {
  brick: material('brick', 'lit'),
  unseen: material('unseen', 'unseen'),
  water: material('water', 'water'),
  glass: material('glass', 'translucent'),
};
const box = (x: number, of: string) => block({ min: [x, 0, 0], max: [x + 32, 32, 32] }, of);
const build = (solids: Parameters<typeof buildGeometry>[0]['solids']) => buildGeometry({ solids, materials, types }, () => {});

describe('the geometry stage', () => {
  it('traces every polygon to its solid and face, with texture coordinates for every corner', () => {
    const { surfaces, facesBefore } = build({ s1: box(0, 'brick') });
    expect(facesBefore).toBe(6);
    expect(surfaces.map((s) => s.face).sort()).toEqual([0, 1, 2, 3, 4, 5]);
    for (const surface of surfaces) {
      expect(surface.solid).toBe('s1');
      expect(surface.uv).toHaveLength(surface.winding.length);
    }
  });

  it('draws nothing of unseen faces, but lets them hide others', () => {
    const { surfaces } = build({ s1: box(0, 'brick'), s2: box(32, 'unseen') });
    expect(surfaces.every((s) => s.solid === 's1')).toBe(true);
    expect(surfaces).toHaveLength(5);
  });

  it('water and glass show what lies behind them', () => {
    expect(build({ s1: box(0, 'brick'), s2: box(32, 'glass') }).surfaces.filter((s) => s.solid === 's1')).toHaveLength(6);
    expect(build({ s1: box(0, 'brick'), s2: box(32, 'water') }).surfaces.filter((s) => s.solid === 's2')).toHaveLength(5);
  });
});

const coordinate = (span: number, step: number) => fc.integer({ min: 0, max: Math.floor(span / step) }).map((v) => v * step);
const someBox = (step: number) =>
  fc
    .tuple(coordinate(96, step), coordinate(96, step), coordinate(96, step), coordinate(64, step), coordinate(64, step), coordinate(64, step))
    .map(([x, y, z, w, d, h]) => block({ min: [x, y, z], max: [x + step + w, y + step + d, z + step + h] }, 'brick'));
const turned = fc
  .tuple(someBox(4), fc.integer({ min: 0, max: 2 }), fc.integer({ min: 1, max: 359 }))
  .map(([solid, axis, degrees]) => transformSolid(solid, rotation(axis as 0 | 1 | 2, degrees, [64, 64, 64])));
const numbered = (solids: Solid[]) => Object.fromEntries(solids.map((solid, i) => [`s${i}`, solid]));

describe('merging and welding', () => {
  const area = ({ surfaces }: { surfaces: { winding: Vec3[] }[] }) => surfaces.reduce((sum, s) => sum + windingArea(s.winding), 0);

  it.each([
    ['on the grid', someBox(8)],
    ['off the grid', someBox(4)],
    ['turned', turned],
  ] as const)('keep the area and leave no T-junction and no flat triangle: solids %s', (_name, solid) => {
    fc.assert(
      fc.property(fc.array(solid, { minLength: 1, maxLength: 7 }), (solids) => {
        const whole = build(numbered(solids));
        const plain = buildGeometry({ solids: numbered(solids), materials, types }, () => {}, false);
        // Slivers below the weld's reach may vanish along rims.
        expect(Math.abs(area(whole) - area(plain)) / (area(plain) + 1)).toBeLessThan(1e-3);
        expect(whole.surfaces.length).toBeLessThanOrEqual(plain.surfaces.length + 4);
        const corners = whole.surfaces.flatMap((s) => s.winding);
        for (const { winding } of whole.surfaces) {
          for (let i = 2; i < winding.length; i++) expect(windingArea([winding[0], winding[i - 1], winding[i]])).toBeGreaterThan(1e-7);
          winding.forEach((p, i) => {
            const edge = sub(winding[(i + 1) % winding.length], p);
            for (const c of corners) {
              const t = dot(sub(c, p), edge) / dot(edge, edge);
              const off = length(cross(sub(c, p), edge)) / length(edge);
              if (off < 1e-3 && t * length(edge) > 2.1e-3 && (1 - t) * length(edge) > 2.1e-3) throw new Error(`T-junction at ${c.join()}`);
            }
          });
        }
      }),
      { numRuns: 15 },
    );
  });

  it('a wall of four blocks has the faces of one, each traceable to all four', () => {
    const { surfaces, pieces } = build(numbered([box(0, 'brick'), box(32, 'brick'), box(64, 'brick'), box(96, 'brick')]));
    expect(pieces).toBe(18);
    expect(surfaces).toHaveLength(6);
    const long = surfaces.filter((s) => s.normal[0] === 0);
    expect(long.every((s) => new Set([s.solid, ...(s.also ?? []).map(([id]) => id)]).size === 4)).toBe(true);
  });

  it('faces of other materials or projections stay apart', () => {
    const shifted = box(32, 'brick');
    shifted.faces = shifted.faces.map((face) => ({ ...face, shift: [8, 0] as [number, number] }));
    expect(build(numbered([box(0, 'brick'), shifted])).surfaces).toHaveLength(10);
  });
});

describe('projection', () => {
  const face = (change: Partial<Face> = {}): Face => ({ normal: [0, 0, 1], distance: 0, material: 'brick', ...change });

  it('a shift of one repeat changes nothing but whole numbers; half the scale doubles the repeats', () => {
    const plain = projectPoint(face(), [16, 48, 0], 64);
    const shifted = projectPoint(face({ shift: [64, -64] }), [16, 48, 0], 64);
    expect(shifted[0] - plain[0]).toBeCloseTo(1, 9);
    expect(shifted[1] - plain[1]).toBeCloseTo(1, 9);
    expect(projectPoint(face({ scale: 0.5 }), [16, 48, 0], 64)[0]).toBeCloseTo(plain[0] * 2, 9);
  });

  it('a turn by 90° exchanges the directions', () => {
    const [u, v] = projectPoint(face(), [32, 0, 0], 64);
    const [tu, tv] = projectPoint(face({ turn: 90 }), [32, 0, 0], 64);
    expect([u, v + 0]).toEqual([0.5, 0]);
    expect(tu).toBeCloseTo(0, 9);
    expect(Math.abs(tv)).toBeCloseTo(0.5, 9);
  });

  it('neighbouring walls of one direction run on without a step', () => {
    const at = (x: number) => projectPoint(face({ normal: [0, -1, 0] }), [x, 0, 40], 64)[0];
    expect(at(64) - at(0)).toBeCloseTo(1, 9);
  });
});
