import { describe, expect, it } from '@jest/globals';
import { applyEdit, invertEdit, type MapEdit } from '../document/edit.ts';
import type { MapObject } from '../document/schema.ts';
import { shaped, terrain } from '../testing/terrains.ts';
import { withFollowers } from './follow.ts';
import { replaceHeights } from './reshape.ts';

const { map: level, ground } = shaped(terrain([65, 65]), () => 4);
const object = (x: number, z: number, contact?: MapObject['contact']): MapObject => ({
  class: 'prop',
  name: `at_${x}`,
  position: [x, 30, z],
  turn: 0,
  properties: {},
  ...(contact ? { contact } : {}),
});
const map = {
  ...level,
  objects: { o1: object(10, 4, 'follow'), o2: object(10, 4), o3: object(40, 9, 'follow'), o4: object(10, 4, 'keep'), o5: object(900, 4, 'follow') },
};
const raise: MapEdit = {
  name: 'raise',
  changes: replaceHeights(
    ground,
    Float32Array.from({ length: 65 * 65 }, (_, k) => (k % 65 < 20 ? 7 : 4)),
  ),
};

describe('objects that follow the ground', () => {
  const edit = withFollowers(map, raise);
  const after = applyEdit(map, edit);

  it('go up with it, those alone, and only where it has changed', () => {
    expect(Object.values(after.objects).map(({ position }) => position[2])).toEqual([7, 4, 9, 4, 4]);
  });

  it('as do placed prefabs and the points of paths', () => {
    const more = {
      ...map,
      copies: {
        c1: { prefab: 'gate', name: 'gate', position: [10, 30, 4] as [number, number, number], turn: 0, values: {}, contact: 'follow' as const },
      },
      paths: { w1: { name: 'lane', points: [[10, 30, 5], [40, 30, 5]] as [number, number, number][], loop: false, contact: 'follow' as const } }, // prettier-ignore
    };
    const moved = applyEdit(more, withFollowers(more, raise));
    expect([moved.copies.c1.position[2], moved.paths.w1.points.map((p) => p[2])]).toEqual([7, [8, 5]]);
  });

  it('go back with one undo', () => {
    const back = applyEdit(after, invertEdit(map, edit));
    expect(back.objects).toEqual(map.objects);
    expect(back.tiles).toEqual(map.tiles);
  });

  it('leave alone what the edit moves itself, and edits of other things', () => {
    const own: MapEdit = { ...raise, changes: [...raise.changes, { of: 'objects', id: 'o1', to: object(10, 50, 'follow') }] };
    expect(applyEdit(map, withFollowers(map, own)).objects.o1.position[2]).toBe(50);
    const other: MapEdit = { name: 'move', changes: [{ of: 'objects', id: 'o2', to: object(12, 4) }] };
    expect(withFollowers(map, other)).toBe(other);
  });
});
