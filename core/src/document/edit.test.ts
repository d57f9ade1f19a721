import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { testWorld } from '../testing/world.ts';
import { block } from '../solid/primitives.ts';
import { applyEdit, freshId, invertEdit, type Change, type MapEdit } from './edit.ts';
import { type GameMap } from './schema.ts';
import { profile } from '../testing/maps.ts';
import { newObject } from '../profile/newObject.ts';

const changeArbitrary: fc.Arbitrary<Change> = fc.oneof(
  fc
    .tuple(fc.integer({ min: 1, max: 6 }), fc.boolean())
    .map(([n, gone]): Change => ({ of: 'solids', id: `s${n}`, to: gone ? null : block({ min: [0, 0, 0], max: [n * 8, 8, 8] }, 'brick') })),
  fc
    .tuple(fc.integer({ min: 1, max: 4 }), fc.string())
    .map(([n, name]): Change => ({ of: 'objects', id: `o${n}`, to: { ...newObject(profile, 'lamp', name, [n, 0, 0]) } })),
  fc.integer({ min: 0, max: 4 }).map((n): Change => ({ of: 'settings', to: { skyColour: '#ffffff', skyIntensity: n, trial: [] } })),
);

const editArbitrary: fc.Arbitrary<MapEdit> = fc
  .array(changeArbitrary, { minLength: 1, maxLength: 6 })
  .map((changes) => ({ name: 'random', changes }));

describe('edits', () => {
  it('have inverses that restore the map exactly', () => {
    fc.assert(
      fc.property(fc.array(editArbitrary, { maxLength: 8 }), (edits) => {
        const start = testWorld().crate.maps.hall;
        const inverses: MapEdit[] = [];
        let map: GameMap = start;
        for (const edit of edits) {
          inverses.push(invertEdit(map, edit));
          map = applyEdit(map, edit);
        }
        for (const inverse of inverses.reverse()) map = applyEdit(map, inverse);
        expect(map).toEqual(start);
      }),
    );
  });

  it('leave the old map as it was', () => {
    const map = testWorld().crate.maps.hall;
    const before = structuredClone(map);
    applyEdit(map, { name: 'x', changes: [{ of: 'solids', id: 's1', to: null }] });
    expect(map).toEqual(before);
  });

  it('fresh ids are never in use', () => {
    expect(freshId({ s1: 0, s9: 0, o12: 0 }, 's')).toBe('s10');
    expect(freshId({}, 's', new Set(['s1', 's2']))).toBe('s3');
  });
});
