import { describe, expect, it, jest } from '@jest/globals';
import type { ShownObject, TrialNews, TrialOrder, TrialState } from '@violet-crate/core/trial/apart';
import { AT_REST } from '@violet-crate/core/math/pose';
import { STILL } from '@violet-crate/core/trial/move';
import { TrialRun } from './trialRun.ts';

const object = (id: string): ShownObject => ({
  id,
  object: { class: 'lamp', name: id, position: [0, 0, 0], turn: 0, properties: {} },
  box: { min: [0, 0, 0], max: [1, 1, 1] },
  properties: {},
  pose: AT_REST,
  gone: false,
  live: { level: 0 },
});
const state = (change: Partial<TrialState> = {}): TrialNews => ({
  type: 'state',
  state: {
    time: 0,
    feet: [0, 0, 0],
    eye: [0, 0, 60],
    flying: false,
    players: [],
    ride: null,
    race: null,
    standings: [],
    mood: null,
    driven: false,
    velocity: [0, 0, 0],
    ground: null,
    watched: [],
    health: null,
    ended: null,
    offer: null,
    lines: [],
    sounds: [],
    deliveries: [],
    findings: [],
    objects: [],
    removed: [],
    played: null,
    talk: null,
    changed: [],
    demonstration: null,
    ...change,
  },
});

/** A run whose worker is this test. */
function run() {
  const orders: TrialOrder[] = [];
  let hear: (news: TrialNews) => void = () => {};
  let die: (reason: string) => void = () => {};
  let ended = false;
  const made = new TrialRun((heard, died) => {
    [hear, die] = [heard, died];
    return { post: (order) => orders.push(order), end: () => (ended = true) };
  });
  return { made, orders, hear: (news: TrialNews) => hear(news), die: (reason: string) => die(reason), ended: () => ended };
}

describe('a run as the page knows it', () => {
  it('begins with all objects and follows what changes', async () => {
    const { made, orders, hear } = run();
    const begun = made.begin({} as never);
    hear({ type: 'beat' });
    hear(state({ objects: [object('a'), object('b')], lines: [{ time: 0, kind: 'say', text: 'hello' }] }));
    await begun;
    expect(orders.map((order) => order.type)).toEqual(['begin']);
    made.advance([STILL], [1, 0, 0]);
    expect(made.waiting).toBe(true);
    hear(
      state({
        time: 1,
        changed: [{ id: 'b', properties: { lit: true }, pose: { ...AT_REST, offset: [0, 0, 5] }, gone: false, live: { level: 2 } }],
        sounds: [{ sound: 'x.ogg', volume: 1, subtitles: '' }],
      }),
    );
    expect(made.waiting).toBe(false);
    expect([...made.objects.values()].map(({ id, pose, live }) => [id, pose.offset, live.level])).toEqual([
      ['a', [0, 0, 0], 0],
      ['b', [0, 0, 5], 2],
    ]);
    expect(made.objects.get('b')!.properties).toEqual({ lit: true });
    expect([made.takeSounds().length, made.takeSounds().length]).toEqual([1, 0]);
    expect(made.lines.map((line) => line.text)).toEqual(['hello']);
    expect(made.ended).toBeNull();
    hear(state({ ended: 'won' }));
    expect(made.ended).toBe('won');
  });

  it('hands changed scripts on, and waits for the answer', () => {
    const { made, orders, hear } = run();
    void made.begin({} as never).catch(() => {});
    hear({ type: 'beat' });
    hear(state());
    made.reload({ 'scripts/main.lua': 'x = 1' });
    expect(orders.at(-1)).toEqual({ type: 'scripts', scripts: { 'scripts/main.lua': 'x = 1' } });
    expect(made.waiting).toBe(true);
    hear(state({ lines: [{ time: 2, kind: 'system', text: 'Loaded scripts/main.lua anew.' }] }));
    expect(made.waiting).toBe(false);
    expect(made.lines.at(-1)!.text).toBe('Loaded scripts/main.lua anew.');
  });

  it('keeps the last lines only', () => {
    const { made, hear } = run();
    void made.begin({} as never).catch(() => {});
    hear({ type: 'beat' });
    for (let i = 0; i < 5; i++)
      hear(state({ lines: Array.from({ length: 1000 }, (_, k) => ({ time: i, kind: 'say' as const, text: `${i} ${k}` })) }));
    expect(made.lines).toHaveLength(2000);
    expect(made.lines.at(-1)!.text).toBe('4 999');
  });

  it('whose worker ends says why in the findings, the console and the beginning', async () => {
    const { made, hear, die, ended } = run();
    const begun = made.begin({} as never);
    hear({ type: 'beat' });
    die('its worker could not be started');
    await expect(begun).rejects.toThrow('The test run stopped unexpectedly: its worker could not be started.');
    expect(made.ended).toBe('stopped');
    expect(made.findings).toMatchObject([{ code: 'trial-failed', severity: 'blocker' }]);
    expect(made.lines.at(-1)).toMatchObject({ kind: 'error', text: expect.stringContaining('could not be started') });
    expect(ended()).toBe(true);
  });

  it('that hangs asks whoever tests, and what was recorded until then is left of it', async () => {
    jest.useFakeTimers();
    const orders: TrialOrder[] = [];
    let hear: (news: TrialNews) => void = () => {};
    const hung: (string | null)[] = [];
    const made = new TrialRun(
      (heard) => ((hear = heard), { post: (order) => orders.push(order), end: () => {} }),
      (finding) => hung.push(finding && finding.message),
    );
    void made.begin({} as never).catch(() => {});
    hear({ type: 'beat' });
    hear(state());
    made.advance(Array(130).fill(STILL), [1, 0, 0]);
    expect(orders.map(({ type }) => type)).toEqual(['begin', 'advance', 'recorded']);
    hear(state());
    const walk = { format: 1 } as never;
    hear({ type: 'recorded', walk, touched: false });
    made.advance([STILL], [1, 0, 0]);
    hear({ type: 'at', place: { file: 'scripts/main.lua', line: 9, name: 'search' } });
    jest.advanceTimersByTime(6000);
    expect(hung).toEqual([expect.stringContaining('search (scripts/main.lua:9) did not come back within 5 seconds')]);
    expect(made.ended).toBeNull();
    made.wait();
    expect(hung.at(-1)).toBeNull();
    jest.advanceTimersByTime(6000);
    made.giveUp();
    expect([made.ended, hung.at(-1)]).toEqual(['stopped', null]);
    expect(await made.recorded()).toMatchObject({ walk });
    jest.useRealTimers();
  });
});
