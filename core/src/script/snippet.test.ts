import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { testProfile, testWorld } from '../testing/world.ts';
import { callersOf } from '../link/callers.ts';
import { parseLua } from './parse.ts';
import { addSnippet, removeSnippet, snippetCredit, snippetProblem, snippetsIn, type Snippet } from './snippet.ts';
import { replaceStrings, stringsOf } from './strings.ts';

const DRIP: Snippet = {
  format: 1,
  title: 'Dripping pipes',
  author: 'Ilse Brandt',
  licence: 'CC BY 4.0',
  call: 'drip_pipes()',
  body: 'function drip_pipes()\n  every(3, function() play("sounds/drip.wav") end)\nend',
};

describe('snippets', () => {
  const script =
    'local n = 0\n\nfunction startup()\n  if n == 0 then\n    say("hi")\n  elseif n == 1 then\n    for i = 1, 3 do say(i) end\n  end\n  repeat n = n + 1 until n > 3\nend\n\nfunction later() end\n';

  it('go into the start-up function and to the end, and come out without a trace', () => {
    const after = addSnippet(script, DRIP, 'startup');
    expect(after).toContain('until n > 3\n  drip_pipes() -- from snippet: Dripping pipes\nend\n\nfunction later()');
    expect(after.endsWith('-- end of snippet: Dripping pipes\n')).toBe(true);
    expect(() => parseLua(after)).not.toThrow();
    expect(snippetsIn(after)).toEqual([{ title: 'Dripping pipes', author: 'Ilse Brandt', licence: 'CC BY 4.0' }]);
    expect(removeSnippet(after, 'Dripping pipes', 'startup')).toBe(script);
    expect(snippetCredit(DRIP)).toEqual({ author: 'Ilse Brandt', work: 'Dripping pipes (script)', licence: 'CC BY 4.0' });
  });

  it('make a start-up function where there is none, and take it along again', () => {
    const after = addSnippet('x = 1\n', DRIP, 'startup');
    expect(parseLua(after).functions.map((f) => f.name)).toContain('startup');
    expect(removeSnippet(after, DRIP.title, 'startup')).toBe('x = 1\n');
    const oneLine = addSnippet('function startup() say("x") end\n', DRIP, 'startup');
    expect(() => parseLua(oneLine)).not.toThrow();
    expect(parseLua(oneLine).calls.find((call) => call.name === 'drip_pipes')?.within).toBe('startup');
  });

  it('two in one script stay apart', () => {
    const second = { ...DRIP, title: 'Wind', call: 'wind()', body: 'function wind() end' };
    const both = addSnippet(addSnippet(script, DRIP, 'startup'), second, 'startup');
    expect(snippetsIn(both).map((s) => s.title)).toEqual(['Dripping pipes', 'Wind']);
    expect(removeSnippet(removeSnippet(both, 'Dripping pipes', 'startup'), 'Wind', 'startup')).toBe(script);
  });

  it.each<[Partial<Snippet>, string, RegExp]>([
    [{}, addSnippet(script, DRIP, 'startup'), /is in this script already/],
    [{ body: 'function (' }, script, /body has a syntax error in line 1/],
    [{ call: 'drip(' }, script, /call is not a line of Lua/],
    [{ call: 'a()\nb()' }, script, /has to be one line/],
    [{ body: 'function later() end' }, script, /has a function later already/],
    [{ body: 'function startup() end' }, 'x = 1', /defines startup itself/],
    [{}, 'function broken(', /The script has a syntax error/],
  ])('that do not fit are refused: %#', (change, source, message) => {
    expect(snippetProblem(source, { ...DRIP, ...change }, 'startup')).toMatch(message);
    expect(snippetProblem(script, DRIP, 'startup')).toBeNull();
  });
});

describe('strings of a script', () => {
  it('are replaced whole, with their own quotes, and nothing else is touched', () => {
    const source = `play("a.wav") play('a.wav') say("a.wav now") -- "a.wav"\nx = [[a.wav]]`;
    expect(replaceStrings(source, 'a.wav', 'b.wav')).toBe(`play("b.wav") play('b.wav') say("a.wav now") -- "a.wav"\nx = [[a.wav]]`);
    expect(stringsOf('x = "unclosed')).toEqual([]);
    fc.assert(
      fc.property(fc.stringMatching(/^[a-z_/.]{1,12}$/), fc.stringMatching(/^[a-z_/.]{1,12}$/), (from, to) => {
        const there = replaceStrings(`f("${from}")`, from, to);
        expect(there).toBe(`f("${to}")`);
      }),
    );
  });
});

describe('callers', () => {
  it('are functions, scripts, signals and the game', () => {
    const { crate } = testWorld();
    const object = Object.keys(crate.maps.hall.objects)[0];
    crate.maps.hall.signals.g1 = { from: object, event: 'spawned', to: { script: 'greet' }, delay: 0, value: '' } as never;
    const scripts = { 'scripts/main.lua': 'function greet() end\nfunction startup()\n  greet()\nend\n', 'scripts/b.lua': 'greet()\n' };
    const callers = callersOf(testProfile(), scripts, crate.maps);
    expect(callers.get('greet')!.map((caller) => [caller.by, caller.name, caller.line])).toEqual([
      ['function', 'startup', 3],
      ['script', 'scripts/b.lua', 1],
      ['signal', crate.maps.hall.objects[object].name, undefined],
    ]);
    expect(callers.get('startup')).toMatchObject([{ by: 'game' }]);
  });
});
