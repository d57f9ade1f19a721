import { describe, expect, it } from '@jest/globals';
import { checkCrate } from '../check/checkCrate.ts';
import { type Vec3 } from '../math/vec3.ts';
import { testWorld } from '../testing/world.ts';
import { applyEdit } from '../document/edit.ts';
import { type GameMap } from '../document/schema.ts';
import { settleProps } from './settle.ts';
import { hall, withChanges, object } from '../testing/maps.ts';

describe('props and icons', () => {
  const crateRecord = { source: 'box.obj', options: {}, bounds: { min: [-12, -12, 0] as Vec3, max: [12, 12, 24] as Vec3 } };
  const worldWith = (map: GameMap, collision = { kind: 'box', parts: 1, volume: 0.4, meshVolume: 0.4, mass: 30 }) => {
    const world = testWorld();
    const assets = {
      'models/box.glb': { ...crateRecord, collision },
      'textures/sign.ktx2': { source: 'sign.png', options: {}, width: 48, height: 48 },
    };
    const files = Object.keys(assets).map((path) => ({ path, bytes: 1, sha256: '0'.repeat(64) }));
    return { ...world, crate: { ...world.crate, files, manifest: { ...world.crate.manifest, assets }, maps: { hall: map } } };
  };
  const box = (id: string, at: Vec3, movable = true) => object(id, 'prop', `box_${id}`, at, { model: 'models/box.glb', movable, solid: true });

  it('falls to the floor and stacks on what lies there', async () => {
    const map = withChanges(hall(), box('o20', [0, 0, 60]), box('o21', [2, 0, 95]));
    const edit = await settleProps(worldWith(map), map, ['o20', 'o21']);
    if (typeof edit === 'string') throw new Error(edit);
    const after = applyEdit(map, edit);
    const heights = ['o20', 'o21'].map((id) => after.objects[id].position[2]);
    // A centimetre or so of contact margin is the physics' own.
    expect(Math.abs(heights[0])).toBeLessThan(0.7);
    expect(Math.abs(heights[1] - 24)).toBeLessThan(1.4);
  });

  it('moves only what may move, and says so otherwise', async () => {
    const fixed = withChanges(hall(), box('o20', [0, 0, 60], false));
    expect(await settleProps(worldWith(fixed), fixed, ['o20'])).toContain('None of them is movable');
    const map = withChanges(hall(), box('o20', [0, 0, 0]));
    const bare = worldWith(map, { kind: 'none', parts: 0, volume: 0, meshVolume: 0, mass: 0 });
    expect(await settleProps(bare, map, ['o20'])).toContain('None of them is movable');
    expect(checkCrate(bare).findings.map((f) => f.code)).toContain('prop-cannot-move');
    expect(checkCrate(worldWith(map)).findings.map((f) => f.code)).not.toContain('prop-cannot-move');
  });

  it('a map icon of a size that the game does not take is found', () => {
    const map = withChanges(hall(), object('o20', 'trigger', 'harbour', [0, 0, 0], { icon: 'textures/sign.ktx2' }));
    expect(checkCrate(worldWith(map)).findings.find((f) => f.code === 'map-icon-size')?.message).toContain('48 × 48');
  });
});
