/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it, jest } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { SetupCheck } from '../api/types.ts';
import { refreshSetup } from '../state/crateSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { SetupPage } from './SetupPage.tsx';

afterEach(cleanup);
afterEach(() => void jest.restoreAllMocks());

const fine: SetupCheck = { id: 'compiler', title: 'Map compiler', ok: true, detail: 'version 2.4' } as SetupCheck;
const broken: SetupCheck = {
  id: 'pack',
  title: 'Base pack',
  ok: false,
  detail: '2 of 44 files differ',
  hint: 'They were changed or cut off.',
  fix: { action: 'base', label: 'Fetch them again' },
} as SetupCheck;
const user = () => userEvent.setup();

function show(checks: SetupCheck[]): string {
  const { base } = openWorld((world) => world.crate.files.push({ path: 'models/pump.glb', bytes: 2048, sha256: 'a'.repeat(64) }));
  store.dispatch(refreshSetup.fulfilled({ setup: checks, base }, 'test', 'brinewick'));
  renderIn(<SetupPage />);
  return store.getState().crate.view!.id;
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
    const sent = serve({
      'POST /api/games/brinewick/repairs': { done: '2 files were fetched.', checks: [fine] },
      'GET /api/games/brinewick/checks': [fine],
    });
    await user().click(screen.getByRole('button', { name: 'Fetch them again' }));
    expect(sent[0].body).toEqual({ action: 'base' });
    expect((await screen.findByRole('status')).textContent).toBe('2 files were fetched.');
    await act(() => Promise.resolve());
    expect(await screen.findByText('in order')).toBeTruthy();
  });

  it('a repair that fails is said, and can be tried again', async () => {
    show([broken]);
    serve({ 'POST /api/games/brinewick/repairs': new Refusal(422, 'The folder cannot be written.') });
    await user().click(screen.getByRole('button', { name: 'Fetch them again' }));
    expect((await screen.findByRole('status')).textContent).toBe('The folder cannot be written.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Fetch them again' }).disabled).toBe(false);
  });

  it('a crate is deleted only after a question, and a refusal is said', async () => {
    const id = show([fine]);
    const sent = serve({ [`DELETE /api/crates/${id}`]: new Refusal(409, 'A build of it is running.') });
    const confirm = jest.spyOn(window, 'confirm').mockReturnValue(false);
    await user().click(screen.getByRole('button', { name: /Delete this crate/ }));
    expect(confirm.mock.calls[0][0]).toContain('This cannot be undone.');
    expect(sent).toEqual([]);
    confirm.mockReturnValue(true);
    await user().click(screen.getByRole('button', { name: /Delete this crate/ }));
    expect((await screen.findByRole('alert')).textContent).toBe('A build of it is running.');
  });
});
