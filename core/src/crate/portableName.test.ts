import { expect, it } from '@jest/globals';
import { foldedPath, pathTrouble, shownPath } from './portableName.ts';

it.each([
  ['scripts/con', /device/],
  ['scripts/aux.lua', /device/],
  ['LPT1.txt', /device/],
  ['com¹.ktx2', /device/],
  ['maps/hall.', /full stop/],
  ['maps/hall /map.glb', /space/],
  [' a', /begins with a space/],
  ['a//b', /empty name/],
  ['/a', /root/],
  ['a/../b', /out of its folder/],
  ['a/./b', /out of its folder/],
  ['a\\b', /Windows does not take/],
  ['a:b', /Windows does not take/],
  ['a\u0007', /Windows does not take/],
  ['a\u202egnp.exe', /not seen/],
  ['a\u200b.lua', /not seen/],
  ['u\u0308ber.lua', /composed form/],
  [`${'x'.repeat(300)}.lua`, /255 bytes/],
  [`${'ü'.repeat(128)}`, /255 bytes/],
  [Array.from({ length: 60 }, () => 'x'.repeat(20)).join('/'), /1024 bytes/],
])('%s is refused', (path, why) => void expect(pathTrouble(path)).toMatch(why));

it.each(['scripts/main.lua', 'console.lua', 'a.b.c', 'textures/mörtel_2.ktx2', 'maps/halle/map.glb', 'auxiliary/nullable.txt', 'x'.repeat(255)])(
  '%s is fine',
  (path) => void expect(pathTrouble(path)).toBeNull(),
);

it('two spellings of one name are one file; a hidden mark is shown by its number', () => {
  expect(foldedPath('u\u0308BER')).toBe(foldedPath('Über'));
  expect(shownPath('a\u202eb')).toBe('a[U+202E]b');
});
