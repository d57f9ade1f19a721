import { afterEach, describe, expect, it } from '@jest/globals';
import { ScriptRuntime, type ScriptHost } from './run.ts';

const SOURCE = `local lit = 0
total = 0
function touch(value)
  local twice = tonumber(value) * 2
  lit = lit + 1
  total = total + twice
end
function deep(n)
  if n > 0 then
    deep(n - 1)
  end
end
`;

async function running(): Promise<{ runtime: ScriptRuntime; logs: string[]; errors: string[] }> {
  const logs: string[] = [];
  const errors: string[] = [];
  const host: ScriptHost = {
    say: () => {},
    fire: () => {},
    get: () => null,
    set: () => {},
    win: () => {},
    after: () => true,
    error: (message, callers) => {
      errors.push(message);
      heard(message, callers);
    },
    log: (file, line, expression, value) => logs.push(`${file}:${line} ${expression} = ${value}`),
  };
  const runtime = await ScriptRuntime.start(host);
  runtime.load('scripts/main.lua', SOURCE);
  return { runtime, logs, errors };
}

let heard: (message: string, callers?: readonly string[]) => void = () => {};
let open: ScriptRuntime | null = null;
afterEach(() => {
  open?.stop();
  open = null;
  heard = () => {};
});
const begin = async () => {
  const begun = await running();
  open = begun.runtime;
  return begun;
};

describe('looking into scripts that run', () => {
  it('tells an expression each time its line runs: locals, those of functions around, and globals', async () => {
    const { runtime, logs, errors } = await begin();
    expect(runtime.logAt([{ file: 'scripts/main.lua', line: 6, expression: 'lit, twice, total, value' }])).toEqual([]);
    runtime.call('touch', '4');
    runtime.call('touch', '5');
    expect(logs).toEqual([
      'scripts/main.lua:6 lit, twice, total, value = 1, 8, 0, "4"',
      'scripts/main.lua:6 lit, twice, total, value = 2, 10, 8, "5"',
    ]);
    runtime.logAt([]);
    runtime.call('touch', '1');
    expect(logs).toHaveLength(2);
    expect(errors).toEqual([]);
  });

  it('tells an error of an expression in its place, and the script goes on', async () => {
    const { runtime, logs } = await begin();
    runtime.logAt([{ file: 'scripts/main.lua', line: 5, expression: 'nothing.at.all' }]);
    expect(runtime.call('touch', '4')).toBe(true);
    expect(logs[0]).toMatch(/^scripts\/main.lua:5 nothing.at.all = error: .*nothing/);
    expect(runtime.worth('total')).toBe('8');
  });

  it('counts lines and calls while it measures, recursion too, and forgets them once told', async () => {
    const { runtime } = await begin();
    runtime.measure(true);
    runtime.call('deep', '3' as never);
    runtime.newStep();
    runtime.evaluate('deep(3)');
    const { calls, lines } = runtime.measured();
    expect(calls.find(({ line }) => line === 8)).toMatchObject({ count: 5 });
    expect(lines.find(({ line }) => line === 10)?.count).toBe(3);
    expect(runtime.measured()).toEqual({ lines: [], calls: [] });
    runtime.measure(false);
    runtime.call('touch', '1');
    expect(runtime.measured().lines).toEqual([]);
  });

  it('knows all that scripts remember', async () => {
    const { runtime } = await begin();
    const before = runtime.memory();
    expect(before).toContain('(lit)=0');
    expect(before).toContain('total=0');
    runtime.call('touch', '4');
    expect(runtime.memory()).toContain('(lit)=1');
    expect(runtime.memory()).toContain('total=8');
  });

  it('tells an error with who called whom, from within outwards', async () => {
    const { runtime, errors } = await begin();
    const callers: (readonly string[] | undefined)[] = [];
    runtime.load('scripts/chain.lua', 'function outer()\n  inner()\nend\nfunction inner()\n  local x = nil\n  return x.y\nend\n');
    errors.length = 0;
    heard = (_, given) => callers.push(given);
    runtime.call('outer');
    expect(errors[0]).toMatch(/^scripts\/chain.lua:6: attempt to index a nil value/);
    expect(callers[0]).toEqual([expect.stringMatching(/^.*\(scripts\/chain\.lua:2\)$/)]);
    runtime.evaluate('error("alone", 0)');
    expect(callers[1]).toEqual([]);
  });

  it('what is watched or logged changes nothing: what would is said, and all else is read', async () => {
    const { runtime, errors } = await begin();
    runtime.load(
      'scripts/watched.lua',
      `
      total = 8 names = { "a", "b", deep = { n = 1 } } local hidden = 1
      function bump() total = total + 1 return total end
      function hide() hidden = hidden + 1 return hidden end
      function see() return hidden end
      function add() names[#names + 1] = "c" end
      function deeper() names.deep.n = 2 end
      function sum() local t = {} for i, name in ipairs(names) do t[i] = name:upper() end table.sort(t) return table.concat(t, "+"), #t end
      function loops() while true do end end
      account = setmetatable({ balance = 3 }, { __index = function(t, key) total = total + 1 return key end })
      function account.pay(self) self.balance = self.balance - 1 end`,
    );
    const before = runtime.memory();
    const worth = (expression: string) => runtime.worth(expression);
    const refused = /would change the run/;
    for (const expression of [
      'win()',
      'set("a", "b", 1)',
      'fire("a", "b")',
      'after(1, hide)',
      'remember("x")',
      'say("x")',
      'bump()',
      'add()',
      'deeper()',
    ])
      expect([expression, worth(expression)]).toEqual([expression, expect.stringMatching(refused)]);
    for (const expression of [
      'rawset(_G, "total", 1)',
      'load("total = 1")()',
      'table.insert(names, "c")',
      'table.remove(names)',
      'setmetatable(names, {})',
      'math.random()',
      'account:pay()',
      '(function() total = 1 end)()',
      'coroutine.wrap(bump)()',
      'account.missing',
    ])
      expect([expression, worth(expression)]).toEqual([expression, expect.stringMatching(refused)]);
    // A copy of a local variable takes what a function does to it, and goes with the look.
    expect([worth('hide() + see()'), worth('see()')]).toEqual(['4', '1']);
    expect(worth('loops()')).toMatch(/took too long/);
    expect(worth('total, #names, names[2], names.deep.n, account.balance')).toBe('8, 2, "b", 1, 3');
    expect(worth('sum()')).toBe('"A+B", 2');
    expect(worth('names')).toBe('{ [1] = "a", [2] = "b", deep = {...} }');
    expect(worth('(function() local n = 0 for _ in pairs(names) do n = n + 1 end return n end)()')).toBe('3');
    expect(worth('next(names), rawlen(names), type(names), select("#", table.unpack(names))')).toBe('1, 2, "table", 2');
    expect(runtime.memory()).toBe(before);
    expect(errors).toEqual([]);
  });

  it('says what an expression is worth without a word, and what is wrong with it', async () => {
    const { runtime, errors } = await begin();
    expect(runtime.worth('1 + 1, "a"')).toBe('2, "a"');
    expect(runtime.worth('total +')).toBe('?');
    expect(runtime.worth('missing.x')).toMatch(/^error: /);
    expect(errors).toEqual([]);
  });
});
