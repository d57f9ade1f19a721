import { describe, expect, it } from '@jest/globals';
import { shapeOf } from '../solid/shape.ts';
import { transformSolid, translation } from '../solid/transform.ts';
import { copyMembers } from './member/arrange.ts';
import { applyEdit, invertEdit } from '../document/edit.ts';
import { deletePrefab, expandMap, makeIndependent, makePrefab, openPrefab, placeCopy, savePrefab } from './prefab.ts';
import { cycleProblem } from '../document/prefabGraph.ts';
import { type GameMap } from '../document/schema.ts';
import { serialiseMap } from '../document/serialise.ts';
import { profile, hall, blank, withChanges, cube, solid, object, codesOf, mended } from '../testing/maps.ts';
import { noMembers } from '../document/members.ts';

describe('prefabs', () => {
  const scene = () =>
    withChanges(
      blank(),
      solid('s1', cube([0, 0, 0])),
      object('o1', 'crank', 'crank', [8, 8, 16]),
      object('o2', 'sluice', 'gate', [64, 0, 0]),
      object('o3', 'lamp', 'lamp', [8, 8, 48]),
      { of: 'signals', id: 'g1', to: { from: 'o1', event: 'turned', to: { object: 'o3', action: 'light' }, delay: 0 } },
      { of: 'signals', id: 'g2', to: { from: 'o1', event: 'turned', to: { object: 'o2', action: 'raise' }, delay: 0 } },
    );
  const saved = () => {
    const map = scene();
    const made = makePrefab(map, profile, 'post', { solids: ['s1'], objects: ['o1', 'o3'], copies: [] }, [8, 8, 0]);
    return { map, made, after: applyEdit(map, made.edit) };
  };

  it('saving one changes nothing of what the map stands for, and signals to the outside go on', () => {
    const { map, made, after } = saved();
    const shown = expandMap(after, profile);
    expect(Object.values(shown.solids).map((s) => shapeOf(s).box)).toEqual(Object.values(map.solids).map((s) => shapeOf(s).box));
    expect(
      Object.values(shown.objects)
        .map((o) => o.name)
        .sort(),
    ).toEqual(['gate', 'post_crank', 'post_lamp']);
    expect(Object.values(shown.signals).map((s) => [shown.objects[s.from]?.name, 'object' in s.to && shown.objects[s.to.object]?.name])).toEqual(
      expect.arrayContaining([
        ['post_crank', 'post_lamp'],
        ['post_crank', 'gate'],
      ]),
    );
    expect(serialiseMap(applyEdit(after, invertEdit(map, made.edit)))).toBe(serialiseMap(map));
  });

  it('deleting one takes its copies and their signals along, and is refused while another prefab holds it', () => {
    const { after, made } = saved();
    const edit = deletePrefab(after, made.prefab);
    if (typeof edit === 'string') throw new Error(edit);
    const next = applyEdit(after, edit);
    expect([next.prefabs, next.copies, next.signals]).toEqual([{}, {}, {}]);
    expect(serialiseMap(applyEdit(next, invertEdit(after, edit)))).toBe(serialiseMap(after));
    const pair = makePrefab(after, profile, 'pair', { solids: [], objects: [], copies: [made.copy] }, [0, 0, 0]);
    expect(deletePrefab(applyEdit(after, pair.edit), made.prefab)).toMatch(/^pair holds copies of post/);
  });

  it('copies stand apart with names of their own; an edit in place changes all of them', () => {
    const { after, made } = saved();
    const more = applyEdit(after, placeCopy(after, profile, made.prefab, [200, 0, 0], 90).edit);
    const names = Object.values(expandMap(more, profile).objects).map((o) => o.name);
    expect(new Set(names).size).toBe(names.length);
    const opened = openPrefab(more, 'c2')!;
    const [inside] = Object.keys(opened.solids);
    const changed = { ...opened, solids: { [inside]: transformSolid(opened.solids[inside], translation([0, 0, 10]), true) } };
    const edit = savePrefab(more, 'c2', changed);
    if (typeof edit === 'string') throw new Error(edit);
    const next = expandMap(applyEdit(more, edit), profile);
    for (const s of Object.values(next.solids)) expect(shapeOf(s).box.min[2]).toBeCloseTo(10, 6);
  });

  it('objects that name each other go on doing so: within copies, in copies of objects, and made independent', () => {
    const map = withChanges(
      hall(),
      object('o20', 'trigger', 'way_in', [0, 0, 0], { exit: 'o21' }),
      object('o21', 'trigger', 'way_out', [64, 0, 0], { exit: 'o20' }),
    );
    const exits = (m: GameMap) =>
      Object.entries(m.objects)
        .filter(([, o]) => o.class === 'trigger')
        .map(([id, o]) => [id, o.properties.exit]);
    const copied = copyMembers(map, profile, { ...noMembers, objects: ['o20', 'o21'] }, [translation([0, 64, 0]), translation([0, 96, 0])], 'copy')!;
    expect(exits(applyEdit(map, copied.edit)).slice(2)).toEqual([
      ['o22', 'o23'],
      ['o23', 'o22'],
      ['o24', 'o25'],
      ['o25', 'o24'],
    ]);
    const pair = applyEdit(map, makePrefab(map, profile, 'lock', { solids: [], objects: ['o20', 'o21'], copies: [] }, [0, 0, 0]).edit);
    const twice = applyEdit(pair, placeCopy(pair, profile, 'p1', [0, 96, 0]).edit);
    expect(codesOf(twice).filter((code) => code === 'pair-broken' || code === 'reference-broken')).toEqual([]);
    // One inside, one outside: the outer one follows into the copy and back out.
    const half = applyEdit(map, makePrefab(map, profile, 'half', { solids: [], objects: ['o20'], copies: [] }, [0, 0, 0]).edit);
    expect(half.objects.o21.properties.exit).toBe('c1_o20');
    const loose = applyEdit(half, makeIndependent(half, profile, 'c1').edit);
    expect(exits(loose)).toEqual([
      ['o21', 'o22'],
      ['o22', 'o21'],
    ]);
  });

  it('parameters differ from copy to copy', () => {
    const { after, made } = saved();
    const prefab = { ...after.prefabs[made.prefab], parameters: [{ id: 'glow', label: 'Glow', object: 'o3', property: 'intensity' }] };
    const map = withChanges(
      after,
      { of: 'prefabs', id: made.prefab, to: prefab },
      { of: 'copies', id: 'c1', to: { ...after.copies.c1, values: { glow: 77 } } },
    );
    expect(expandMap(map, profile).objects.c1_o3.properties.intensity).toBe(77);
  });

  it('made independent, a copy is the map’s own and looks the same', () => {
    const { after } = saved();
    const before = expandMap(after, profile);
    const loose = applyEdit(after, makeIndependent(after, profile, 'c1').edit);
    expect(loose.copies).toEqual({});
    expect(
      Object.values(loose.objects)
        .map((o) => o.name)
        .sort(),
    ).toEqual(
      Object.values(before.objects)
        .map((o) => o.name)
        .sort(),
    );
    expect(codesOf(loose)).not.toContain('signal-broken');
  });

  it('holding itself is refused, and found where a file has it', () => {
    const { after, made } = saved();
    const opened = openPrefab(after, 'c1')!;
    const inner = { ...after.copies.c1, name: 'again' };
    expect(savePrefab(after, 'c1', { ...opened, copies: { c1: inner } })).toContain('would hold itself');
    const broken = withChanges(after, { of: 'prefabs', id: made.prefab, to: { ...after.prefabs[made.prefab], copies: { c1: inner } } });
    expect(cycleProblem(broken)).toBe('Prefab post would hold itself: post → post.');
    expect(codesOf(broken)).toContain('prefab-cycle');
  });

  it('the game’s own can be placed, and a copy of nothing is a blocker', () => {
    const map = applyEdit(hall(), placeCopy(hall(), profile, 'mooring', [0, 0, 0]).edit);
    expect(Object.values(expandMap(map, profile).objects).map((o) => o.name)).toContain('mooring_lamp');
    const lost = withChanges(map, { of: 'copies', id: 'c1', to: { ...map.copies.c1, prefab: 'gone' } });
    expect(codesOf(lost)).toContain('prefab-missing');
    expect(codesOf(mended(lost, 'prefab-missing'))).not.toContain('prefab-missing');
  });
});
