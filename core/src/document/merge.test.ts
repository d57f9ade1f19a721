import { describe, expect, it } from '@jest/globals';
import { chance } from '../math/chance.ts';
import { testWorld } from '../testing/world.ts';
import { applyEdit, touchedBy, type Change, type MapEdit } from './edit.ts';
import { changedMembers, mergeMaps } from './merge.ts';
import { serialiseMap } from './serialise.ts';
import type { GameMap } from './schema.ts';

const base = testWorld().crate.maps.hall;

/** An edit that changes, removes and adds some members. */
function someEdit(map: GameMap, random: () => number, name: string): MapEdit {
  const changes: Change[] = [];
  const used = new Set<string>();
  const put = (change: Change, key: string) => {
    if (!used.has(key)) changes.push(change);
    used.add(key);
  };
  for (let i = 0; i < 1 + random() * 6; i++) {
    const ids = Object.keys(map.objects);
    const id = ids[Math.floor(random() * ids.length)];
    const pick = random();
    if (pick < 0.3) put({ of: 'objects', id, to: null }, id);
    else if (pick < 0.6) put({ of: 'objects', id, to: { ...map.objects[id], position: [Math.floor(random() * 100), 0, 0] } }, id);
    else if (pick < 0.9) {
      const fresh = `n${Math.floor(random() * 4)}`;
      put({ of: 'objects', id: fresh, to: { ...map.objects[ids[0]], name: `${name}_${fresh}` } }, fresh);
    } else put({ of: 'settings', to: { ...map.settings, skyIntensity: Math.floor(random() * 5) } }, 'settings');
  }
  return { name, changes };
}

describe('merging maps', () => {
  it('equals applying both lists of edits, in either order, where they touch different members', () => {
    const random = chance(7);
    let [apart, together] = [0, 0];
    for (let i = 0; i < 400; i++) {
      const [mine, other] = [someEdit(base, random, 'mine'), someEdit(base, random, 'other')];
      const [ours, theirs] = [applyEdit(base, mine), applyEdit(base, other)];
      const merged = mergeMaps(base, ours, theirs, 'merge');
      const touched = touchedBy(mine);
      if ([...touchedBy(other)].some((key) => touched.has(key))) {
        together++;
        // Every conflict is something that both touched; the rest of theirs is in.
        for (const { key } of merged.conflicts) expect(touched.has(key)).toBe(true);
        continue;
      }
      apart++;
      expect(merged.conflicts).toEqual([]);
      const both = serialiseMap(merged.map);
      expect(both).toBe(serialiseMap(applyEdit(ours, other)));
      expect(both).toBe(serialiseMap(applyEdit(theirs, mine)));
      expect(serialiseMap(mergeMaps(base, theirs, ours, 'merge').map)).toBe(both);
    }
    expect([apart > 30, together > 30]).toEqual([true, true]);
  });

  it('with nothing changed on one side is the other, and the same change on both is no conflict', () => {
    const random = chance(11);
    for (let i = 0; i < 40; i++) {
      const changed = applyEdit(base, someEdit(base, random, 'x'));
      expect(mergeMaps(base, base, changed, 'm').map).toEqual(changed);
      expect(mergeMaps(base, changed, base, 'm').edit).toBeNull();
      expect(mergeMaps(base, changed, structuredClone(changed), 'm')).toMatchObject({ edit: null, conflicts: [] });
    }
  });

  it('a conflict names the member with all three versions, and is settled either way', () => {
    const [id] = Object.keys(base.objects);
    const at = (x: number) => applyEdit(base, { name: 'x', changes: [{ of: 'objects', id, to: { ...base.objects[id], position: [x, 0, 0] } }] });
    const gone = applyEdit(base, { name: 'x', changes: [{ of: 'objects', id, to: null }] });
    const { map, conflicts } = mergeMaps(base, at(1), gone, 'm');
    expect(conflicts).toEqual([{ key: `objects/${id}`, base: base.objects[id], ours: at(1).objects[id], theirs: null }]);
    expect(map.objects[id].position).toEqual([1, 0, 0]);
    expect(mergeMaps(base, at(1), at(2), 'm', () => 'theirs').map.objects[id].position).toEqual([2, 0, 0]);
    expect(mergeMaps(base, at(1), at(2), 'm', () => 'ours').map.objects[id].position).toEqual([1, 0, 0]);
    expect(mergeMaps(base, at(1), at(2), 'm', () => 'ours').conflicts).toEqual([]);
  });

  it('the order in which a file has its members is no change', () => {
    const turned = JSON.parse(JSON.stringify(base), (_, value: unknown) =>
      typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.fromEntries(Object.entries(value).reverse()) : value,
    ) as GameMap;
    expect(changedMembers(base, turned).size).toBe(0);
  });
});
