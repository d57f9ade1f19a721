/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { defaultPreferences, type Preferences } from '@violet-crate/core/preferences/preferences';
import { NumberField, VectorField } from '../common/fields.tsx';
import { keepPreferred } from '../checks/preferring.ts';
import { loadPreferences, preferredHere } from '../state/preferencesSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { serve } from '../testing/server.ts';
import { PreferencesPage } from './PreferencesPage.tsx';

const set = (change: Partial<Preferences>) =>
  act(() => void store.dispatch(loadPreferences.fulfilled({ ...defaultPreferences(), ...change }, 'test')));
afterEach(() => {
  cleanup();
  set({});
});
const crateId = () => store.getState().crate.view!.id;
const answers = { 'GET /api/settings': { workshopUrl: '', depotUrl: '' } };

describe('preferences', () => {
  it('are sent as they are set, put back one by one, and found by their words', async () => {
    const sent: Preferences[] = [];
    serve({ ...answers, 'PUT /api/preferences': (body: unknown) => (sent.push(body as Preferences), { ...(body as Preferences), left: [] }) });
    renderIn(<PreferencesPage />);
    const user = userEvent.setup();
    await user.selectOptions(screen.getByLabelText('Pictures a second'), '30');
    expect(sent.at(-1)!.values.frames).toBe('30');
    await user.click(screen.getByRole('button', { name: 'Pictures a second: back to how it was' }));
    expect(sent.at(-1)!.values.frames).toBe('0');
    await user.type(screen.getByLabelText('Search preferences and keys'), 'memory undone');
    expect(screen.queryByLabelText('Memory of a build')).toBeNull();
    await user.clear(screen.getByLabelText('Search preferences and keys'));
    await user.type(screen.getByLabelText('Search preferences and keys'), 'memory of a');
    fireEvent.change(screen.getByLabelText('Memory of a build'), { target: { value: '2048' } });
    expect(sent.at(-1)!.values.memory).toBe(2048);
  });

  it('of one crate stand over those of all, and go again', async () => {
    openWorld();
    const sent: Preferences[] = [];
    serve({ ...answers, 'PUT /api/preferences': (body: unknown) => (sent.push(body as Preferences), { ...(body as Preferences), left: [] }) });
    renderIn(<PreferencesPage />);
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: /Only/ }));
    // A theme of one crate alone would change the look of pages that are of none.
    expect(screen.queryByLabelText('Theme')).toBeNull();
    await user.selectOptions(screen.getByLabelText('Lengths'), 'metres');
    expect(sent.at(-1)).toMatchObject({ values: { lengths: 'game' }, crates: { [crateId()]: { lengths: 'metres' } } });
    expect(preferredHere(store.getState()).lengths).toBe('metres');

    await user.click(screen.getByRole('button', { name: 'All crates' }));
    expect(screen.getByLabelText<HTMLSelectElement>('Lengths').value).toBe('game');
    expect(document.querySelector('[data-preference="lengths"]')!.textContent).toContain('1 crate has a value of their own');
    await user.click(screen.getByRole('button', { name: /Only/ }));
    await user.click(screen.getByRole('button', { name: 'Lengths: as for all crates' }));
    expect(sent.at(-1)!.crates).toEqual({});
  });

  it('what a map begins with is that of its crate', () => {
    serve({ 'GET /api/preferences': defaultPreferences() });
    keepPreferred();
    const { profile } = openWorld();
    expect(store.getState().view.grid).toBe(profile.grid.default);
    set({ values: { ...defaultPreferences().values, fieldOfView: 80 }, crates: { [crateId()]: { grid: 'finer', snapping: false } } });
    expect(store.getState().view).toMatchObject({ grid: profile.grid.default / 2, snap: false, fieldOfView: 80 });
    openWorld();
    expect(store.getState().view).toMatchObject({ grid: profile.grid.default, snap: true, fieldOfView: 80 });
  });

  it('lengths are shown and typed in metres, and kept in units of the game', async () => {
    const { profile } = openWorld();
    const { plural, metres } = profile.unit;
    set({ values: { ...defaultPreferences().values, lengths: 'metres' } });
    const told: unknown[] = [];
    renderIn(
      <>
        <NumberField label="Reach" unit={plural} value={64} min={0} max={1000} onCommit={(v) => told.push(v)} />
        <NumberField label="Speed" unit={`${plural}/s`} value={10} onCommit={() => {}} />
        <NumberField label="Angle" unit="°" value={45} onCommit={() => {}} />
        <VectorField isLength label="Position" value={[0, 100, 0]} onCommit={(v) => told.push(v)} />
        <VectorField label="Way" value={[0, 1, 0]} onCommit={() => {}} />
      </>,
    );
    expect(Number(screen.getByLabelText<HTMLInputElement>('Reach (m)').value)).toBeCloseTo(64 * metres, 3);
    expect(Number(screen.getByLabelText<HTMLInputElement>('Speed (m/s)').value)).toBeCloseTo(10 * metres, 3);
    expect(screen.getByLabelText<HTMLInputElement>('Angle (°)').value).toBe('45');
    const position = within(screen.getByRole('group', { name: 'Position' })).getByLabelText<HTMLInputElement>('Position y');
    expect(Number(position.value)).toBeCloseTo(100 * metres, 3);
    expect(within(screen.getByRole('group', { name: 'Way' })).getByLabelText<HTMLInputElement>('Way y').value).toBe('1');
    fireEvent.change(position, { target: { value: '3' } });
    fireEvent.blur(position);
    expect(told).toEqual([[0, 3 / metres, 0]]);
  });
});
