import { describe, expect, it } from '@jest/globals';
import { checkCrate } from '../check/checkCrate.ts';
import { testWorld } from '../testing/world.ts';
import { block } from '../solid/primitives.ts';
import { applyEdit, type Change } from '../document/edit.ts';
import { profile } from '../testing/maps.ts';
import { newObject } from '../profile/newObject.ts';

/** A world whose map is changed by edits. */
function edited(...changes: Change[]) {
  const world = testWorld();
  world.crate.maps.hall = applyEdit(world.crate.maps.hall, { name: 'test', changes });
  return world;
}

describe('links', () => {
  it('missing materials and models are blockers; unused files are notes; near misses are named', () => {
    const prop = { ...newObject(profile, 'prop', 'pump', [0, 0, 0]), properties: { model: 'models/Pump.glb', solid: true } };
    const world = edited({ of: 'objects', id: 'o9', to: prop }, { of: 'solids', id: 's9', to: block({ min: [0, 0, 0], max: [8, 8, 8] }, 'marble') });
    const sha256 = '0'.repeat(64);
    world.crate.files.push({ path: 'models/pump.glb', bytes: 10, sha256 }, { path: 'sources/pump.obj', bytes: 10, sha256 });
    const found = checkCrate(world).findings;
    expect(found.filter((f) => f.code === 'link-missing').map((f) => f.message)).toEqual([
      'The material marble is missing; solids need it.',
      'The model models/Pump.glb is missing; pump needs it.',
    ]);
    expect(found.find((f) => f.message.includes('Pump.glb'))?.hint).toContain('models/pump.glb');
    expect(found.filter((f) => f.code === 'link-unused').map((f) => f.place?.file)).toEqual(['models/pump.glb']);
  });
});
