import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import type { Finding } from '../finding.ts';
import { testProfile } from '../testing/world.ts';
import { TrialSession, type TrialNews, type TrialOrder, type TrialState } from './apart.ts';
import { STILL } from './move.ts';
import { TrialWatchdog, type Judging } from './watchdog.ts';
import type { TrialInputs } from './world.ts';

const advance: TrialOrder = { type: 'advance', intents: [], look: [1, 0, 0] };
const state = { type: 'state', state: {} as TrialState } as const;

describe('the watchdog', () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());

  function watched(judging: Partial<Judging> = {}, late = () => 0) {
    const said: string[] = [];
    const stopped: Finding[] = [];
    const hung: (Finding | null)[] = [];
    const dog = new TrialWatchdog(
      { post: (order) => said.push(order.type), end: () => said.push('end') },
      { heard: () => said.push('heard'), stopped: (finding) => stopped.push(finding), hangs: (finding) => hung.push(finding) },
      { heartbeat: 1000, ...judging },
      () => Date.now() + late(),
    );
    return { dog, said, stopped, hung };
  }
  const at = (line: number, name = 'tick') => ({ type: 'at', place: { file: 'scripts/main.lua', line, name } }) as const;

  it('ends a run that owes an answer and says nothing, naming where it was', () => {
    const { dog, said, stopped } = watched();
    dog.say(advance);
    dog.hear({ type: 'beat' });
    dog.hear(at(12));
    jest.advanceTimersByTime(990);
    expect(stopped).toEqual([]);
    jest.advanceTimersByTime(200);
    expect(stopped).toMatchObject([
      { code: 'script-stuck', message: 'The test run was ended: tick (scripts/main.lua:12) did not come back within 1 second.', place: { line: 12 } },
    ]);
    expect(said).toEqual(['advance', 'end']);
    // What comes late is not heard any more.
    dog.hear(state);
    dog.say(advance);
    expect(said).toEqual(['advance', 'end']);
  });

  it('counts what the thread has worked, however long that takes: a busy machine ends nothing', () => {
    let worked = 0;
    const { dog, stopped } = watched({ worked: () => worked });
    dog.say(advance);
    dog.hear({ type: 'beat' });
    dog.hear(at(7));
    for (let second = 0; second < 300; second++) {
      worked += 3;
      jest.advanceTimersByTime(1000);
      expect(stopped).toEqual([]);
    }
    worked += 100;
    jest.advanceTimersByTime(1000);
    expect(stopped).toMatchObject([{ code: 'script-stuck', place: { line: 7 } }]);
  });

  it('a thread of which nothing is heard, and which does not even work, is dead after a while', () => {
    const { dog, stopped } = watched({ worked: () => 0 });
    dog.say(advance);
    dog.hear({ type: 'beat' });
    jest.advanceTimersByTime(599_000);
    expect(stopped).toEqual([]);
    jest.advanceTimersByTime(3000);
    expect(stopped).toMatchObject([{ code: 'trial-failed' }]);
  });

  it('in a page asks, takes the question back when the run comes back, and ends only where that is wanted', () => {
    const { dog, stopped, hung } = watched({ heartbeat: 5000, ask: true });
    dog.say(advance);
    dog.hear({ type: 'beat' });
    dog.hear(at(3));
    jest.advanceTimersByTime(4900);
    expect(hung).toEqual([]);
    jest.advanceTimersByTime(60_000);
    expect(hung).toMatchObject([{ code: 'script-stuck', place: { line: 3 } }]);
    dog.hear(state);
    expect(hung.at(-1)).toBeNull();
    expect(stopped).toEqual([]);
    dog.say(advance);
    dog.hear(at(4));
    jest.advanceTimersByTime(6000);
    dog.giveUp();
    expect(stopped).toMatchObject([{ code: 'script-stuck', place: { line: 4 } }]);
  });

  it('a page that is late itself counts its looks, not the time between them', () => {
    let late = 0;
    const { dog, hung } = watched({ heartbeat: 5000, ask: true }, () => late);
    dog.say(advance);
    dog.hear({ type: 'beat' });
    for (let i = 0; i < 5; i++) {
      late += 20_000;
      jest.advanceTimersByTime(625);
    }
    expect(hung).toEqual([]);
  });

  it('waits for ever where nothing is owed, and for a minute while it begins', () => {
    const { dog, stopped } = watched();
    dog.say(advance);
    jest.advanceTimersByTime(50_000);
    dog.hear({ type: 'beat' });
    dog.hear(state);
    expect(dog.waiting).toBe(false);
    jest.advanceTimersByTime(1_000_000);
    expect(stopped).toEqual([]);
    const other = watched();
    other.dog.say(advance);
    jest.advanceTimersByTime(61_000);
    expect(other.stopped).toMatchObject([{ code: 'trial-failed' }]);
  });

  it('scripts that are busy for ever are ended too, however much is heard of them', () => {
    const { dog, stopped } = watched();
    dog.say(advance);
    dog.hear({ type: 'beat' });
    for (let i = 0; i < 100 && stopped.length === 0; i++) {
      jest.advanceTimersByTime(100);
      dog.hear(at(3, ''));
    }
    expect(stopped).toMatchObject([{ code: 'script-stuck', message: expect.stringContaining('within 5 seconds') }]);
  });

  it('a worker that dies, or fails, ends the run with a sentence, once', () => {
    const { dog, stopped } = watched();
    dog.say(advance);
    dog.hear({ type: 'failed', message: 'no floor.' });
    dog.died('its thread ended');
    expect(stopped).toMatchObject([{ code: 'trial-failed', message: 'The test run stopped unexpectedly: no floor.' }]);
  });
});

