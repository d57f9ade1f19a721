import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { applyEdit, diffMaps, touchedBy } from './edit.ts';
import { serialiseMap } from './serialise.ts';
import { hall, withChanges, cube } from '../testing/maps.ts';

describe('comparing maps', () => {
  it('the difference leads from one to the other, whatever was done', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 1, max: 8 }), fc.integer({ min: 0, max: 3 })), { maxLength: 12 }), (steps) => {
        const from = hall();
        const to = steps.reduce(
          (map, [n, what]) => withChanges(map, { of: 'solids', id: `s${n}`, to: what === 0 ? null : cube([n * what * 16, 0, 0]) }),
          from,
        );
        const edit = diffMaps(from, to, 'difference');
        expect(serialiseMap(edit ? applyEdit(from, edit) : from)).toBe(serialiseMap(to));
        if (edit) expect(touchedBy(edit).size).toBe(edit.changes.length);
      }),
      { numRuns: 50 },
    );
  });
});
