import { afterEach, describe, expect, it } from '@jest/globals';
import type { GameMap, MapObject, Signal } from '../document/schema.ts';
import { block } from '../solid/primitives.ts';
import { codesOf, findingsOf, hall, made, object, profile, withChanges } from '../testing/maps.ts';
import { trialInputs } from '../testing/trial.ts';
import { runTrial } from './headless.ts';
import { TIME_STEP, TrialWorld } from './world.ts';

const FLOOR = block({ min: [-256, -256, -16], max: [256, 256, 0] }, 'brick');
const START = made('start', 'start', [0, 0, 2]);
const signal = (from: string, event: string, target: string, action: string, value?: string): Signal => ({
  from,
  event,
  to: { object: target, action },
  delay: 0,
  ...(value === undefined ? {} : { value }),
});

const inputs = (objects: Record<string, MapObject>, signals: readonly Signal[] = [], script = '', trial: GameMap['settings']['trial'] = []) =>
  trialInputs([FLOOR], { start: START, ...objects }, Object.fromEntries(signals.map((one, i) => [`g${i}`, one])), script, trial);

let world: TrialWorld;
afterEach(() => world?.stop());
const begin = async (...given: Parameters<typeof inputs>) => (world = await TrialWorld.begin(inputs(...given)));
const steps = (count: number, move: [number, number, number] = [0, 0, 0]) => {
  for (let i = 0; i < count; i++) world.step({ move, run: false, jump: false });
};
const seconds = (time: number) => Math.round(time / TIME_STEP);
/** How often an event went along a signal. */
const fired = (text: string) => world.console.since(0).filter((line) => line.kind === 'signal' && line.text.startsWith(text)).length;
const live = (name: string, property: string) => world.objects.value(world.objects.named(name)!, property);

describe('a relay', () => {
  const objects = { r: made('relay', 'relay', [0, 0, 50]), c: made('counter', 'tally', [0, 0, 50], { target: 100 }) };
  const signals = [signal('r', 'passed', 'c', 'count')];
  const script =
    'function startup()\n fire("relay", "pass")\n fire("relay", "close")\n fire("relay", "pass")\n fire("relay", "open")\n fire("relay", "pass")\nend';

  it('passes on while it is open', async () => {
    await begin(objects, signals, script);
    expect(live('tally', 'count')).toBe(2);
    expect(live('relay', 'open')).toBe(1);
  });

  it('begins as the map says', async () => {
    await begin({ ...objects, r: made('relay', 'relay', [0, 0, 50], { open: false }) }, signals, 'function startup() fire("relay", "pass") end');
    expect([live('tally', 'count'), live('relay', 'open')]).toEqual([0, 0]);
  });

  it('two that pass to each other are told as a circle, and end', async () => {
    const circle = [signal('r', 'passed', 'q', 'pass'), signal('q', 'passed', 'r', 'pass')];
    await begin({ r: objects.r, q: made('relay', 'other', [0, 0, 50]) }, circle, 'function startup() fire("relay", "pass") end');
    expect(world.findings.map((finding) => finding.code)).toEqual(['signal-loop']);
  });
});

