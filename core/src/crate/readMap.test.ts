import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { readCrate, writeDocuments } from './contents.ts';
import { type Finding } from '../finding.ts';
import { testWorld } from '../testing/world.ts';
import { readMap, recoverMap } from './readMap.ts';
import { type GameMap } from '../document/schema.ts';
import { serialiseMap } from '../document/serialise.ts';
import { hall, blank, withChanges, object } from '../testing/maps.ts';

describe('map files', () => {
  const map = withChanges(hall(), object('o20', 'sign', 'notice', [0, 0, 0], { text: '"quoted" {not a brace}\n\\ 漢字' }), {
    of: 'paths',
    id: 'w1',
    to: {
      name: 'way',
      points: [
        [0, 0, 0],
        [1, 1, 1],
      ],
      loop: false,
    },
  });
  const text = serialiseMap(map);

  it('a one-object change is a one-line change', () => {
    const next = serialiseMap(withChanges(map, { of: 'objects', id: 'o20', to: { ...map.objects.o20, turn: 15 } })).split('\n');
    expect(text.split('\n').filter((line, i) => line !== next[i])).toHaveLength(1);
    expect(readMap(text, 'hall.map.json')).toEqual(map);
  });

  it('one broken member is left out and named by line and column; the rest is there', () => {
    const broken = text.replace(/("o20": \{[^\n]*?)"turn"/, '$1"turn');
    const { map: got, findings } = recoverMap(broken, 'maps/hall.map.json', blank());
    const { o20: _lost, ...others } = map.objects;
    expect(got).toEqual({ ...map, objects: others });
    expect(findings).toHaveLength(1);
    const { line, column } = findings[0].place!;
    expect(broken.split('\n')[line! - 1].slice(column! - 1)).toMatch(/^\{"class":"sign"/);
  });

  it('a file that breaks off keeps all that came before', () => {
    const cut = text.slice(0, text.indexOf('"s4"') + 40);
    const { map: got, findings } = recoverMap(cut, 'maps/hall.map.json', blank());
    expect(Object.keys(got.solids)).toEqual(['s1', 's2', 's3']);
    expect(findings[0].message).toContain('solid s4');
  });

  it('a member of the wrong form is left out in a file that is JSON all the same', () => {
    const parsed = JSON.parse(text) as GameMap;
    (parsed.solids.s2 as { faces: unknown }).faces = 'none';
    const { map: got, findings } = recoverMap(JSON.stringify(parsed, null, 2), 'maps/hall.map.json', blank());
    expect(Object.keys(got.solids)).not.toContain('s2');
    expect(Object.keys(got.solids)).toHaveLength(Object.keys(map.solids).length - 1);
    expect(findings.map((f) => f.code)).toEqual(['map-damaged']);
  });

  it('whatever is cut out or overwritten, it answers with a map or a clear error, and never makes members up', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: text.length - 1 }), fc.integer({ min: 0, max: 60 }), fc.string({ maxLength: 6 }), (at, length, put) => {
        const damaged = text.slice(0, at) + put + text.slice(at + length);
        let got: GameMap;
        try {
          got = recoverMap(damaged, 'maps/hall.map.json', blank()).map;
        } catch (error) {
          expect((error as Error).name).toBe('UnreadableInput');
          return;
        }
        expect(Object.keys(got.solids).length).toBeLessThanOrEqual(Object.keys(map.solids).length + 1);
        for (const one of Object.values(got.solids)) expect(one.faces.length).toBeGreaterThanOrEqual(4);
      }),
      { numRuns: 400 },
    );
  });

  it('a crate with a damaged map opens with a report, or is refused where none is asked for', () => {
    const tree = writeDocuments(testWorld().crate);
    const damaged = new TextDecoder().decode(tree.get('maps/hall.map.json')).replace('"s3": {', '"s3": {,');
    tree.set('maps/hall.map.json', new TextEncoder().encode(damaged));
    expect(() => readCrate(tree)).toThrow(/line \d+/);
    const report: Finding[] = [];
    expect(Object.keys(readCrate(tree, report).maps.hall.solids)).toHaveLength(5);
    expect(report.map((f) => f.code)).toEqual(['map-damaged']);
  });
});
