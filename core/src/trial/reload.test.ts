import { afterEach, describe, expect, it } from '@jest/globals';
import { newObject } from '../profile/newObject.ts';
import { block } from '../solid/primitives.ts';
import { profile } from '../testing/maps.ts';
import { trialInputs } from '../testing/trial.ts';
import { TIME_STEP, TrialWorld } from './world.ts';

const MAIN = 'scripts/main.lua';
let world: TrialWorld;
afterEach(() => world.stop());

async function begin(scripts: Record<string, string>): Promise<void> {
  const objects = { start: newObject(profile, 'start', 'start', [0, 0, 2]) };
  world = await TrialWorld.begin(trialInputs([block({ min: [-64, -64, -16], max: [64, 64, 0] }, 'brick')], objects, {}, scripts));
}
const steps = (seconds: number) => {
  for (let i = 0; i < Math.round(seconds / TIME_STEP); i++) world.step({ move: [0, 0, 0], run: false, jump: false });
};
/** What was printed since the last look. */
let printed = 0;
const news = (kind: string) => {
  const lines = world.console.since(printed).filter((line) => line.kind === kind);
  printed = world.console.printed;
  return lines.map(({ text }) => text);
};
const counter = (say: string, more = '') =>
  `count = 0\n${more}function tick()\n  count = count + 1\n  say("${say} " .. count)\n  after(0.1, tick)\nend\nfunction startup() tick() end\n`;

describe('a script that is changed while it runs', () => {
  it('its functions are the new ones at once, and its values go on', async () => {
    printed = 0;
    await begin({ [MAIN]: counter('old') });
    steps(0.25);
    expect(news('say')).toEqual(['old 1', 'old 2', 'old 3']);
    world.scripts.reload({ [MAIN]: counter('new') });
    expect(news('system')).toEqual([`Loaded ${MAIN} anew. Kept: count.`]);
    steps(0.2);
    // A call that waits already is of the old function, and hands on to the new one.
    expect(news('say').slice(-1)).toEqual(['new 5']);
  });

  it('one that cannot be read is said with its line, and the old code runs on', async () => {
    printed = 0;
    await begin({ [MAIN]: counter('old') });
    news('say');
    world.scripts.reload({ [MAIN]: 'function tick(\n' });
    expect(news('error')).toEqual([expect.stringMatching(/^scripts\/main\.lua:\d+: .* The code from before runs on\.$/)]);
    steps(0.15);
    expect(news('say')).toEqual(['old 2']);
    // The same again as it was is nothing new.
    world.scripts.reload({ [MAIN]: counter('old') });
    expect(news('system')).toEqual([]);
  });

  it('locals and values of another type begin anew, and that is said; functions that are gone are gone', async () => {
    printed = 0;
    await begin({ [MAIN]: 'local lit, turns = 0, 0\nmode = 1\nfunction gone() end\nfunction startup() end\n' });
    world.scripts.reload({
      [MAIN]: 'local lit, turns = 0, 0\nmode = {}\nfunction startup() end\nfunction ask() say(type(mode), tostring(gone)) end\n',
    });
    expect(news('system')).toEqual([
      `Loaded ${MAIN} anew. Of another type now, so begun anew: mode. Locals begin anew: lit, turns. No longer there: gone.`,
    ]);
    world.scripts.reload({ 'scripts/other.lua': 'ask()\n' });
    expect(news('say')).toEqual(['table nil']);
  });

  it('one that fails on its way leaves values as they were', async () => {
    printed = 0;
    await begin({ [MAIN]: 'score = 7\nfunction startup() end\n' });
    world.scripts.reload({ [MAIN]: 'score = 0\nlocal x = nil + 1\nfunction startup() end\n' });
    expect(news('error')).toEqual([expect.stringContaining(`${MAIN}:2:`)]);
    world.scripts.reload({ 'scripts/other.lua': 'say(score)\n' });
    expect(news('say')).toEqual(['7']);
  });

  it('what the game gives cannot be taken away by a name that is gone', async () => {
    printed = 0;
    await begin({ [MAIN]: 'function say(text) end\nfunction startup() end\n' });
    world.scripts.reload({ [MAIN]: 'function startup() end\n' });
    world.scripts.reload({ 'scripts/other.lua': 'after(0, function() end)\nprint("still here")\n' });
    expect(news('say')).toEqual(['still here']);
  });

  it('one that never ends is stopped, and the world goes on', async () => {
    printed = 0;
    await begin({ [MAIN]: counter('old') });
    news('say');
    world.scripts.reload({ [MAIN]: 'while true do end\n' });
    expect(news('error')).toEqual([expect.stringContaining('the call took too long')]);
    steps(0.15);
    expect(news('say')).toEqual(['old 2']);
  });
});

describe('a line that is typed while it runs', () => {
  const asked = (text: string) => {
    world.scripts.evaluate(text);
    const lines = world.console.since(printed).map(({ kind, text: said }) => `${kind} ${said}`);
    printed = world.console.printed;
    expect(lines[0]).toBe(`system > ${text}`);
    return lines.slice(1);
  };

  it('is answered as people read it', async () => {
    printed = 0;
    await begin({ [MAIN]: 'score = 7\nnames = { "a", "b" }\nfunction startup() end\n' });
    expect(asked('score + 1')).toEqual(['say 8']);
    expect(asked('"tide", nil, true')).toEqual(['say "tide", nil, true']);
    expect(asked('names')).toEqual(['say { [1] = "a", [2] = "b" }']);
    expect(asked('{ x = { 1 } }')).toEqual(['say { x = {...} }']);
    expect(asked('get("start", "nothing")')).toEqual(['say nil']);
  });

  it('changes the world, and statements answer nothing', async () => {
    printed = 0;
    await begin({ [MAIN]: 'score = 7\nfunction startup() end\n' });
    expect(asked('score = 9')).toEqual([]);
    expect(asked('score')).toEqual(['say 9']);
    expect(asked('say("by hand")')).toEqual(['say by hand']);
    expect(asked('function later() return 5 end')).toEqual([]);
    expect(asked('later()')).toEqual(['say 5']);
  });

  it('says what is wrong with it, and ends what never ends', async () => {
    printed = 0;
    await begin({ [MAIN]: 'function startup() end\n' });
    expect(asked('1 +')).toEqual([expect.stringMatching(/^error console:1: /)]);
    expect(asked('nothing.x')).toEqual([expect.stringMatching(/^error console:1: attempt to index a nil value/)]);
    expect(asked('while true do end')).toEqual([expect.stringContaining('the call took too long')]);
    expect(asked('io')).toEqual(['say nil']);
    expect(asked('2 + 2')).toEqual(['say 4']);
    world.scripts.evaluate('x'.repeat(20_000));
    expect(world.console.lines.at(-1)!.text).toBe('What is typed may have 10000 characters.');
  });

  it('of a very large table only the beginning is shown', async () => {
    printed = 0;
    await begin({ [MAIN]: 'big = {}\nfor i = 1, 1000 do big[i] = i end\nfunction startup() end\n' });
    expect(asked('big')[0]).toMatch(/and 980 more \}$/);
    expect(asked('("a"):rep(5000)')[0].length).toBeLessThan(600);
  });
});
