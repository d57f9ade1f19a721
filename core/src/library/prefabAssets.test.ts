import { describe, expect, it } from '@jest/globals';
import { renameAsset, renameMaterial } from './rename.ts';
import { usageOf } from './usage.ts';
import { linkMap } from '../link/report.ts';
import { block } from '../solid/primitives.ts';
import { testWorld } from '../testing/world.ts';
import { applyEdit } from '../document/edit.ts';
import { makePrefab } from '../map/prefab.ts';
import { type GameMap } from '../document/schema.ts';
import { profile, hall, withChanges, solid, object, findingsOf } from '../testing/maps.ts';

describe('assets within prefabs', () => {
  const own = (name: string) => ({ name, type: 'lit', colour: '#404040', unitsPerRepeat: 64 });
  const inPrefab = () => {
    const start = withChanges(
      hall(),
      solid('s20', block({ min: [0, 0, 0], max: [16, 16, 16] }, 'tar')),
      object('o20', 'prop', 'tub', [8, 8, 16], { model: 'models/tub.glb' }),
    );
    const world = testWorld();
    const { edit } = makePrefab(start, profile, 'tubs', { solids: ['s20'], objects: ['o20'], copies: [] }, [8, 8, 0]);
    const files = [{ path: 'models/tub.glb', bytes: 7, sha256: '0'.repeat(64) }];
    const manifest = {
      ...world.crate.manifest,
      materials: [own('tar')],
      assets: { 'models/tub.glb': { source: 'sources/models/tub.obj', options: {} } },
    };
    return { ...world, crate: { ...world.crate, files, manifest, maps: { hall: applyEdit(start, edit) } } };
  };

  it('are linked, and so travel with the package', () => {
    const { links, unused } = linkMap(inPrefab(), 'hall');
    expect(links.filter((l) => l.origin === 'crate').map((l) => l.name)).toEqual(expect.arrayContaining(['tar', 'models/tub.glb']));
    expect(unused.map((file) => file.path)).toEqual([]);
  });

  it('a finding within a copy leads to the copy, and offers no fix that would make a stray member', () => {
    const start = withChanges(hall(), object('o20', 'prop', 'tub', [32, 32, 60], { model: '' }));
    const map = applyEdit(start, makePrefab(start, profile, 'tubs', { solids: [], objects: ['o20'], copies: [] }, [32, 32, 0]).edit);
    const floats = (m: GameMap) => findingsOf(m).find((f) => f.code === 'object-floats')!;
    expect(floats(start).fix).toBeDefined();
    expect(floats(map)).toMatchObject({ place: { copy: 'c1', object: 'c1_o20' } });
    expect(floats(map).fix).toBeUndefined();
  });

  it('count as used, and renaming follows into the prefab', () => {
    const world = inPrefab();
    expect(usageOf(world).get('models/tub.glb')?.[0].what).toBe('object tub of prefab tubs');
    const { edits } = renameMaterial(world, 'tar', 'pitch');
    const renamed = applyEdit(world.crate.maps.hall, edits.hall);
    expect(JSON.stringify(renamed.prefabs)).toContain('"pitch"');
    expect(JSON.stringify(renamed)).not.toContain('"tar"');
    const moved = applyEdit(world.crate.maps.hall, renameAsset(world, 'models/tub.glb', 'vat').edits.hall);
    expect(moved.prefabs.p1.objects.o20.properties.model).toBe('models/vat.glb');
  });
});
