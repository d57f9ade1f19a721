import { describe, expect, it } from '@jest/globals';
import { allowed, defaultPreferences, keyClashes, PREFERENCES, readPreferences, valuesIn } from './preferences.ts';

describe('preferences', () => {
  it('have defaults that they allow themselves', () => {
    for (const one of PREFERENCES) expect([one.id, allowed(one, one.default)]).toEqual([one.id, one.default]);
    expect(new Set(PREFERENCES.map(({ id }) => id)).size).toBe(PREFERENCES.length);
  });

  it('are read from whatever lies there, with what cannot be left out by name', () => {
    for (const nothing of [null, 7, 'x', [], {}]) expect(readPreferences(nothing)).toEqual({ preferences: defaultPreferences(), left: [] });
    const { preferences, left } = readPreferences({
      values: { theme: 'light', textSize: 900, contrast: 'loud', stillness: 'yes', colour: 'red', undoDepth: NaN },
      keys: { 'tool-room': 'Ctrl+Alt+R', hide: '', Bad: 'x', other: 'two words', third: 7 },
    });
    expect(preferences.values).toMatchObject({ theme: 'light', textSize: 150, contrast: 'normal', stillness: false });
    expect(preferences.keys).toEqual({ 'tool-room': 'Ctrl+Alt+R', hide: '' });
    expect(left).toEqual(['contrast', 'stillness', 'colour', 'undoDepth', 'key of Bad', 'key of other', 'key of third']);
  });

  it('can be otherwise in a crate, where that makes sense', () => {
    const { preferences, left } = readPreferences({
      values: { lengths: 'metres', quality: 'draft' },
      crates: { c1: { quality: 'final', theme: 'light' }, 'c 2': { quality: 'final' }, ['__proto__']: {} },
    });
    expect(left).toEqual(['theme of the crate c1', 'values of the crate c 2', 'values of the crate __proto__']);
    expect(valuesIn(preferences, 'c1')).toMatchObject({ lengths: 'metres', quality: 'final', theme: 'dark' });
    for (const other of ['c2', 'constructor', undefined]) expect(valuesIn(preferences, other)).toBe(preferences.values);
  });

  it('say which commands would share a key', () => {
    const commands = [{ id: 'a', keys: 'x' }, { id: 'b', keys: 'y' }, { id: 'c' }];
    expect([...keyClashes(commands, {})]).toEqual([]);
    expect([...keyClashes(commands, { c: 'x' })]).toEqual([['x', ['a', 'c']]]);
    expect([...keyClashes(commands, { c: 'x', a: '' })]).toEqual([]);
  });
});
