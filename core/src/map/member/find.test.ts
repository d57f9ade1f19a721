import { describe, expect, it } from '@jest/globals';
import { findInMap } from './find.ts';
import { cube, profile, hall, withChanges, solid, object } from '../../testing/maps.ts';

describe('finding', () => {
  const map = withChanges(
    hall(),
    object('o20', 'sign', 'notice', [0, 0, 0], { text: 'Mind the “low” beam\nЖёлтый' }),
    solid('s20', { ...cube([0, 0, 0]), tags: ['plinth'] }),
  );
  it.each([
    ['notice', 'o20'],
    ['class:sign', 'o20'],
    ['text:жёлтый', 'o20'],
    ['tag:plinth', 's20'],
    ['material:brick s20', 's20'],
  ])('%s finds %s', (query, id) => expect(findInMap(map, profile, query).map((f) => f.id)).toContain(id));
  it('finds nothing for nothing', () => {
    expect(findInMap(map, profile, '  ')).toEqual([]);
    expect(findInMap(map, profile, 'name:plinth')).toEqual([]);
  });
});
