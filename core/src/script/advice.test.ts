import { describe, expect, it } from '@jest/globals';
import { findingsOf, hall, mended, object, withChanges } from '../testing/maps.ts';
import { testProfile } from '../testing/world.ts';
import { scriptAdvice } from './advice.ts';
import { readScript } from './check.ts';
import { nearest } from './nearest.ts';

const told = (source: string, objects = ['crank', 'gallery_lamp']) =>
  scriptAdvice({ profile: testProfile(), scripts: { 'scripts/main.lua': source }, objects: new Set(objects) }).map(
    ({ code, place, message, hint }) => [code, place?.line, `${message} ${hint}`] as const,
  );

describe('a function that a property names', () => {
  it('stands there by its name alone; quotes and brackets are said, and taken away', () => {
    const map = withChanges(hall(), object('b', 'beacon', 'beacon', [0, 0, 0], { call: '"startup()"' }));
    const told = findingsOf(map).find(({ place, code }) => place?.object === 'b' && code === 'reference-broken')!;
    expect(told.message).toContain('which is no name of a function');
    expect(told.fix).toMatchObject({ label: 'Use startup' });
    expect(mended(map, 'reference-broken').objects.b.properties.call).toBe('startup');
  });
});

describe('what is odd in scripts', () => {
  it('a misspelt object, with the one that was meant', () => {
    expect(told('fire("gallery_lmp", "light")\nget("crank", "x")\nsay(get("nothing_like_it", "x"))')).toEqual([
      ['script-object', 1, 'fire: no object is called "gallery_lmp". Did you mean "gallery_lamp"?'],
      ['script-object', 3, 'get: no object is called "nothing_like_it". Place it in a map, or correct the name.'],
    ]);
  });

  it('too many or too few arguments, but not where their number is open', () => {
    expect(
      told('fire("crank")\nfire("crank", "x", 1, 2)\nsay()\nwin("a")\nfire(f())\nfunction f(...) fire(...) end').map(([code, line]) => [code, line]),
    ).toEqual([
      ['script-arguments', 1],
      ['script-arguments', 2],
      ['script-arguments', 3],
    ]);
  });

  it('globals that are read and never set, once each; locals, functions and Lua’s own are known', () => {
    expect(told('count = 1\nlocal own = 2\nfunction f() end\nprint(count, own, f, string.rep, cuont, cuont)')).toEqual([
      ['script-global', 4, 'Nothing ever sets cuont; it is always nil. Did you mean count?'],
    ]);
    expect(told('io.open("x")').map(([code]) => code)).toEqual(['script-global']);
  });

  it('a function that always calls itself; one that may stop is fine', () => {
    expect(told('function f()\n  say("x")\n  f()\nend').map(([code, line]) => [code, line])).toEqual([['script-recursion', 3]]);
    for (const fine of [
      'function f(n) if n == 0 then return end f(n - 1) end',
      'function f(n) if n > 0 then f(n - 1) end end',
      'function f(n) return n > 0 and f(n - 1) end',
      'function f(n) while n > 0 do f(n) end end',
      'function f() after(1, function() f() end) end',
    ])
      expect([fine, told(fine)]).toEqual([fine, []]);
  });

  it('a text that nobody wrote by hand is refused before it is read', () => {
    const long = '-- data\n'.repeat(700_000);
    const { outline, findings } = readScript('scripts/big.lua', long);
    expect(outline).toBeNull();
    expect(findings[0]).toMatchObject({
      code: 'script-too-long',
      message: 'scripts/big.lua has 5.6 million characters; a script may have 1 million.',
    });
  });

  it('the nearest name is near', () => {
    expect(nearest('crnak', ['crank', 'sluice'])).toBe('crank');
    expect(nearest('ab', ['xy'])).toBeNull();
    expect(nearest('x'.repeat(1000), ['y'])).toBeNull();
  });
});
