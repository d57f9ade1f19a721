import { describe, expect, it } from '@jest/globals';
import { pathLength, pointAlong } from './path.ts';
import { type MapPath } from './schema.ts';
import { hall, withChanges, object, codesOf, mended } from '../testing/maps.ts';

describe('paths', () => {
  const path: MapPath = {
    name: 'round',
    points: [
      [0, 0, 0],
      [30, 0, 0],
      [30, 40, 0],
    ],
    loop: true,
  };
  it('are walked at constant speed, loops back to the beginning', () => {
    expect(pathLength(path)).toBe(120);
    expect(pointAlong(path, 50)).toEqual([30, 20, 0]);
    expect(pointAlong(path, 120 + 15)).toEqual([15, 0, 0]);
    expect(pointAlong({ ...path, loop: false }, 500)).toEqual([30, 40, 0]);
  });

  it('a follower of a path that is gone is a blocker whose fix clears it', () => {
    const map = withChanges(hall(), { of: 'paths', id: 'w1', to: path }, object('o9', 'ferry', 'raft', [0, 0, 8], { path: 'w1' }));
    expect(codesOf(map)).not.toContain('reference-broken');
    const lost = withChanges(map, { of: 'paths', id: 'w1', to: null });
    expect(codesOf(lost)).toContain('reference-broken');
    expect(codesOf(mended(lost, 'reference-broken'))).toContain('path-missing');
  });
});
