import { describe, expect, it } from '@jest/globals';
import { solidVolume } from '../solid/solid.ts';
import { testWorld } from '../testing/world.ts';
import { budgetOf } from './budget.ts';
import { applyEdit } from '../document/edit.ts';
import { expandMap, placeCopy } from '../map/prefab.ts';
import { type GameMap } from '../document/schema.ts';
import { profile } from '../testing/maps.ts';

describe('the budget', () => {
  it('counts what copies stand for', () => {
    const world = testWorld();
    const map = applyEdit(world.crate.maps.hall, placeCopy(world.crate.maps.hall, profile, 'mooring', [0, 0, 0]).edit);
    const used = (m: GameMap) =>
      Object.fromEntries(budgetOf({ ...world, crate: { ...world.crate, maps: { hall: m } } }, 'hall').map((l) => [l.id, l.used]));
    expect(used(map).solids - used(world.crate.maps.hall).solids).toBe(2);
    expect(used(map).lights - used(world.crate.maps.hall).lights).toBe(1);
    expect(solidVolume(expandMap(map, profile).solids.c1_s1)).toBeCloseTo(12 * 12 * 72, 3);
  });
});
