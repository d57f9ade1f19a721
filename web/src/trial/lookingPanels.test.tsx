/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Coverage } from '@violet-crate/core/trial/coverage';
import { profile } from '@violet-crate/core/testing/maps';
import { cameBy, logPointSet, watched } from '../state/lookingSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { ExplorePanel } from './ExplorePanel.tsx';
import { GamePanel, later, type LaunchView } from './GamePanel.tsx';
import { sparkline } from './sparkline.ts';
import type { TrialRun } from './trialRun.ts';
import { WatchPanel } from './WatchPanel.tsx';

afterEach(cleanup);

/** Events that a test sends itself. */
let heard: Record<string, (event: { data: string }) => void> = {};
beforeEach(() => {
  heard = {};
  Object.assign(globalThis, {
    EventSource: class {
      addEventListener(type: string, listener: (event: { data: string }) => void) {
        heard[type] = listener;
      }
      close() {}
    },
  });
});

const run = (change: object = {}): TrialRun =>
  ({
    state: { velocity: [3, 4, 0], feet: [0, 0, 7.25], ground: { name: 'raft', surface: 'wood' }, watched: ['2'] },
    history: [
      { time: 0, values: [0, 7, 1] },
      { time: 1, values: [5, 7, 2] },
    ],
    measure: () => {},
    coverage: () => new Promise(() => {}),
    ...change,
  }) as unknown as TrialRun;

describe('watches', () => {
  it('tell speed, height, what one stands on, and expressions; what cannot be read is said before it is watched', async () => {
    openWorld();
    const user = userEvent.setup();
    act(() => void store.dispatch(watched('turns')));
    renderIn(<WatchPanel crateId="c" run={run()} />);
    const list = within(screen.getByRole('list', { name: 'Watches' }));
    expect(list.getByText('5.0')).toBeTruthy();
    expect(list.getByText('7.3')).toBeTruthy();
    expect(list.getByText('raft, wood')).toBeTruthy();
    expect(list.getByRole('img', { name: 'turns over the last seconds' })).toBeTruthy();
    await user.type(screen.getByLabelText(/Watch an expression/), 'lit +');
    expect(screen.getByText(/unexpected symbol/)).toBeTruthy();
    await user.clear(screen.getByLabelText(/Watch an expression/));
    await user.type(screen.getByLabelText(/Watch an expression/), ' lit ');
    await user.click(screen.getByRole('button', { name: 'Watch' }));
    expect(store.getState().looking.watches).toEqual(['turns', 'lit']);
    await user.click(screen.getByRole('button', { name: 'Stop watching turns' }));
    expect(store.getState().looking.watches).toEqual(['lit']);
  });

  it('list log points, with a way to take each away', async () => {
    openWorld();
    act(() => void store.dispatch(logPointSet({ file: 'scripts/main.lua', line: 4, expression: ' lit ' })));
    renderIn(<WatchPanel crateId="c" run={null} />);
    expect(screen.getByRole('link', { name: 'main.lua:4' }).getAttribute('href')).toContain('line=4');
    await userEvent.setup().click(screen.getByRole('button', { name: /Remove the log point/ }));
    expect(store.getState().looking.logPoints).toEqual([]);
  });

  it('draw what is a number, as a line with gaps', () => {
    expect(sparkline([0, 1], 10, 10)).toBe('M1.0 8.0L9.0 2.0');
    expect(sparkline([5, 5, 5], 10, 10)).toBe('M1.0 5.0L5.0 5.0L9.0 5.0');
    expect(sparkline([0, NaN, 1, 0], 11, 10)!.match(/M/g)).toHaveLength(2);
    expect(sparkline([NaN, 1], 10, 10)).toBeNull();
  });
});

describe('what runs came by', () => {
  it('is told with what never happened, and leads there', () => {
    openWorld((world) => Object.assign(world.crate.scripts, { 'scripts/main.lua': 'function startup()\n  say("a")\nend\n' }));
    const view = store.getState().crate.view!;
    const map = store.getState().map.map!;
    const data = new Coverage(20).data();
    act(() => void store.dispatch(cameBy({ crateId: view.id, map: 'hall', data })));
    renderIn(<ExplorePanel map="hall" run={run({ inputs: { map } })} onPlay={jest.fn()} />);
    expect(screen.getByRole('meter', { name: 'functions: 0 of 1' })).toBeTruthy();
    expect(screen.getByText(/The function startup never ran/)).toBeTruthy();
  });

  it('says what to do where nothing ran yet', () => {
    openWorld();
    act(() => void store.dispatch(cameBy(null)));
    renderIn(<ExplorePanel map="hall" run={null} onPlay={jest.fn()} />);
    expect(screen.getByText(/^Explore, or play all walks/)).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Explore' }).disabled).toBe(true);
  });
});

const launch = (change: Partial<LaunchView> = {}): LaunchView => ({
  crateId: 'c',
  map: 'hall',
  running: true,
  startedAt: 'now',
  lines: ['ready'],
  from: 0,
  findings: [],
  ...change,
});

describe('the game', () => {
  it('is started, told, and ended; its log comes as it is written', async () => {
    openWorld();
    const { id } = store.getState().crate.view!;
    const sent = serve({
      [`GET /api/crates/${id}/launch`]: { launch: null },
      [`POST /api/crates/${id}/launch`]: launch({ lines: [] }),
      [`POST /api/crates/${id}/launch/quit`]: launch({ running: false, lines: ['ready', 'bye'] }),
      [`POST /api/crates/${id}/launch/say`]: launch(),
    });
    const user = userEvent.setup();
    renderIn(<GamePanel map="hall" />);
    await user.click(screen.getByRole('button', { name: `Launch in ${profile.title}` }));
    expect(sent.find(({ method }) => method === 'POST')?.body).toEqual({ map: 'hall' });
    act(() => heard.launch({ data: JSON.stringify(launch()) }));
    expect(screen.getByRole('log').textContent).toBe('ready');
    await user.click(screen.getByRole('button', { name: 'Reload scripts' }));
    expect(sent.at(-1)?.body).toEqual({ command: 'reload' });
    await user.click(screen.getByRole('button', { name: 'End the game' }));
    expect(screen.getByTestId('game-state').textContent).toBe('Ended');
  });

  it('tells a refusal in its own words, and what the game said as findings', async () => {
    openWorld();
    const { id } = store.getState().crate.view!;
    const finding = { code: 'game-log', severity: 'blocker' as const, stage: 'trial' as const, message: 'The game says: oh.' };
    serve({
      [`GET /api/crates/${id}/launch`]: { launch: launch({ running: false, findings: [finding] }) },
      [`POST /api/crates/${id}/launch`]: new Refusal(409, 'Map hall is not built yet.'),
    });
    renderIn(<GamePanel map="hall" />);
    expect(await screen.findByText('The game says: oh.')).toBeTruthy();
    await userEvent.setup().click(screen.getByRole('button', { name: /Launch/ }));
    expect((await screen.findByRole('alert')).textContent).toBe('Map hall is not built yet.');
  });

  it('an answer that comes after a later event changes nothing', () => {
    const over = launch({ running: false, lines: ['ready', 'bye'] });
    expect(later(over, launch({ lines: [] }))).toBe(over);
    expect(later(launch(), over)).toBe(over);
    const anew = launch({ startedAt: 'later', lines: [] });
    expect(later(over, anew)).toBe(anew);
  });
});
