import { describe, expect, it } from '@jest/globals';
import { solidVolume } from '../solid/solid.ts';
import { testWorld } from '../testing/world.ts';
import { budgetOf } from './budget.ts';
import { applyEdit } from '../document/edit.ts';
import { expandMap, placeCopy } from '../map/prefab.ts';
import { type GameMap } from '../document/schema.ts';
import { blank, cube, object, profile, solid, withChanges } from '../testing/maps.ts';

const inWorld = (map: GameMap, world = testWorld()) => ({ ...world, crate: { ...world.crate, maps: { hall: map } } });
const linesOf = (world: ReturnType<typeof inWorld>) =>
  Object.fromEntries(budgetOf(world, 'hall').map(({ id, used, limit }) => [id, { used, limit }]));

describe('the budget', () => {
  it('counts what copies stand for', () => {
    const world = testWorld();
    const map = applyEdit(world.crate.maps.hall, placeCopy(world.crate.maps.hall, profile, 'mooring', [0, 0, 0]).edit);
    const used = (m: GameMap) => linesOf(inWorld(m));
    expect(used(map).solids.used - used(world.crate.maps.hall).solids.used).toBe(2);
    expect(used(map).lights.used - used(world.crate.maps.hall).lights.used).toBe(1);
    expect(solidVolume(expandMap(map, profile).solids.c1_s1)).toBeCloseTo(12 * 12 * 72, 3);
  });

  it('counts triangles of faces, textures, lights and objects, and the bytes that will be carried', () => {
    const world = testWorld();
    const sha256 = '0'.repeat(64);
    world.crate.manifest.materials.push({ name: 'moss', type: 'lit', colour: '#446633', unitsPerRepeat: 64, texture: 'textures/moss.ktx2' });
    world.crate.files.push({ path: 'textures/moss.ktx2', bytes: 5000, sha256 }, { path: 'textures/unused.ktx2', bytes: 7000, sha256 });
    const mossy = { faces: cube([0, 0, 0]).faces.map((face) => ({ ...face, material: 'moss' })) };
    const map = withChanges(
      blank(),
      solid('s1', mossy),
      solid('s2', cube([64, 0, 0])),
      object('o1', 'lamp', 'lamp', [0, 0, 0]),
      object('o2', 'crank', 'crank', [0, 0, 0]),
    );
    const lines = linesOf(inWorld(map, world));
    const scripts = Object.values(world.crate.scripts).reduce((sum, text) => sum + Buffer.byteLength(text), 0);
    const objects = Object.keys(map.objects).length;
    expect(Object.fromEntries(Object.entries(lines).map(([id, { used }]) => [id, used]))).toEqual({
      solids: 2,
      triangles: 24,
      textures: 1,
      lights: Object.values(map.objects).filter((one) => one.class === 'lamp').length,
      objects,
      // 110 bytes a triangle for its corners and its light (docs/formats.md).
      packageBytes: 5000 + scripts + 24 * 110,
    });
  });

  it('has the limits of the profile, and of the package where no budget is set', () => {
    const limits = (budgets: typeof profile.budgets) =>
      Object.fromEntries(Object.entries(linesOf({ ...inWorld(blank()), profile: { ...profile, budgets } })).map(([id, { limit }]) => [id, limit]));
    expect(limits({ solids: 1, triangles: 2, textures: 3, lights: 4, objects: 5, packageBytes: 6 })).toEqual({
      solids: 1,
      triangles: 2,
      textures: 3,
      lights: 4,
      objects: 5,
      packageBytes: 6,
    });
    expect(limits(undefined)).toEqual({
      solids: null,
      triangles: null,
      textures: null,
      lights: null,
      objects: null,
      packageBytes: profile.package.maxBytes,
    });
  });
});
