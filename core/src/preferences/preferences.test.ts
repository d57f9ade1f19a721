import { describe, expect, it } from '@jest/globals';
import { allowed, defaultPreferences, keyClashes, PREFERENCES, readPreferences, type Preference } from './preferences.ts';

describe('preferences', () => {
  it('have defaults that they allow themselves', () => {
    for (const one of PREFERENCES as readonly Preference[]) expect([one.id, allowed(one, one.default)]).toEqual([one.id, one.default]);
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

  it('say which commands would share a key', () => {
    const commands = [{ id: 'a', keys: 'x' }, { id: 'b', keys: 'y' }, { id: 'c' }];
    expect([...keyClashes(commands, {})]).toEqual([]);
    expect([...keyClashes(commands, { c: 'x' })]).toEqual([['x', ['a', 'c']]]);
    expect([...keyClashes(commands, { c: 'x', a: '' })]).toEqual([]);
  });
});