describe('a counter', () => {
  const counting = async (times: number, properties: object, value?: string) => {
    const objects = {
      r: made('relay', 'relay', [0, 0, 50]),
      c: made('counter', 'tally', [0, 0, 50], properties),
      l: made('lamp', 'lamp', [0, 0, 90], { lit: false }),
    };
    const calls = Array.from({ length: times }, () => 'fire("relay", "pass")').join('\n');
    await begin(objects, [signal('r', 'passed', 'c', 'count', value), signal('c', 'reached', 'l', 'light')], `function startup()\n${calls}\nend`);
  };

  it('fires once at its target', async () => {
    await counting(2, { target: 3 });
    expect([live('tally', 'count'), live('lamp', 'lit'), fired('tally.reached')]).toEqual([2, false, 0]);
    world.stop();
    await counting(5, { target: 3 });
    expect([live('tally', 'count'), live('lamp', 'lit'), fired('tally.reached')]).toEqual([5, true, 1]);
  });

  it('begins anew where it shall count again', async () => {
    await counting(7, { target: 3, again: true });
    expect([live('tally', 'count'), fired('tally.reached')]).toEqual([1, 2]);
  });

  it('counts by what the signal says, also backwards; what is no number is one', async () => {
    await counting(3, { target: 100 }, '5');
    expect(live('tally', 'count')).toBe(15);
    world.stop();
    await counting(3, { target: 100 }, '-2');
    expect(live('tally', 'count')).toBe(-6);
    world.stop();
    await counting(3, { target: 100 }, 'many');
    expect(live('tally', 'count')).toBe(3);
  });

  it('fires again after it was reset', async () => {
    const objects = { c: made('counter', 'tally', [0, 0, 50], { target: 1 }), q: made('relay', 'end', [0, 0, 50]) };
    await begin(
      objects,
      [signal('c', 'reached', 'q', 'pass')],
      'function startup() fire("tally","count") fire("tally","count") fire("tally","reset") fire("tally","count") end',
    );
    expect(fired('tally.reached')).toBe(2);
  });
});

describe('a timer', () => {
  const timed = (properties: object, script = '') =>
    begin(
      { t: made('timer', 'clock', [0, 0, 50], properties), c: made('counter', 'tally', [0, 0, 50], { target: 1e3 }) },
      [signal('t', 'elapsed', 'c', 'count')],
      script,
    );

  it('fires after its time, to the step, and then rests', async () => {
    await timed({ seconds: 2, running: true });
    steps(seconds(2) - 1);
    expect([live('tally', 'count'), live('clock', 'running')]).toEqual([0, 1]);
    steps(1);
    expect([live('tally', 'count'), live('clock', 'running'), live('clock', 'left')]).toEqual([1, 0, 0]);
    steps(seconds(5));
    expect(live('tally', 'count')).toBe(1);
  });

  it('keeps time over many rounds: a hundred of 0.7 s in 70 s', async () => {
    await timed({ seconds: 0.7, running: true, repeat: true });
    steps(seconds(70) + 1);
    expect(live('tally', 'count')).toBe(100);
  });

  it('waits to be started, begins anew when started again, and can be stopped', async () => {
    await timed(
      { seconds: 1 },
      'function startup() fire("clock","start") after(0.5, function() fire("clock","start") end) after(3, function() fire("clock","start") end) after(3.5, function() fire("clock","stop") end) end',
    );
    steps(seconds(1.4));
    expect(live('tally', 'count')).toBe(0);
    steps(seconds(0.2));
    expect(live('tally', 'count')).toBe(1);
    steps(seconds(5));
    expect(live('tally', 'count')).toBe(1);
  });

  it('without any time fires once a step, never more', async () => {
    await timed({ seconds: 0, running: true, repeat: true });
    steps(10);
    expect(live('tally', 'count')).toBe(10);
  });
});

