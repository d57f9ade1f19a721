/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Provider } from 'react-redux';
import { MemoryRouter, Route, Routes } from 'react-router';
import type { ModEntry, ModsState } from '../api/types.ts';
import { store } from '../state/store.ts';
import { Refusal, serve, type Answer } from '../testing/server.ts';
import { ModsPage } from './ModsPage.tsx';

afterEach(cleanup);

const mod = (change: Partial<ModEntry> = {}): ModEntry => ({
  name: 'hall',
  title: 'The Hall',
  version: '1.0.0',
  description: '',
  authors: ['Ada Reed'],
  enabled: true,
  local: false,
  bytes: 2048,
  shareCode: 'AAAA-BBBB',
  before: null,
  signer: 'aaaa bbbb cccc dddd',
  requires: {},
  ...change,
});
const state = (...mods: ModEntry[]): ModsState => ({ game: '/games/brinewick', mods, conflicts: [], order: [], running: null });

function show(first: ModsState, more: Record<string, Answer> = {}) {
  const sent = serve({
    'GET /api/profiles': { profiles: [{ id: 'brinewick', title: 'Brinewick' }] },
    'GET /api/games/brinewick/mods': first,
    'GET /api/games/brinewick/mods/updates': { updates: {}, problem: null },
    'GET /api/games/brinewick/mods/browse': { cards: [], total: 0 },
    ...more,
  });
  render(
    <Provider store={store}>
      <MemoryRouter initialEntries={['/mods/brinewick']}>
        <Routes>
          <Route path="/mods/:game" element={<ModsPage />} />
        </Routes>
      </MemoryRouter>
    </Provider>,
  );
  return sent;
}
const bodies = (sent: ReturnType<typeof show>, end: string) =>
  sent.filter(({ path, method }) => method !== 'GET' && path.endsWith(end)).map(({ body }) => body);

describe('mods of a game', () => {
  it('none yet: the page says how to get one', async () => {
    show(state());
    expect(await screen.findByText(/None yet\. Choose one below/)).toBeTruthy();
    expect(await screen.findByText(/Nothing is listed for this game yet/)).toBeTruthy();
  });

  it('are installed by share code with all that they need', async () => {
    const sent = show(state(), {
      'POST /api/games/brinewick/mods/install': [
        { name: 'lamps', title: 'Lamps', version: '1.2.0', verified: 2, fetched: 1024, folder: '/x' },
        { name: 'hall', title: 'The Hall', version: '1.0.0', verified: 9, fetched: 1024, folder: '/x' },
      ],
    });
    await userEvent.type(await screen.findByLabelText('Install by share code'), 'aaaa-bbbb{Enter}');
    expect((await screen.findByText(/Lamps 1\.2\.0, The Hall 1\.0\.0: installed and verified/)).textContent).toContain('2.0 KiB fetched');
    expect(bodies(sent, '/install')).toEqual([{ shareCode: 'aaaa-bbbb' }]);
  });

  it('an update is told with its notes, and with why what is there was withdrawn', async () => {
    const sent = show(state(mod()), {
      'GET /api/games/brinewick/mods/updates': {
        updates: { hall: { version: '1.1.0', shareCode: 'CCCC-DDDD', notes: 'No more floods\nAnd lamps', withdrawn: 'it floods' } },
        problem: null,
      },
      'POST /api/games/brinewick/mods/install': [],
    });
    expect((await screen.findByText(/1\.1\.0 is given out/)).closest('li')!.textContent).toMatch(/1\.0\.0 was withdrawn: it floods.*No more floods/);
    await userEvent.click(screen.getByRole('button', { name: 'Take 1.1.0' }));
    expect(bodies(sent, '/install')).toEqual([{ shareCode: 'CCCC-DDDD' }]);
  });

  it('one that others need goes only when that is meant', async () => {
    let asked = 0;
    const sent = show(state(mod(), mod({ name: 'dome', title: 'Dome', requires: { hall: '^1' } })), {
      'POST /api/games/brinewick/mods/hall/remove': () =>
        asked++ === 0 ? new Refusal(422, 'dome needs hall ^1.') : state(mod({ name: 'dome', title: 'Dome' })),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Remove The Hall' }));
    expect((await screen.findByRole('alert')).textContent).toContain('dome needs hall ^1');
    await userEvent.click(screen.getByRole('button', { name: 'Do it anyway' }));
    expect(bodies(sent, '/hall/remove')).toEqual([{}, { anyway: true }]);
  });

  it('are verified, disabled, gone back to, and played; while the game runs nothing is changed under it', async () => {
    const sent = show(state(mod({ before: '0.9.0' })), {
      'POST /api/games/brinewick/mods/hall/verify': { problem: 'a.txt does not match its SHA-256.' },
      'POST /api/games/brinewick/mods/hall/back': state(mod({ version: '0.9.0', before: '1.0.0' })),
      'POST /api/games/brinewick/mods/hall/play': { ...state(mod()), running: 'hall' },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Verify The Hall' }));
    expect((await screen.findByRole('alert')).textContent).toContain('a.txt does not match');
    await userEvent.click(screen.getByRole('button', { name: 'Back to 0.9.0' }));
    expect(bodies(sent, '/hall/back')).toEqual([{}]);
    await userEvent.click(screen.getByRole('button', { name: 'Play The Hall' }));
    expect(bodies(sent, '/hall/play')).toEqual([{}]);
  });

  it('two that bring the same file: the one that counts is told, and chosen', async () => {
    const both = {
      ...state(mod({ name: 'moss_a' }), mod({ name: 'moss_b' })),
      conflicts: [{ path: 'textures/moss.ktx2', mods: ['moss_a', 'moss_b'] }],
    };
    const sent = show(both, { 'PUT /api/games/brinewick/mods/order': both });
    const note = (await screen.findByText('Two bring the same file')).parentElement!;
    expect(note.textContent).toMatch(/moss\.ktx2: that of moss_a counts/);
    await userEvent.click(within(note).getByRole('button', { name: 'Let moss_b count' }));
    expect(bodies(sent, '/order')).toEqual([{ order: ['moss_b'] }]);
  });

  it('what the workshop lists is installed from here; one that does not answer takes nothing away', async () => {
    const card = {
      name: 'weir',
      title: 'Weir',
      summary: 'Water',
      organisation: 'quay',
      version: '1.0.0',
      shareCode: 'EEEE-FFFF',
      tags: [],
      downloads: 3,
      stars: null,
    };
    const sent = show(state(mod()), {
      'GET /api/games/brinewick/mods/browse': { cards: [card], total: 1 },
      'POST /api/games/brinewick/mods/install': [],
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Install Weir' }));
    expect(bodies(sent, '/install')).toEqual([{ shareCode: 'EEEE-FFFF' }]);
    cleanup();
    show(state(mod()), { 'GET /api/games/brinewick/mods/browse': new Refusal(502, 'The workshop does not answer.') });
    expect(await screen.findByText(/The workshop does not answer/)).toBeTruthy();
    expect(screen.getByText('The Hall')).toBeTruthy();
  });
});
