import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { loadProfile } from '@violet-crate/core/profile/load';
import { boxMinusBox, box } from './boxMinusBox.ts';
import { pumphouseMap } from './pumphouse.ts';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');

// That it builds sealed, leaks when broken and can be walked through is checked by e2e/commandLine.sh.
describe('Pumphouse at Low Tide', () => {
  it('has enough to see, on the grid of its profile', () => {
    const map = pumphouseMap(profile);
    expect(Object.keys(map.solids).length).toBeGreaterThanOrEqual(150);
    expect(Object.keys(map.objects).length).toBeGreaterThanOrEqual(40);
    const used = new Set(Object.values(map.objects).map((o) => o.class));
    // A sealed map sees no sun.
    expect([...used].sort()).toEqual(
      profile.classes
        .map((c) => c.id)
        .filter((id) => id !== 'sun')
        .sort(),
    );
  });
});

describe('carving', () => {
  it('conserves volume outside the hole', () => {
    const volume = (b: ReturnType<typeof box>) => (b.max[0] - b.min[0]) * (b.max[1] - b.min[1]) * (b.max[2] - b.min[2]);
    const parts = boxMinusBox(box(0, 0, 0, 10, 10, 10), box(4, -1, 4, 6, 5, 11));
    expect(parts.reduce((sum, part) => sum + volume(part), 0)).toBe(1000 - 2 * 5 * 6);
    expect(boxMinusBox(box(0, 0, 0, 1, 1, 1), box(1, 0, 0, 2, 1, 1))).toHaveLength(1);
  });
});
