import { expect, it } from '@jest/globals';
import { linearPattern } from './linearPattern.ts';

it('takes what patterns of names are made of, as ECMAScript does', () => {
  for (const [pattern, yes, no] of [
    ['^[a-z][a-z0-9_]*$', 'hall_2', 'Hall'],
    ['^(map|mod)_[a-z]{2,4}$', 'map_abc', 'map_abcde'],
    ['^\\d+-\\w+$', '12-ab', 'ab-12'],
    ['^[^.]+$', 'ab', 'a.b'],
  ] as const) {
    const fits = linearPattern(pattern)!;
    for (const text of [yes, no]) expect(fits(text)).toBe(new RegExp(pattern, 'u').test(text));
    expect([fits(yes), fits(no)]).toEqual([true, false]);
  }
});

// OWASP, "Regular expression Denial of Service": patterns that take years with a backtracking matcher on texts of this length.
it.each(['^(a+)+$', '^([a-zA-Z]+)*$', '^(a|aa)+$', '^(a|a?)+$', '^(.*a){25}$'])('%s comes to an end', (pattern) => {
  expect(linearPattern(pattern)!(`${'a'.repeat(2000)}!`)).toBe(false);
});

it('refuses what cannot be done in linear time, and what is no pattern', () => {
  for (const pattern of ['(a)\\1', '(?=a)b', '(?<=a)b', '[', '(', 'a{5000}']) expect(linearPattern(pattern)).toBeNull();
});
