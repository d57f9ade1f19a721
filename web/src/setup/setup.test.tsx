/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { GameChange } from '@violet-crate/core/setup/gameChange';
import type { Offer } from '@violet-crate/core/setup/packUpdates';
import type { Download, SetupCheck, StepState } from '../api/types.ts';
import { downloadsChanged } from '../state/downloadsSlice.ts';
import { refreshSetup } from '../state/crateSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve, type Answer, type Sent } from '../testing/server.ts';
import { SetupPage } from './SetupPage.tsx';

afterEach(cleanup);
afterEach(() => void jest.restoreAllMocks());

const fine: SetupCheck = { id: 'compiler', title: 'Map compiler', ok: true, severity: 'note', detail: 'version 2.4', concerns: [] };
const broken: SetupCheck = {
  id: 'pack',
  title: 'Base pack',
  ok: false,
  severity: 'blocker',
  concerns: ['build'],
  detail: '2 of 44 files differ',
  hint: 'They were changed or cut off.',
  fix: { action: 'base', label: 'Fetch them again' },
};
/** A server that knows what the page always asks for, and `more`. */
const answers = (more: Record<string, Answer>): Sent[] =>
  serve({
    'GET /api/games/brinewick/programs': { commands: [], hash: '', allowed: true },
    'GET /api/games/brinewick/places': { writes: [], hash: '', allowed: true },
    'GET /api/depot/games/brinewick': { offers: [], findings: [] },
    ...more,
  });
beforeEach(() => void answers({}));
const user = () => userEvent.setup();

function show(checks: SetupCheck[], { steps = [], gameChange = null }: { steps?: StepState[]; gameChange?: GameChange | null } = {}): string {
  const { base, profile } = openWorld((world) => world.crate.files.push({ path: 'models/pump.glb', bytes: 2048, sha256: 'a'.repeat(64) }));
  const view = store.getState().crate.view!;
  const game = { profile, folder: '/games/brinewick', version: '2.4.1' };
  store.dispatch(refreshSetup.fulfilled({ view, profile, game, base, setup: checks, steps, gameChange, newerProfile: null }, 'test', view.id));
  renderIn(<SetupPage />);
  return view.id;
}

describe('the set-up', () => {
  it('says what is in order and what is not, what the game asks for and what the crate holds', () => {
    show([fine, broken]);
    const row = (id: string) => document.querySelector<HTMLElement>(`[data-check="${id}"]`)!;
    expect(row('compiler').textContent).toContain('in order');
    expect(row('pack').textContent).toMatch(/to mend.*2 of 44 files differ.*They were changed or cut off/);
    const { profile } = store.getState().crate;
    expect(within(screen.getByRole('row', { name: /^Grid/ })).getByRole('cell').textContent).toContain(String(profile!.grid.default));
    expect(screen.getByText(/has 1 map, 1 script and 1 file in all/)).toBeTruthy();
  });

  it('a repair shows what it did and how the checks stand after it', async () => {
    show([broken]);
    const view = store.getState().crate.view!;
    const sent = answers({
      'POST /api/games/brinewick/repairs': { done: '2 files were fetched.', checks: [fine] },
      'GET /api/games/brinewick/checks': [fine],
      [`GET /api/crates/${view.id}`]: view,
      [`GET /api/crates/${view.id}/game`]: {
        profile: store.getState().crate.profile!,
        install: { id: 'i1', folder: '/g', version: '2.4.1' },
        change: null,
      },
    });
    await user().click(screen.getByRole('button', { name: 'Fetch them again' }));
    expect(sent[0]).toEqual({ method: 'POST', path: '/api/games/brinewick/repairs?install=i1', body: { action: 'base' } });
    expect((await screen.findByRole('status')).textContent).toBe('2 files were fetched.');
    await act(() => Promise.resolve());
    expect(await screen.findByText('in order')).toBeTruthy();
  });

  it('a repair that fails is said, and can be tried again', async () => {
    show([broken]);
    answers({ 'POST /api/games/brinewick/repairs': new Refusal(422, 'The folder cannot be written.') });
    await user().click(screen.getByRole('button', { name: 'Fetch them again' }));
    expect((await screen.findByRole('status')).textContent).toBe('The folder cannot be written.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Fetch them again' }).disabled).toBe(false);
  });

  it('a crate is deleted only after a question, and a refusal is said', async () => {
    const id = show([fine]);
    const sent = answers({ [`DELETE /api/crates/${id}`]: new Refusal(409, 'A build of it is running.') });
    const confirm = jest.spyOn(window, 'confirm').mockReturnValue(false);
    await user().click(screen.getByRole('button', { name: /Delete this crate/ }));
    expect(confirm.mock.calls[0][0]).toContain('for 30 days');
    expect(sent.filter(({ method }) => method === 'DELETE')).toEqual([]);
    confirm.mockReturnValue(true);
    await user().click(screen.getByRole('button', { name: /Delete this crate/ }));
    expect((await screen.findByRole('alert')).textContent).toBe('A build of it is running.');
  });
});

const step = (id: string, done: StepState['step']['done'], isDone = false): StepState => ({
  step: {
    id,
    title: `Step ${id}`,
    why: 'Mods are left out else.',
    how: 'Set it in the file.',
    done,
    concerns: ['trial'],
    offer: done.when === 'setting' ? { do: 'write' } : undefined,
  },
  done: isDone,
  rule: 'mods is yes in options.ini.',
  writes: null,
});