describe('what hurts, and where one comes back to', () => {
  const steam = (properties = {}) => made('scald', 'steam', [100, 0, 0], { size: [64, 64, 64], harm: 50, ...properties });

  it('costs so much health a second while one is in it', async () => {
    await begin({ h: steam() });
    expect(world.health).toBe(100);
    world.walker.feet = [100, 0, 1];
    steps(seconds(1));
    expect(world.health).toBeCloseTo(50, 6);
    world.walker.feet = [0, 0, 1];
    steps(seconds(1));
    expect(world.health).toBeCloseTo(50, 6);
  });

  it('can be disarmed and armed by signals', async () => {
    await begin({ h: steam({ armed: false }) }, [], 'function startup() after(1, function() fire("steam","arm") end) end');
    world.walker.feet = [100, 0, 1];
    steps(seconds(0.9));
    expect(world.health).toBe(100);
    steps(seconds(1.1));
    expect(world.health).toBeLessThan(60);
  });

  it('without a place to come back to the run ends, and says where', async () => {
    const report = await runTrial(inputs({ h: steam() }, [], '', [{ walkTo: [100, 0, 0] }, { wait: 5 }]));
    expect(report.ended).toBe('died');
    expect(report.findings[0]).toMatchObject({ code: 'player-died', place: { object: 'h' } });
    expect(report.findings[0].message).toMatch(/^The player lost all health in steam \d+\.\d s after the start\.$/);
  });

  it('who has reached a landing comes back to it whole, and what listens is told', async () => {
    const objects = { h: steam(), p: made('landing', 'pier', [-100, 0, 2]), c: made('counter', 'lives', [0, 0, 50], { target: 9 }) };
    await begin(objects, [signal('p', 'returned', 'c', 'count')]);
    world.walker.feet = [-100, 0, 2];
    steps(2);
    world.walker.feet = [100, 0, 1];
    steps(seconds(2) + 1);
    expect(world.ended).toBeNull();
    expect(world.health).toBe(100);
    expect(world.walker.feet[0]).toBe(-100);
    expect(live('lives', 'count')).toBe(1);
    // And out of the world as well.
    steps(30);
    world.walker.feet = [5000, 0, 0];
    steps(seconds(6));
    expect([world.walker.feet[0], live('lives', 'count')]).toEqual([-100, 2]);
  });

  it('the last one reached counts; a signal may make one the place', async () => {
    const objects = { p: made('landing', 'pier', [-100, 0, 2]), q: made('landing', 'quay', [100, 0, 2]) };
    await begin(objects, [], 'function startup() fire("quay","claim") end');
    world.walker.feet = [5000, 0, 0];
    steps(seconds(4));
    expect(world.walker.feet[0]).toBe(100);
    world.walker.feet = [-100, 0, 2];
    steps(2);
    world.walker.feet = [5000, 0, 0];
    steps(seconds(6));
    expect(world.walker.feet[0]).toBe(-100);
  });

  it('one over nothing is told instead of falling for ever', async () => {
    await begin({ p: made('landing', 'void', [4000, 0, 0]) }, [], 'function startup() fire("void","claim") end');
    world.walker.feet = [5000, 0, 0];
    steps(seconds(20));
    expect(world.ended).toBe('fell');
    expect(world.findings.map((finding) => finding.code)).toEqual(['refuge-falls', 'fell-out']);
  });

  it('a game that counts no health has none to lose', async () => {
    const { health: _none, ...player } = profile.player;
    const own = inputs({ h: steam() });
    world = await TrialWorld.begin({ ...own, profile: { ...profile, player } });
    world.walker.feet = [100, 0, 1];
    steps(seconds(5));
    expect([world.health, world.ended]).toEqual([null, null]);
  });
});

describe('checks', () => {
  it('what waits to be told and is told by nothing is a note; a signal, a script or its own start helps', () => {
    const idle = (...changes: Parameters<typeof withChanges>[1][]) =>
      findingsOf(withChanges(hall(), ...changes)).filter((f) => f.code === 'object-idle');
    const clock = (properties = {}) => object('o91', 'timer', 'clock', [0, 0, 60], properties);
    const [finding] = idle(clock());
    expect(finding).toMatchObject({
      severity: 'note',
      message: 'clock does nothing: no signal and no script tells it to.',
      hint: 'Send a signal to its “Start”.',
    });
    expect(idle(clock({ running: true }))).toEqual([]);
    const crank = object('o92', 'crank', 'crank', [0, 0, 0]);
    expect(idle(clock(), crank, { of: 'signals', id: 'g9', to: signal('o92', 'turned', 'o91', 'start') })).toEqual([]);
    expect(idle(clock(), crank, { of: 'signals', id: 'g9', to: signal('o92', 'turned', 'o91', 'stop') })).toHaveLength(1);
  });

  it('a landing needs room for the player as a start does', () => {
    const at = (z: number) => codesOf(withChanges(hall(), object('o91', 'landing', 'pier', [0, 0, z])));
    expect(at(-40)).toContain('start-touches');
    expect(at(16)).not.toContain('start-touches');
  });
});
