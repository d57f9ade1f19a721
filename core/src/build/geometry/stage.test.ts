import { describe, expect, it } from '@jest/globals';
import { testProfile } from '../../testing/world.ts';
import { block } from '../../solid/primitives.ts';
import type { Face } from '../../map/schema.ts';
import { projectPoint } from '../../map/projection.ts';
import type { BuildMaterial } from '../surface.ts';
import { buildGeometry } from './stage.ts';

const types = Object.fromEntries(testProfile().materialTypes.map((t) => [t.id, t]));
const material = (name: string, type: string): BuildMaterial => ({ name, type, albedo: [0.5, 0.5, 0.5], unitsPerRepeat: 64 });
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
