import { describe, expect, it } from '@jest/globals';
import { makePrefab } from '../map/prefab.ts';
import { applyEdit } from '../document/edit.ts';
import { blank, object, profile, withChanges } from '../testing/maps.ts';
import { callersOf } from './callers.ts';

const none = { hall: blank() };
const signal = (id: string, from: string, script: string): Parameters<typeof withChanges>[1] => ({
  of: 'signals',
  id,
  to: { from, event: 'turned', to: { script }, delay: 0 },
});

describe('who calls a function', () => {
  it('another function, with script and line, and the top level of a script', () => {
    const scripts = {
      'scripts/a.lua': 'function open()\n  lift()\nend\nlift()\n',
      'scripts/b.lua': 'function lift() end\n\n\nfunction close() lift() end\n',
    };
    expect(callersOf(profile, scripts, none).get('lift')).toEqual([
      { by: 'function', name: 'open', path: 'scripts/a.lua', line: 2 },
      { by: 'script', name: 'scripts/a.lua', path: 'scripts/a.lua', line: 4 },
      { by: 'function', name: 'close', path: 'scripts/b.lua', line: 4 },
    ]);
  });

  it('an event of an object that has the script as its own', () => {
    const change = object('o1', 'crank', 'crank', [0, 0, 0]);
    const own = { ...change, to: { ...(change as { to: object }).to, script: 'scripts/own.lua' } } as typeof change;
    const callers = callersOf(
      profile,
      { 'scripts/own.lua': 'function on_turned() end\nfunction on_lit() end\n' },
      { hall: withChanges(blank(), own) },
    );
    expect(callers.get('on_turned')).toEqual([{ by: 'signal', name: 'crank', map: 'hall', object: 'o1' }]);
    expect(callers.has('on_lit')).toBe(false);
  });

  it('a signal and a property of an object, by the object’s name', () => {
    const hall = withChanges(
      blank(),
      object('o1', 'crank', 'crank', [0, 0, 0]),
      object('o2', 'beacon', 'beacon_0', [0, 0, 0], { ordinal: 0, call: 'lift' }),
      object('o3', 'beacon', 'beacon_1', [0, 0, 0], { ordinal: 1, call: '' }),
      signal('g1', 'o1', 'lift'),
      { of: 'signals', id: 'g2', to: { from: 'o1', event: 'turned', to: { object: 'o2', action: 'light' }, delay: 0 } },
    );
    expect(callersOf(profile, {}, { hall }).get('lift')).toEqual([
      { by: 'signal', name: 'crank', map: 'hall', object: 'o1' },
      { by: 'signal', name: 'beacon_0', map: 'hall', object: 'o2' },
    ]);
  });

  it('one whose object is gone is named by its id; what a copy stands for calls as well', () => {
    const orphan = withChanges(blank(), signal('g1', 'o77', 'lift'));
    expect(callersOf(profile, {}, { hall: orphan }).get('lift')).toEqual([{ by: 'signal', name: 'o77', map: 'hall', object: 'o77' }]);
    const post = withChanges(blank(), object('o1', 'beacon', 'beacon_0', [0, 0, 0], { ordinal: 0, call: 'lift' }));
    const hall = applyEdit(post, makePrefab(post, profile, 'post', { solids: [], objects: ['o1'], copies: [] }, [0, 0, 0]).edit);
    expect(callersOf(profile, {}, { hall }).get('lift')).toMatchObject([{ by: 'signal', map: 'hall', object: 'c1_o1' }]);
  });

  it('the game calls its start-up function; what nothing calls has no entry; a broken script counts for nothing', () => {
    const callers = callersOf(profile, { 'scripts/a.lua': 'function idle() end', 'scripts/broken.lua': 'function (' }, none);
    expect(callers.get(profile.scripts.startup)).toEqual([{ by: 'game', name: profile.title }]);
    expect([...callers.keys()]).toEqual([profile.scripts.startup]);
  });
});
