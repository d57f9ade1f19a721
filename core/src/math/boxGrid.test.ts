import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { boxesTouch, type Box3 } from './box3.ts';
import { BoxGrid } from './boxGrid.ts';

const boxes = fc.array(
  fc
    .tuple(
      fc.integer({ min: -500, max: 500 }),
      fc.integer({ min: -500, max: 500 }),
      fc.integer({ min: 0, max: 3000 }),
      fc.integer({ min: 0, max: 80 }),
    )
    .map(([x, y, w, d]): Box3 => ({ min: [x, y, 0], max: [x + w, y + d, 10] })),
  { maxLength: 40 },
);

describe('a grid of boxes', () => {
  it('finds everything that touches, in the order in which it was added', () => {
    fc.assert(
      fc.property(boxes, boxes, fc.integer({ min: 0, max: 30 }), (all, asked, slack) => {
        const grid = new BoxGrid<number>(64);
        all.forEach((box, i) => grid.add(box, i));
        for (const box of asked) {
          const near = grid.near(box, slack);
          expect(near).toEqual([...near].sort((a, b) => a - b));
          const wide: Box3 = { min: box.min.map((v) => v - slack) as never, max: box.max.map((v) => v + slack) as never };
          all.forEach((other, i) => boxesTouch(other, wide, 0) && expect(near).toContain(i));
        }
      }),
    );
  });

  it('leaves out what is far away', () => {
    const grid = new BoxGrid<string>(64);
    grid.add({ min: [0, 0, 0], max: [10, 10, 10] }, 'here');
    grid.add({ min: [900, 900, 0], max: [910, 910, 10] }, 'there');
    expect(grid.near({ min: [5, 5, 0], max: [6, 6, 1] })).toEqual(['here']);
  });
});
