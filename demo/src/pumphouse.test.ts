import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { loadProfile } from '@violet-crate/core/profile/load';
import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { boxMinusBox, box } from './boxMinusBox.ts';
import { pumphouseData } from './people.ts';
import { pumphouseMap } from './pumphouse.ts';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');

// That it builds sealed, leaks when broken and can be walked through is checked by e2e/commandLine.sh.
describe('Pumphouse at Low Tide', () => {
  const map = pumphouseMap(profile);

  it('is without a fault of its own: on the grid, nothing twice, in order', () => {
    const crate = {
      ...newCrateContents(profile, { name: 'pumphouse', title: 'Pumphouse', template: 'blank' }),
      maps: { pumphouse: map },
      data: pumphouseData(profile),
    };
    const base = { format: 1 as const, title: 'None', version: '1.0.0', materials: [], assets: {}, files: [] };
    // Links and sizes of models come with the game's install; e2e/commandLine.sh checks the whole.
    const ELSEWHERE = ['signal-broken', 'object-in-solid'];
    const own = checkCrate({ profile, base, crate }).findings.filter(({ stage, code }) => stage === 'map' && !ELSEWHERE.includes(code));
    expect(own.map(({ code, message }) => [code, message])).toEqual([]);
  });

  it('uses all that its game has', () => {
    const used = new Set(Object.values(map.objects).map((o) => o.class));
    // A sealed map sees neither sun nor weather.
    expect([...used].sort()).toEqual(
      profile.classes
        .map((c) => c.id)
        .filter((id) => id !== 'sun' && id !== 'weather')
        .sort(),
    );
  });
});

describe('a box less a box', () => {
  it('conserves volume outside the hole', () => {
    const volume = (b: ReturnType<typeof box>) => (b.max[0] - b.min[0]) * (b.max[1] - b.min[1]) * (b.max[2] - b.min[2]);
    const parts = boxMinusBox(box(0, 0, 0, 10, 10, 10), box(4, -1, 4, 6, 5, 11));
    expect(parts.reduce((sum, part) => sum + volume(part), 0)).toBe(1000 - 2 * 5 * 6);
    expect(boxMinusBox(box(0, 0, 0, 1, 1, 1), box(1, 0, 0, 2, 1, 1))).toHaveLength(1);
  });
});
