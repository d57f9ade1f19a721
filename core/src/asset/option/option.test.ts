import { expect, test } from '@jest/globals';
import { optionProblem, optionsProblem, optionValues, readOption, type Option, type OptionRule } from './option.ts';

const option = (rule: OptionRule): Option => ({ key: 'it', label: '', explains: '', rule });
const shares = option({ kind: 'numbers', least: 0, most: 3, min: 0.001, max: 0.999, falling: true, example: '0.5,0.25' });

test.each<[string, OptionRule, unknown[], unknown[]]>([
  ['a choice', { kind: 'choice', of: ['a', 'b'] }, ['a', 'b'], ['c', '', 1, null, 'constructor']],
  ['a switch', { kind: 'switch' }, [true, false], ['on', 0, null]],
  ['a number', { kind: 'number', min: 0, max: 5 }, [0, 5, 2.5], [-1, 6, NaN, '3', null, Infinity]],
  ['a whole number', { kind: 'number', min: 1, max: 64, whole: true }, [1, 64], [1.5, 0]],
  ['a text', { kind: 'text', most: 3 }, ['', 'abc'], ['abcd', 1]],
  ['falling numbers', shares.rule, [[], [0.5, 0.25]], [[0.5, 0.5], [0.25, 0.5], [1], [0.5, 'x'], 0.5, [0.9, 0.8, 0.7, 0.6]]],
  ['pairs', { kind: 'words', most: 2, keys: ['r', 'g'], example: 'r=a' }, [{}, { r: 'a' }], [{ x: 'a' }, { r: 1 }, [], 'r=a', null]],
])('%s takes what fits, and names what does not', (_what, rule, right, wrong) => {
  for (const value of right) expect(optionProblem(option(rule), value)).toBeNull();
  for (const value of wrong) expect(optionProblem(option(rule), value)).toMatch(/has /);
});

test('settings are checked by name', () => {
  const table = [shares];
  expect(optionsProblem(table, { it: [0.5] })).toBeNull();
  expect(optionsProblem(table, { it: [2] })).toBe('it has to be at most 3 numbers from 0.001 to 0.999, falling, like 0.5,0.25.');
  expect(optionsProblem(table, { other: 1 })).toBe('other is no setting of this kind of asset.');
});

test('what is typed becomes a value, or stays a text that is refused', () => {
  const typed = (rule: OptionRule, text: string) => readOption(option(rule), text);
  expect(typed({ kind: 'number', min: 0, max: 9 }, '4')).toBe(4);
  expect(typed({ kind: 'switch' }, 'on')).toBe(true);
  expect(typed(shares.rule, '0.5,0.25')).toEqual([0.5, 0.25]);
  expect(typed({ kind: 'words', most: 9, example: '' }, 'a=b,c=d')).toEqual({ a: 'b', c: 'd' });
  for (const [rule, text] of [
    [{ kind: 'number', min: 0, max: 9 }, 'x'],
    [{ kind: 'number', min: 0, max: 9 }, ''],
    [{ kind: 'switch' }, 'yes'],
    [shares.rule, '0.5,,'],
    [{ kind: 'words', most: 9, example: 'a=b' }, 'a'],
  ] as [OptionRule, string][])
    expect(optionProblem(option(rule), typed(rule, text))).not.toBeNull();
  expect(optionValues(option({ kind: 'choice', of: ['x', 'y'] }))).toBe('x, y');
});
