import { beforeAll, describe, expect, it } from '@jest/globals';
import { LuaFactory, type LuaEngine } from 'wasmoon';
import { testProfile } from '../testing/world.ts';
import { checkScripts, globalFunctions, readScript } from './check.ts';
import { LuaSyntaxError } from './lexer.ts';
import { parseLua } from './parse.ts';
import { ScriptRuntime, type ScriptHost } from './run.ts';

const GOOD = [
  '',
  '-- only a comment',
  '--[[ long\ncomment ]]',
  '--[==[ ]] ]==]',
  '#!/usr/bin/lua\nx = 1',
  'return',
  'return 1, 2;',
  ';;;',
  'local x <const> = 1',
  'local f <close> = nil',
  'local a, b <const>, c = 1, 2, 3',
  'x = 0x1p4 + 0x.8 + 1e-3 + .5 + 3. + 0xA',
  'x = 7 // 2 % 3 ~ 1 & 2 | 3 << 1 >> 2',
  'x = ~1 + -2 + #"s"',
  'x = not nil and true or false',
  'x = 2^-3^2',
  'x = "a" .. "b" .. 1',
  "x = 'it\\'s \\x41 \\u{48} \\065 \\z\n   ok'",
  'x = [[long\nstring]] .. [==[a]]b]==]',
  'goto done do local x end ::done::',
  'for i = 1, 10 do goto continue ::continue:: end',
  'for i = 10, 1, -1 do break end',
  'for k, v in pairs({}) do end',
  'while true do break end',
  'repeat local x = 1 until x == 1',
  'if a then elseif b then else end',
  'function a.b.c:d(x, ...) return ... end',
  'local function f(...) local t = {...} return select("#", ...) end',
  'x = function() end',
  'f{1, 2; a = 3, ["b"] = 4, f()}',
  'f"text"',
  'f[[text]]',
  'a.b["c"].d:e(1):f "x"',
  '(f or g)(1)',
  'a, b.c, d[1] = 1, 2',
  'local t = {[1] = 1,}',
  'do local x <const> = 1; local function g() return x end end',
  'return function(...) return ... end',
  'x = a == b ~= c',
  'x = a.b.c',
  '::a:: do ::b:: end',
  'local goto_ = 1',
  'x = 1 --[[c]] + 2',
  'x = "\\\n"',
  'f(function() return end)',
  'x = - - 1',
  'x = 3 .. 4',
  'while 1 do local x = 1 goto top ::top:: end',
];

const BAD = [
  'x =',
  'x = = 1',
  'local 1 = 2',
  'if x then',
  'function f( end',
  'for i = 1 do end',
  'for i in do end',
  'return return',
  'break',
  'goto nowhere',
  '::a:: ::a::',
  'x = "unfinished',
  "x = 'a\nb'",
  'x = [[unfinished',
  '--[[ unfinished',
  'x = 1 2',
  'f(',
  'f)',
  '{}',
  'x',
  'x.y',
  '"text"',
  'local x <unknown> = 1',
  'local x <const> = 1; x = 2',
  'x = 0x',
  'x = 1e',
  'x = 3x',
  'x = "\\q"',
  'x = "\\300"',
  'x = "\\xZZ"',
  'x = "\\u{}"',
  'x = @',
  'x = a ! b',
  'x = a != b',
  'end',
  'do',
  'repeat',
  'until true',
  'function f() return ... end',
  'local function f() return 1 x = 2 end',
  'a.b:c = 1',
  'f() = 1',
  'x = {1, 2',
  'x = (1',
  'local a <close>, b <close> = nil, nil',
  'x = and',
  'x += 1',
  'while true end',
  'if a then else elseif b then end',
  'for 1, 2 do end',
  'local function a.b() end',
  'goto 1',
  'x = function',
  'return 1 return 2',
  '(f)',
  'x = [=[ ]] ',
];

