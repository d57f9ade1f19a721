/** Scripts that never come back, or take all memory, against the real command line; and programs made at random. */
import assert from 'node:assert/strict';
import { readFileSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { loadProfile } from '@violet-crate/core/profile/load';
import { runTrialApart } from '@violet-crate/host/trialApart';
import { seeded } from '../measure.mjs';

const profile = loadProfile(readFileSync(new URL('../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');
/** An empty map: scripts need no more. */
const map = {
  format: 1,
  name: 'none',
  objects: {},
  signals: {},
  paths: {},
  models: {},
  bodies: {},
  scripts: ['scripts/main.lua'],
  settings: { skyColour: '#000000', skyIntensity: 1, trial: [{ wait: 0.2 }] },
};
const inputs = (source) => ({
  profile,
  map,
  collision: { solids: [{ id: 'floor', planes: box(-1000, 1000, -8, 0), surfaces: [] }], grounds: [] },
  scripts: { 'scripts/main.lua': source },
});
const box = (low, high, bottom, top) => [
  [1, 0, 0, high],
  [-1, 0, 0, -low],
  [0, 1, 0, high],
  [0, -1, 0, -low],
  [0, 0, 1, top],
  [0, 0, -1, -bottom],
];

/** Programs that ask for trouble, and the code that has to be told. Those that only waste a step end by the count within. */
const GREEDY = {
  'a loop': ['while true do end', 'script-error'],
  'a loop in a coroutine that after() starts': ['after(0, function() coroutine.wrap(function() while true do end end)() end)', 'script-error'],
  'a loop caught by pcall': ['while true do pcall(function() while true do end end) end', 'script-error'],
  'a search with lazy repetitions': ['local t = ("a"):rep(3000) say(t:find("a-a-a-a-a-a-b"))', 'script-stuck'],
  'a search without end in a coroutine': ['coroutine.wrap(function() local t = ("a"):rep(3000) say(t:find(".-.-.-.-.-b")) end)()', 'script-stuck'],
  'a finaliser': ['setmetatable({}, { __gc = function() while true do end end })', 'script-error'],
  'a sort of many': ['local t = {} for i = 1, 9e5 do t[i] = (i * 7919) % 1e6 end for i = 1, 1e6 do table.sort(t) end', null],
  'texts that double': ['local s = "x" while true do s = s .. s end', 'script-error'],
  'calls that double': ['function again() after(0, again) after(0, again) end again()', 'pending-full'],
  'errors in every step': ['function tick() after(0, tick) error("x" .. math.random()) end tick()', 'script-error'],
  'say without end': ['while true do say(("x"):rep(1e6)) end', null],
  'get of a prototype': ['say(get("nothing", "constructor"))', 'script-error'],
};

const WORDS = [
  'while true do',
  'for i = 1, 1e9 do',
  'repeat',
  'function f()',
  'local t = {}',
  't[#t + 1] = t',
  'coroutine.wrap(f)()',
  'pcall(f)',
  'xpcall(f, f)',
  'after(0, f)',
  'say(t)',
  'setmetatable(t, { __index = f, __tostring = f, __close = f })',
  's = (s or "x") .. (s or "y")',
  's = ("ab"):rep(1e4):gsub(".-a.-b", "%0%0")',
  'table.concat(t, s, 1, 1e9)',
  'table.move(t, 1, 1e12, 2, t)',
  'goto top',
  '::top::',
  'load(s or "x = 1")()',
  'error(t)',
  'if s then',
  'end',
  'until s',
  'tostring = f',
  'string.format("%99.99f", 1e300)',
  'math.random(1e9)',
  'return f()',
  'select(-1, f())',
  '_G = nil',
  'debug = f',
  'get("a", "__proto__")',
  'set("a", "constructor", f)',
  'fire("a", "b", t)',
];
function program(random) {
  const lines = Array.from({ length: 3 + Math.floor(random() * 12) }, () => WORDS[Math.floor(random() * WORDS.length)]);
  // Blocks are closed, so that most programs run.
  const open = lines.filter((line) => /do$|^repeat|^function|then$/.test(line)).length - lines.filter((line) => /^end|^until/.test(line)).length;
  return [...lines, ...Array(Math.max(0, open)).fill('end')].join('\n');
}

/** Runs with a stop from outside that is well beyond what is promised. */
async function within(seconds, work) {
  let timer;
  const late = new Promise((_, reject) => (timer = setTimeout(() => reject(new Error(`it was not ended within ${seconds} s`)), seconds * 1000)));
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}

export async function attack(attempt, { short, rounds }) {
  for (const [name, [body, code]] of Object.entries(GREEDY))
    await attempt(name, async () => {
      const before = process.memoryUsage.rss();
      const report = await within(20, runTrialApart(inputs(`function startup()\n  ${body}\nend`)));
      const codes = report.findings.map((finding) => finding.code);
      if (code) assert.ok(codes.includes(code), `${codes}`);
      const stuck = report.findings.find((finding) => finding.code === 'script-stuck');
      if (stuck) assert.match(stuck.message, /scripts\/main\.lua:\d+/);
      assert.ok(process.memoryUsage.rss() - before < 900 << 20, 'memory');
    });
  const random = seeded(7);
  const count = short ? 12 : Math.max(40, rounds * 10);
  for (let i = 0; i < count; i++) {
    const source = `function startup()\n${program(random)}\nend`;
    await attempt(`program ${i + 1}`, async () => {
      const report = await within(30, runTrialApart(inputs(source)));
      for (const finding of report.findings) assert.ok(!/\bat .*\.js:|violet_host/.test(finding.message), finding.message);
    });
  }
  await attempt('other threads go on meanwhile', async () => {
    const stuck = runTrialApart(inputs('function startup() local t = ("a"):rep(3000) t:find("a-a-a-a-a-a-b") end'));
    const beats = await new Promise((resolve, reject) => {
      const worker = new Worker('const { parentPort } = require("node:worker_threads"); setTimeout(() => parentPort.postMessage(1), 200);', {
        eval: true,
      });
      worker.on('message', resolve).on('error', reject);
    });
    assert.equal(beats, 1);
    assert.equal((await within(10, stuck)).ended, 'stopped');
  });
}
