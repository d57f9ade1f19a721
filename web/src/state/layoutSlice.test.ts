import { expect, test } from '@jest/globals';
import { DEFAULT_LAYOUT, INSET_LIMITS, readLayout, SECTION_LIMITS } from './layoutSlice.ts';

test('without anything stored, or with something else, the table is as it comes', () => {
  for (const text of [null, '', '{', '[]', '"x"', '{"section":"wide","inset":7}']) expect(readLayout(text)).toEqual(DEFAULT_LAYOUT);
});

test('what is stored comes back, within its limits', () => {
  const layout = { section: 0.4, inset: { right: 30, top: 40, width: 400 }, swapped: true, folded: true };
  expect(readLayout(JSON.stringify(layout))).toEqual(layout);
  expect(readLayout('{"section":9,"inset":{"width":1}}')).toMatchObject({ section: SECTION_LIMITS[1], inset: { width: INSET_LIMITS[0], right: 10 } });
});