describe('a session', () => {
  const inputs = (script: string, more: object = {}): TrialInputs => ({
    profile: testProfile(),
    map: {
      name: 'hall',
      objects: {
        o1: { class: 'start', name: 'start', position: [0, 0, 1], turn: 0, properties: {} },
        o2: { class: 'lamp', name: 'lamp_1', position: [400, 0, 40], turn: 0, properties: {} },
      },
      signals: {},
      paths: {},
      models: {},
      bodies: {},
      scripts: ['scripts/main.lua'],
      settings: { trial: [] },
      ...more,
    } as never,
    collision: { solids: [{ id: 'floor', planes: [[0, 0, 1, 0]], surfaces: [] }], grounds: [] },
    scripts: { 'scripts/main.lua': script },
  });

  async function begun(script: string) {
    const news: TrialNews[] = [];
    const session = new TrialSession(
      (one) => news.push(structuredClone(one)),
      (error) => {
        throw error;
      },
    );
    const states = () => news.flatMap((one) => (one.type === 'state' ? [one.state] : []));
    await session.take({ type: 'begin', inputs: inputs(script) });
    return { session, news, states };
  }

  it('names all objects at first, and then only what has changed', async () => {
    const { session, news, states } = await begun('function startup() say("hello") after(0.1, function() set("lamp_1", "lit", "often") end) end');
    expect(news[0]).toEqual({ type: 'beat' });
    expect(news).toContainEqual({ type: 'at', place: { file: 'scripts/main.lua', line: 1, name: 'startup' } });
    expect(states()[0].objects?.map((object) => object.id)).toEqual(['o1', 'o2']);
    expect(states()[0].lines.map((line) => line.text)).toEqual(['hello']);
    const steps = (count: number) => session.take({ type: 'advance', intents: Array(count).fill(STILL), look: [1, 0, 0] });
    await steps(1);
    expect(states()[1]).toMatchObject({ changed: [], lines: [] });
    await steps(10);
    expect(states()[2].changed).toMatchObject([{ id: 'o2', properties: { lit: 'often' } }]);
    expect(states()[2].time).toBeCloseTo(11 / 60);
    await steps(1);
    expect(states()[3].changed).toEqual([]);
  });

  it('glides, demonstrates, and says when it is over', async () => {
    const { session, states } = await begun('');
    await session.take({ type: 'glide' });
    expect(states().at(-1)).toMatchObject({ flying: true, lines: [{ text: expect.stringContaining('Gliding') }] });
    await session.take({ type: 'glide' });
    await session.take({ type: 'demonstrate', steps: [{ wait: 0.05 }] });
    await session.take({ type: 'advance', intents: [STILL, STILL], look: [1, 0, 0] });
    expect(states().at(-1)!.demonstration).toMatchObject({ step: 1 });
    await session.take({ type: 'advance', intents: Array(5).fill(STILL), look: [1, 0, 0] });
    expect(states().at(-1)).toMatchObject({ demonstration: null, lines: [{ text: 'The demonstration is over.' }] });
  });

  it('what scripts set to nonsense does not end the simulation', async () => {
    const { session, news, states } = await begun(
      'function startup() set("lamp_1", "travel", "far") set("lamp_1", "__proto__", 1) set("lamp_1", "constructor", 2) say(get("lamp_1", "constructor"), get("start", "constructor")) end',
    );
    await session.take({ type: 'advance', intents: Array(30).fill(STILL), look: [1, 0, 0] });
    expect(news.filter((one) => one.type === 'failed')).toEqual([]);
    expect(states()[0].lines.map((line) => line.text)).toEqual(['2 nil']);
  });

  it('calls that double are capped, and errors of every step are told once', async () => {
    const { session, states } = await begun(
      'function startup() local function again() after(0, again) after(0, again) end again() end function tick() end',
    );
    for (let i = 0; i < 20; i++) await session.take({ type: 'advance', intents: [STILL], look: [1, 0, 0] });
    expect(
      states()
        .at(-1)!
        .findings.map((finding) => finding.code),
    ).toEqual(expect.arrayContaining(['pending-full']));
    expect(states().at(-1)!.findings.length).toBeLessThan(5);
  });

  it('an order before the beginning is answered with what is wrong', async () => {
    const news: TrialNews[] = [];
    await new TrialSession(
      (one) => news.push(one),
      () => {},
    ).take(advance);
    expect(news).toEqual([{ type: 'failed', message: 'there is no run yet' }]);
  });
});
