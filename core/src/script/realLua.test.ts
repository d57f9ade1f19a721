/** Scripts run here and by Debian's lua5.4 print the same; `npm test` installs it. */

import { execFileSync } from 'node:child_process';
import { describe, expect, it } from '@jest/globals';
import { ScriptRuntime } from './run.ts';

/** Things on which implementations and versions of Lua differ: numbers as text, division, bits, patterns, tables, coroutines, errors. */
const SCRIPTS: Record<string, string> = {
  numbers: 'print(1, 1.0, 10 // 3, 10 / 2, -7 // 2, -7 % 3, 7 % -3, 2^53, 1e15, 1e16, 0x10, 3 | 4, ~0, 1 << 62, math.maxinteger, math.mininteger)',
  conversions:
    'print("10" + 5, "3" * "4", 10 .. 20, tostring(1e100), tonumber("0x1p4"), tonumber("z", 36), tonumber("12a"), math.type(1), math.type(1.0), math.type("1"))',
  comparisons: 'print(1 == 1.0, "1" == 1, 0.1 + 0.2 == 0.3, "a" < "b", 2^53 == 2^53 + 1, not nil, nil == false)',
  strings:
    'print(("%5.2f|%-5s|%05d|%x|%q"):format(3.14159, "ab", 42, 255, "a\\n\\"b"), #"äöü", ("abc"):rep(3, "-"), ("hello"):sub(-3, -2), ("x"):byte())',
  patterns:
    'print(("key = value"):match("^(%w+)%s*=%s*(%w+)$")) print(("a,b,,c"):gsub(",", ";")) for w in ("one two  three"):gmatch("%a+") do io = w print(w) end print(("THE (quick) fox"):find("%((%a+)%)"))',
  tables:
    'local t = {5, 2, 8, 1} table.sort(t) print(table.concat(t, " "), #t, select("#", table.unpack(t, 2, 3))) table.insert(t, 2, 9) print(table.remove(t), table.concat(t, ",")) local u = table.move(t, 1, 2, 3) print(table.concat(u, ","))',
  closures:
    'local function counter() local n = 0 return function() n = n + 1 return n end end local a, b = counter(), counter() print(a(), a(), b()) for i = 3, 1, -1 do local j <const> = i * i print(j) end',
  metatables:
    'local V = {} V.__index = V V.__add = function(a, b) return setmetatable({x = a.x + b.x}, V) end V.__tostring = function(v) return "V" .. v.x end V.__eq = function(a, b) return a.x == b.x end local a, b = setmetatable({x = 1}, V), setmetatable({x = 2}, V) print(tostring(a + b), a == b, rawequal(a, a), a ~= b)',
  coroutines:
    'local co = coroutine.wrap(function(a) local b = coroutine.yield(a + 1) print("got", b) return "end" end) print(co(1)) print(co(7)) print(coroutine.isyieldable())',
  errors:
    'print(pcall(error, "plain")) print(pcall(error, {1})~=nil) print(select(2, pcall(function() local x = nil; return x.y end))) print(select(2, xpcall(function() error("deep", 0) end, function(m) return "handled " .. m end)))',
  goto: 'for i = 1, 3 do for j = 1, 3 do if j == 2 then goto continue end print(i, j) ::continue:: end end',
  integers:
    'for i = math.maxinteger - 1, math.maxinteger do print(i) end print(math.maxinteger + 1 == math.mininteger, 5 // 0.0, -5 // 0.0, 0/0 ~= 0/0)',
  utf8: 'print(utf8.char(228, 8364), utf8.len("äöü"), utf8.codepoint("€")) for _, c in utf8.codes("aé") do print(c) end',
};

/** What a script prints, line by line. */
async function ours(source: string): Promise<string> {
  const lines: string[] = [];
  const runtime = await ScriptRuntime.start({
    say: (text) => lines.push(text),
    fire: () => {},
    get: () => null,
    set: () => {},
    win: () => {},
    after: () => true,
    error: (message) => lines.push(`error ${message}`),
  });
  runtime.load('script', source);
  runtime.stop();
  return lines.join('\n');
}

describe('the same as Debian’s lua5.4', () => {
  it.each(Object.entries(SCRIPTS))('%s', async (_, source) => {
    const theirs = execFileSync('lua5.4', ['-'], { input: `#\n${source}`, encoding: 'utf8' });
    // Its print separates by tabs, a game's by spaces; the chunk has another name there.
    const plain = theirs
      .trimEnd()
      .replaceAll('\t', ' ')
      .replaceAll(/stdin:\d+:/g, 'script:1:');
    expect(await ours(source)).toBe(plain);
  });
});