describe('the preparation', () => {
  it('shows what is done; a step is done by its button or ticked by hand', async () => {
    show([fine], { steps: [step('switch', { when: 'setting', file: 'options.ini', key: 'mods', value: 'yes' }), step('terms', { when: 'hand' })] });
    const rows = within(screen.getByRole('region', { name: 'Preparation' }));
    expect(rows.getByText('0 of 2 done')).toBeTruthy();
    expect(rows.getByText(/Ticks itself: mods is yes in options.ini/)).toBeTruthy();
    const sent = answers({ 'POST /api/games/brinewick/preparation/switch': { done: 'Set mods to yes.' } });
    await user().click(rows.getByRole('button', { name: 'Do it for me' }));
    expect((await rows.findByRole('status')).textContent).toContain('Set mods to yes.');
    await user().click(rows.getByRole('checkbox', { name: 'Done' }));
    expect(sent.filter(({ method }) => method !== 'GET').map(({ method, path, body }) => [method, path, body])).toEqual([
      ['POST', '/api/games/brinewick/preparation/switch?install=i1', {}],
      ['PUT', '/api/games/brinewick/preparation/terms?install=i1', { done: true }],
    ]);
  });
});

describe('another game than before', () => {
  it('is told with what it means, and taken note of', async () => {
    const id = show([fine], { gameChange: { message: 'The game is 2.5.0 now, and was 2.4.1.', changed: ['textures/brick.ktx2'], gone: [] } });
    const told = screen.getByTestId('game-change');
    expect(told.textContent).toMatch(/2.5.0 now.*textures\/brick.ktx2/);
    const sent = answers({});
    await user().click(within(told).getByRole('button', { name: 'I have seen it' }));
    expect(sent.find(({ method }) => method === 'PUT')).toEqual({ method: 'PUT', path: `/api/crates/${id}/game`, body: { install: 'i1' } });
  });
});

const version = (number: string) => ({
  version: number,
  notes: `Notes of ${number}.`,
  bytes: 2048,
  unpacked: 4096,
  sha256: 'a'.repeat(64),
  blockBytes: 1024,
  blocks: [],
});
const offer = (change: Partial<Offer> = {}): Offer => ({
  item: { id: 'ropes', kind: 'pack', profile: 'brinewick', title: 'Ropes', brings: 'Rope.', author: 'A', licence: 'CC0-1.0', versions: [] },
  versions: [version('1.1.0'), version('1.0.0')],
  installed: null,
  before: null,
  update: null,
  ...change,
});
const download = (change: Partial<Download> = {}): Download => ({
  id: 'd1',
  profile: 'brinewick',
  item: 'ropes',
  version: '1.1.0',
  title: 'Ropes 1.1.0',
  install: '/g',
  bytes: 2048,
  state: 'running',
  problem: null,
  done: 1024,
  speed: 512,
  secondsLeft: 2,
  ...change,
});

describe('packs of the depot', () => {
  afterEach(() => act(() => void store.dispatch(downloadsChanged([]))));
  const packs = () => within(screen.getByRole('region', { name: 'Packs and tools' }));

  it('say what they bring and weigh; one is fetched, rests and goes on', async () => {
    const sent = answers({ 'GET /api/depot/games/brinewick': { offers: [offer()], findings: [] } });
    show([fine]);
    expect(await packs().findByText('Rope.')).toBeTruthy();
    expect(packs().getByText(/1.1.0: Notes of 1.1.0. 2.0 KiB to fetch, 4.0 KiB on disk/)).toBeTruthy();
    await user().click(packs().getByRole('button', { name: 'Get' }));
    expect(sent.find(({ method }) => method === 'POST')!.body).toEqual({ item: 'ropes', version: '1.1.0' });
    act(() => void store.dispatch(downloadsChanged([download()])));
    expect(packs().getByRole('progressbar').getAttribute('aria-valuenow')).toBe('50');
    expect(packs().getByText(/fetching · 1.0 KiB of 2.0 KiB · 512 B\/s · 2 s left/)).toBeTruthy();
    await user().click(packs().getByRole('button', { name: 'Pause' }));
    act(() => void store.dispatch(downloadsChanged([download({ state: 'failed', problem: 'Block 2 of 2 is not what the depot says.' })])));
    expect(packs().getByRole('alert').textContent).toContain('Block 2 of 2');
    await user().click(packs().getByRole('button', { name: 'Try again' }));
    expect(sent.filter(({ path }) => path.includes('downloads')).map(({ path }) => path)).toEqual([
      '/api/depot/downloads/d1/pause',
      '/api/depot/downloads/d1/resume',
    ]);
  });

  it('an update is offered, and the way back; a depot that is away is told', async () => {
    answers({ 'GET /api/depot/games/brinewick': { offers: [offer({ installed: '1.0.0', update: '1.1.0' })], findings: [] } });
    show([fine]);
    expect(await packs().findByRole('button', { name: 'Update' })).toBeTruthy();
    cleanup();
    answers({ 'GET /api/depot/games/brinewick': { offers: [offer({ installed: '1.1.0', before: '1.0.0' })], findings: [] } });
    show([fine]);
    await user().selectOptions(await packs().findByRole('combobox'), '1.0.0');
    expect(packs().getByRole('button', { name: 'Go back' })).toBeTruthy();
    cleanup();
    answers({ 'GET /api/depot/games/brinewick': new Refusal(502, 'The depot does not answer.') });
    show([fine]);
    expect((await packs().findByRole('alert')).textContent).toContain('The depot does not answer.');
  });
});