const lines = (count: number, line: (i: number) => string) => Array.from({ length: count }, (_, i) => line(i)).join('\n');
/** A function that uses so many variables of the functions around it, of which none has more than it may. */
const upvalues = (count: number) =>
  `${lines(150, (i) => `local a${i}`)}\nlocal function outer()\n${lines(count - 150, (i) => `local b${i}`)}\nreturn function()\nlocal x\n${lines(150, (i) => `x = a${i}`)}\n${lines(count - 150, (i) => `x = b${i}`)}\nend\nend`;
/** At the limits of Lua's compiler, and one beyond. */
GOOD.push(
  lines(200, (i) => `local a${i}`),
  lines(300, (i) => `do local a${i} end`),
  `for i = 1, 2 do\n${lines(196, (i) => `local a${i}`)}\nend`,
  `for k in f do\n${lines(195, (i) => `local a${i}`)}\nend`,
  `local function f(${lines(200, (i) => `a${i}`).replaceAll('\n', ', ')}) end`,
  upvalues(255),
);
BAD.push(
  lines(201, (i) => `local a${i}`),
  `for i = 1, 2 do\n${lines(197, (i) => `local a${i}`)}\nend`,
  `for k in f do\n${lines(196, (i) => `local a${i}`)}\nend`,
  `local function f(${lines(201, (i) => `a${i}`).replaceAll('\n', ', ')}) end`,
  upvalues(256),
);

