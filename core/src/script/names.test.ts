import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { formatLua } from './format.ts';
import { tokenise } from './lexer.ts';
import { globalName, luaNameProblem, nameAt, replaceAt } from './names.ts';

const scripts = {
  'scripts/main.lua': 'local n = 0\nfunction light(n)\n  say(n)\nend\nn = n + 1\nlight(n)\n',
  'scripts/more.lua': 'light(3)\nlocal light = 4\nsay(light)\n',
};
const at = (path: keyof typeof scripts, text: string, nth = 0): number => {
  let found = -1;
  for (let i = 0; i <= nth; i++) found = scripts[path].indexOf(text, found + 1);
  return found;
};

describe('names in scripts', () => {
  it('a global is the same in all files, but not where a local hides it', () => {
    const info = nameAt(scripts, 'scripts/main.lua', at('scripts/main.lua', 'light'))!;
    expect(info).toMatchObject({ name: 'light', scope: 'global', definition: { path: 'scripts/main.lua', line: 2 } });
    expect(info.occurrences.map(({ path, line, role }) => [path, line, role])).toEqual([
      ['scripts/main.lua', 2, 'write'],
      ['scripts/main.lua', 6, 'read'],
      ['scripts/more.lua', 1, 'read'],
    ]);
  });

  it('a local is its own, and a parameter of the same name another', () => {
    const outer = nameAt(scripts, 'scripts/main.lua', at('scripts/main.lua', 'n = 0'))!;
    expect(outer.scope).toBe('local');
    expect(outer.occurrences.map(({ line }) => line)).toEqual([1, 5, 5, 6]);
    const inner = nameAt(scripts, 'scripts/main.lua', at('scripts/main.lua', 'n)'))!;
    expect(inner.occurrences.map(({ line, role }) => [line, role])).toEqual([
      [2, 'declare'],
      [3, 'read'],
    ]);
    expect(nameAt(scripts, 'scripts/main.lua', at('scripts/main.lua', '= 0'))).toBeNull();
  });

  it('are replaced where they are meant and nowhere else', () => {
    const { occurrences } = globalName(scripts, 'light');
    const mine = occurrences.filter(({ path }) => path === 'scripts/more.lua');
    expect(replaceAt(scripts['scripts/more.lua'], mine, 'ignite')).toBe('ignite(3)\nlocal light = 4\nsay(light)\n');
  });

  it('may be what Lua allows', () => {
    expect(luaNameProblem('a_1')).toBeNull();
    expect(luaNameProblem('1a')).toMatch(/begin with a letter/);
    expect(luaNameProblem('end')).toBe('"end" is a word of Lua.');
  });
});

describe('setting lines in', () => {
  it('by blocks, tables and calls; once for all that one line opens', () => {
    const ugly =
      'function a()\nif x then\nsay("a")\nelseif y then\nsay("b")\nelse\nafter(2, function()\nfire("x",\n"y")\nend)\nend\nlocal t = {\n1,\n2 }\nend\n\n\n';
    expect(formatLua(ugly)).toBe(
      'function a()\n  if x then\n    say("a")\n  elseif y then\n    say("b")\n  else\n    after(2, function()\n      fire("x",\n        "y")\n    end)\n  end\n  local t = {\n    1,\n    2 }\nend\n',
    );
  });

  it('leaves long strings and comments as they are', () => {
    const source = 'if x then\nlocal s = [[\n   kept\n]]\n--[[ also\n      kept ]]\n-- moved\nend\n';
    expect(formatLua(source)).toBe('if x then\n  local s = [[\n   kept\n]]\n  --[[ also\n      kept ]]\n  -- moved\nend\n');
  });

  it('never changes what it means, and is done after once', () => {
    const word = fc.constantFrom(
      'if',
      'then',
      'end',
      'else',
      'do',
      'repeat',
      'until',
      '{',
      '}',
      '(',
      ')',
      '\n',
      '\n',
      'x',
      '1',
      '"s"',
      '[[a\nb]]',
      '-- c\n',
      '--[[ d\n e ]]',
    );
    fc.assert(
      fc.property(fc.array(word, { maxLength: 60 }), (list) => {
        const source = list.join(' ');
        const once = formatLua(source);
        const words = (text: string) => tokenise(text).map(({ kind, text: own }) => `${kind} ${own}`);
        expect(words(once)).toEqual(words(source));
        expect(formatLua(once)).toBe(once);
      }),
    );
  });
});
