import { describe, expect, it } from '@jest/globals';
import { applyEdit } from '../document/edit.ts';
import { addNext, renumber, seriesOf, seriesProblems } from './series.ts';
import { profile, hall, withChanges, object, codesOf, mended } from '../testing/maps.ts';

describe('series', () => {
  const beacons = (...ordinals: number[]) =>
    ordinals.reduce((map, n, i) => withChanges(map, object(`o${i + 10}`, 'beacon', `beacon_${n}`, [i * 32, 0, 0], { ordinal: n, call: '' })), hall());

  it('finds gaps and duplicates, and renumbering mends both with names that follow', () => {
    const map = withChanges(beacons(0, 1, 3), object('o20', 'beacon', 'other', [0, 64, 0], { ordinal: 1 }));
    expect(seriesProblems(seriesOf(map, profile, 'beacon'))).toMatchObject({ gaps: [2], duplicates: [{ ordinal: 1 }] });
    expect(codesOf(map)).toEqual(expect.arrayContaining(['series-gap', 'series-twice']));
    const good = mended(map, 'series-gap');
    expect(seriesOf(good, profile, 'beacon').map((m) => [m.ordinal, m.name])).toEqual([
      [0, 'beacon_0'],
      [1, 'beacon_1'],
      [2, 'other'],
      [3, 'beacon_3'],
    ]);
    expect(codesOf(good)).not.toContain('series-gap');
  });

  it('turning the order round swaps names without a clash', () => {
    const map = beacons(0, 1, 2);
    const order = seriesOf(map, profile, 'beacon').map((m) => m.id);
    const turned = applyEdit(map, renumber(map, profile, 'beacon', order.reverse())!);
    expect(seriesOf(turned, profile, 'beacon').map((m) => [m.id, m.name])).toEqual([
      ['o12', 'beacon_0'],
      ['o11', 'beacon_1'],
      ['o10', 'beacon_2'],
    ]);
  });

  it('the next one goes on the same way', () => {
    const map = beacons(0, 1);
    const next = addNext(map, profile, 'beacon')!;
    expect(applyEdit(map, next.edit).objects[next.id]).toMatchObject({ name: 'beacon_2', position: [64, 0, 0], properties: { ordinal: 2 } });
  });
});