describe('the Lua parser', () => {
  let lua: LuaEngine;
  let judge: (source: string) => boolean;
  beforeAll(async () => {
    lua = await new LuaFactory().createEngine({ injectObjects: false, enableProxy: false });
    judge = (await lua.doString('return function(source) return load(source, "=chunk", "t") ~= nil end')) as typeof judge;
  });

  // Outside reference: real Lua 5.4 compiled to WebAssembly.
  it.each([...GOOD, ...BAD].map((source) => [source.slice(0, 60), source]))('judges as Lua 5.4 does: %j', (_, source) => {
    // The first line of a file may be a shebang; it is the file reader that skips it, not load().
    const real = judge(source.replace(/^#[^\n]*/, ''));
    let own = true;
    try {
      parseLua(source);
    } catch (error) {
      expect(error).toBeInstanceOf(LuaSyntaxError);
      own = false;
    }
    expect(own).toBe(real);
    expect(real).toBe(GOOD.includes(source));
  });

  it('names line and column of an error', () => {
    const { findings } = readScript('scripts/main.lua', 'function startup()\n  say("hi"\nend\n');
    expect(findings[0]).toMatchObject({ code: 'script-syntax', severity: 'blocker', place: { file: 'scripts/main.lua', line: 3, column: 1 } });
  });

  it('outlines functions and calls', () => {
    const outline = parseLua(
      'function startup() helper("a", 1) end\nlamps = {}\nfunction lamps.light(x) fire(x, "light") end\nlocal function hidden() end',
    );
    expect(outline.functions.map((f) => f.name)).toEqual(['startup', 'lamps.light', null]);
    expect(outline.calls[0]).toMatchObject({ name: 'helper', within: 'startup', literals: ['a', null] });
  });

  it('finds functions that nothing calls, and a missing start-up function', () => {
    const profile = testProfile();
    const codes = (scripts: Record<string, string>, called: string[] = []) => checkScripts(profile, scripts, new Set(called)).map((f) => f.code);
    expect(codes({ 'scripts/main.lua': 'function startup() end function lonely() end' })).toEqual(['script-uncalled']);
    expect(codes({ 'scripts/main.lua': 'function startup() end function lonely() end' }, ['lonely'])).toEqual([]);
    expect(codes({ 'scripts/main.lua': '' })).toEqual(['script-no-startup']);
    expect(globalFunctions({ 'scripts/main.lua': 'function b() end function a() end function t.x() end' })).toEqual(['a', 'b']);
  });
});

describe('running scripts', () => {
  function host() {
    const log: string[] = [];
    const later: (() => void)[] = [];
    const self: ScriptHost = {
      say: (t) => log.push(`say ${t}`),
      fire: (n, a, v) => log.push(`fire ${n} ${a} ${v}`),
      get: (_n, p) => (p === 'level' ? 3 : null),
      set: (n, p, v) => log.push(`set ${n} ${p} ${String(v)}`),
      win: (t) => log.push(`win ${t}`),
      after: (_s, call) => later.push(call) <= 10_000,
      error: (m) => log.push(`error ${m}`),
    };
    return { self, log, later };
  }

  it('reaches the host and only the host', async () => {
    const { self, log, later } = host();
    const runtime = await ScriptRuntime.start(self);
    runtime.load(
      'scripts/main.lua',
      `
      function startup(value, from)
        say("hello", 1, nil)
        fire("sluice", "raise")
        set("lamp", "lit", true)
        say(get("flood", "level"), get("flood", "nothing"))
        say(io, os, require, dofile, debug, package)
        after(1, function() say("later") end)
      end`,
    );
    runtime.call('startup');
    later.forEach((call) => call());
    expect(log).toEqual(['say hello 1 nil', 'fire sluice raise null', 'set lamp lit true', 'say 3 nil', 'say nil nil nil nil nil nil', 'say later']);
    runtime.stop();
  });

  it('stops endless loops and reports errors by line', async () => {
    const { self, log } = host();
    const runtime = await ScriptRuntime.start(self);
    runtime.load('scripts/main.lua', 'function forever() while true do end end\nfunction broken()\n  local x = nil\n  return x.y\nend');
    expect(runtime.call('forever')).toBe(false);
    // Nothing more runs in this step; the next one begins anew.
    expect(runtime.call('broken')).toBe(false);
    expect(log).toHaveLength(1);
    runtime.newStep();
    expect(runtime.call('broken')).toBe(false);
    expect(log[0]).toMatch(/scripts\/main.lua:1: stopped: the call took too long/);
    expect(log[1]).toMatch(/scripts\/main.lua:4: attempt to index a nil value/);
    expect(runtime.load('scripts/bad.lua', 'x = = 1')).toBe(false);
    runtime.stop();
  });

  // Each of these went on for ever, or took the machine's memory, before it was counted everywhere.
  it.each([
    ['in a coroutine', 'coroutine.wrap(function() while true do end end)()'],
    ['in a coroutine that is made and resumed', 'local c = coroutine.create(function() while true do end end) while true do coroutine.resume(c) end'],
    ['caught by pcall', 'while true do pcall(function() while true do end end) end'],
    ['caught by xpcall', 'while true do xpcall(function() while true do end end, function() return 1 end) end'],
    ['of many short coroutines', 'while true do coroutine.wrap(function() for i = 1, 900 do end end)() end'],
    ['in __tostring', 'say(setmetatable({}, { __tostring = function() while true do end end }))'],
    ['in an error that is a table', 'error(setmetatable({}, { __tostring = function() while true do end end }))'],
    ['with tostring, type and error replaced', 'tostring = function() while true do end end type = tostring error = tostring local x = nil; x.y = 1'],
    [
      'in a finaliser',
      'for i = 1, 10 do setmetatable({}, { __gc = function() while true do end end }) end local t = {} for i = 1, 1e6 do t[i % 10] = {} end',
    ],
    ['that takes memory by doubling a text', 'local s = "x" while true do s = s .. s end'],
    ['that takes memory by a table', 'local t = {} for i = 1, 1e12 do t[i] = { i } end'],
    ['in one call of rep', 'local s = string.rep("x", 1e12)'],
    ['in one call of move', 'table.move({}, 1, 1e15, 2)'],
    ['in one call of concat', 'table.concat({}, "", 1, 1e15)'],
    ['in __close', 'local x <close> = setmetatable({}, { __close = function() while true do end end })'],
    ['that is loaded', 'load("while true do end")()'],
  ])('end an endless or greedy script: %s', async (_name, body) => {
    const { self, log } = host();
    const runtime = await ScriptRuntime.start(self);
    expect(runtime.load('scripts/main.lua', `function startup() ${body} end`)).toBe(true);
    expect(runtime.call('startup')).toBe(false);
    expect(log).toHaveLength(1);
    expect(log[0]).toMatch(/^error /);
    expect(log[0]).not.toContain('violet_host');
    // The runtime lives on.
    runtime.newStep();
    expect(runtime.load('scripts/other.lua', 'function fine() say("fine") end')).toBe(true);
    runtime.call('fine');
    expect(log.at(-1)).toBe('say fine');
    runtime.stop();
  });

  it('says which function and line ran last', async () => {
    const { self } = host();
    const seen: string[] = [];
    const runtime = await ScriptRuntime.start({ ...self, at: ({ file, line, name }) => seen.push(`${file}:${line} ${name}`) });
    runtime.load(
      'scripts/main.lua',
      'local text = string.rep("a", 100)\nlocal function look()\n  local at = text:find("a-a-a-b")\n  return at\nend\nfunction startup()\n  look()\nend',
    );
    runtime.call('startup');
    expect(seen).toEqual(['scripts/main.lua:0 scripts/main.lua', 'scripts/main.lua:6 startup', 'scripts/main.lua:3 look']);
    runtime.stop();
  });

  it('a function that sends itself the signal that calls it ends with an error', async () => {
    const { self, log } = host();
    let runtime: ScriptRuntime | null = null;
    runtime = await ScriptRuntime.start({ ...self, fire: () => void runtime!.call('again') });
    runtime.load('scripts/main.lua', 'function again() fire("x", "y") end');
    runtime.call('again');
    expect(log).toEqual(['error calls within calls: again is called by signals that it sends itself']);
    runtime.stop();
  });

  it.each([
    ['coroutine.wrap(nil)', "scripts/main.lua:2: bad argument #1 to 'wrap' (function expected, got nil)"],
    ['table.sort(nil)', "scripts/main.lua:2: bad argument #1 to 'sort' (table expected, got nil)"],
    ['("x"):find(nil)', "scripts/main.lua:2: bad argument #2 to 'find' (string expected, got nil)"],
    ['table.concat({ {} })', 'scripts/main.lua:2: invalid value (table) at index 1'],
    ['table.sort({ 3, 2, 1 }, function(a, b) error("mine", 0) end)', 'mine'],
    ['("x"):gsub("x", function() local y = nil return y.z end)', "scripts/main.lua:2: attempt to index a nil value (local 'y')"],
  ])('errors are told of the script’s own line: %s', async (body, message) => {
    const { self, log } = host();
    const runtime = await ScriptRuntime.start(self);
    runtime.load('scripts/main.lua', `function startup()\n  ${body}\nend`);
    expect(runtime.call('startup')).toBe(false);
    expect(log[0]).toContain(`error ${message}`);
    runtime.stop();
  });

  it('works as Lua does where nothing is stopped', async () => {
    const { self, log } = host();
    const runtime = await ScriptRuntime.start(self);
    const ok = runtime.load(
      'scripts/main.lua',
      `
      say(pcall(error, "x", 0))
      say(select("#", pcall(function() return 1, nil, nil end)))
      say(xpcall(function() error("y", 0) end, function(m) return m .. "!" end))
      local gen = coroutine.wrap(function(a) local b = coroutine.yield(a + 1) return b * 2 end)
      say(gen(1), gen(5))
      say(pcall(gen))
      local co = coroutine.create(function() local ok = pcall(function() coroutine.yield("within pcall") end) return ok end)
      say(coroutine.resume(co)) say(coroutine.resume(co))
      say(("a,b"):gsub(",", ";"), ("key=1"):match("(%w+)=(%w+)"), table.concat({ 1, 2, 3 }, "-"), table.concat({ 1, 2, 3 }, "-", 2, 3))
      say(("a long text of words, and more of them"):find("w.-,"))
      for word in ("one two"):gmatch("%a+") do say(word) end
      local t = table.move({ 1, 2, 3 }, 2, 3, 1) table.sort(t, function(a, b) return a > b end) say(table.unpack(t))
      `,
    );
    expect(ok).toBe(true);
    expect(log.map((line) => line.slice(4))).toEqual([
      'false x',
      '4',
      'false y!',
      '2 10',
      'false cannot resume dead coroutine',
      'true within pcall',
      'true true',
      'a;b key 1-2-3 2-3',
      '16 21',
      'one',
      'two',
      '3 3 2',
    ]);
    runtime.stop();
  });
});
