import { describe, expect, it } from '@jest/globals';
import { emptyMap } from '../profile/emptyMap.ts';
import { checkCrate } from '../check/checkCrate.ts';
import { testWorld } from '../testing/world.ts';
import { applyEdit, diffByIdentity, diffMaps, invertEdit } from './edit.ts';
import { expandMap } from '../map/prefab.ts';
import { cycleProblem, memberCounter, MOST_MEMBERS, prefabCycle, prefabsOf } from './prefabGraph.ts';
import { readMap, recoverMap } from '../crate/readMap.ts';
import type { Copy, GameMap, MapObject, Prefab } from './schema.ts';
import { serialiseMap } from './serialise.ts';

const world = testWorld();
const copyOf = (prefab: string, name = 'copy'): Copy => ({ prefab, name, position: [0, 0, 0], turn: 0, values: {} });
const lamp = (name: string): MapObject => ({ class: 'lamp', name, position: [0, 0, 64], turn: 0, properties: {} });
/** A prefab with one object and copies of others. */
const prefab = (...inner: string[]): Prefab => ({
  name: 'thing',
  parameters: [],
  solids: {},
  objects: { o1: lamp('lamp') },
  signals: {},
  copies: Object.fromEntries(inner.map((id, i) => [`c${i}`, copyOf(id, `inner_${i}`)])),
});
const mapWith = (prefabs: Record<string, Prefab>, copies: Record<string, Copy>): GameMap => ({ ...emptyMap(world.profile), prefabs, copies });

describe('prefabs within prefabs', () => {
  it('cycles are found, also long ones, in time that grows with the prefabs', () => {
    const chain = Object.fromEntries(Array.from({ length: 3000 }, (_, i) => [`p${i}`, prefab(`p${i + 1}`, `p${i + 1}`, `p${i + 1}`)]));
    const map = mapWith(chain, {});
    expect(prefabCycle(Object.keys(chain), prefabsOf(map))).toBeNull();
    chain.p3000 = prefab('p7');
    expect(prefabCycle(Object.keys(chain), prefabsOf(map))).toHaveLength(3000 - 7 + 2);
  });

  it('one that holds itself many times is laid out not at all, and said so; what else is there stays', () => {
    const map = mapWith({ p1: prefab(...Array<string>(9).fill('p1')), p2: prefab() }, { c1: copyOf('p1'), c2: copyOf('p2', 'good') });
    expect(Object.keys(expandMap(map, world.profile).objects)).toEqual(['c2_o1']);
    const { findings } = checkCrate({ ...world, crate: { ...world.crate, maps: { hall: map } } });
    expect(findings.find((finding) => finding.code === 'prefab-cycle')).toMatchObject({ severity: 'blocker' });
    expect(cycleProblem(map)).toMatch(/thing would hold itself: thing → thing/);
  });

  it('copies that double and double are counted without being made', () => {
    const levels = Object.fromEntries(Array.from({ length: 60 }, (_, i) => [`p${i}`, i === 59 ? prefab() : prefab(`p${i + 1}`, `p${i + 1}`)]));
    const map = mapWith(levels, { c1: copyOf('p0'), c2: copyOf('p57', 'small') });
    expect(memberCounter(prefabsOf(map))('p57')).toBe(1 + 2 + 4);
    expect(memberCounter(prefabsOf(map))('p0')).toBeGreaterThan(1e17);
    const out = expandMap(map, world.profile);
    expect(Object.keys(out.objects)).toHaveLength(7);
    const { findings } = checkCrate({ ...world, crate: { ...world.crate, maps: { hall: map } } });
    expect(findings.find((finding) => finding.code === 'prefab-too-many')?.message).toContain(MOST_MEMBERS.toLocaleString('en'));
  });

  it('a file whose prefab holds itself is refused, and recovered without that copy', () => {
    const text = serialiseMap(mapWith({ p1: prefab('p1', 'p2'), p2: prefab() }, {}));
    expect(() => readMap(text, 'maps/x.map.json')).toThrow(/would hold itself/);
    const { map, findings } = recoverMap(text, 'maps/x.map.json', emptyMap(world.profile));
    expect(Object.values(map.prefabs.p1.copies).map((copy) => copy.prefab)).toEqual(['p2']);
    expect(findings).toMatchObject([{ code: 'map-damaged', message: expect.stringContaining('copies of p1 within prefab p1') }]);
  });
});

describe('ids that every object inherits', () => {
  it('are ids like others: added, found in differences, undone', () => {
    const map = emptyMap(world.profile);
    const add = { name: 'add', changes: [{ of: 'objects' as const, id: 'constructor', to: lamp('odd') }] };
    const next = applyEdit(map, add);
    expect(Object.keys(next.objects)).toContain('constructor');
    expect(diffMaps(map, next, 'x')?.changes).toEqual(add.changes);
    expect(diffByIdentity(map, next)?.changes).toEqual(add.changes);
    expect(invertEdit(map, add).changes).toEqual([{ of: 'objects', id: 'constructor', to: null }]);
    expect(Object.keys(applyEdit(next, invertEdit(map, add)).objects)).toEqual(Object.keys(map.objects));
    expect(diffByIdentity(next, map)?.changes).toEqual([{ of: 'objects', id: 'constructor', to: null }]);
  });

  it('a map file with one comes back whole', () => {
    const map = applyEdit(emptyMap(world.profile), { name: 'add', changes: [{ of: 'objects', id: 'constructor', to: lamp('odd') }] });
    expect(readMap(serialiseMap(map), 'x').objects.constructor).toEqual(lamp('odd'));
  });
});

describe('damaged maps', () => {
  it('are looked through once, however many members are wrong', () => {
    const members = Array.from({ length: 4000 }, (_, i) => `    "o${i}": { "class": 7 }`);
    const text = `{\n  "objects": {\n${members.join(',\n')}\n  }\n}\n`;
    expect(() => recoverMap(text, 'x', emptyMap(world.profile))).toThrow(/nothing of a map can be read/);
    const { findings } = recoverMap(
      text.replace('"class": 7', '"class": "lamp", "name": "a", "position": [0, 0, 0], "turn": 0, "properties": {}'),
      'x',
      emptyMap(world.profile),
    );
    expect(findings).toHaveLength(3999);
    expect(findings[0].place).toMatchObject({ line: 4 });
    expect(findings.at(-1)!.place).toMatchObject({ line: 4002 });
  });
});
