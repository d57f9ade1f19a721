/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it, jest } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Walk } from '@violet-crate/core/trial/walk';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import type { TrialRun } from './trialRun.ts';
import { WalksPanel } from './WalksPanel.tsx';

afterEach(cleanup);

const WALK: Walk = {
  format: 1,
  map: 'hall',
  inputs: ['60 0 0 0 - 10000 0 0'],
  marks: [[1, 'use crank']],
  track: [
    [0, 0, 0],
    [50, 0, 0],
    [50, 40, 0],
  ],
  hashes: ['0'],
  ended: null,
};

function open(run: Partial<TrialRun> | null, walks: readonly string[] = []) {
  openWorld();
  const view = store.getState().crate.view!;
  const files = [...view.files, ...walks.map((name) => ({ path: `walks/hall/${name}.walk.json`, bytes: 1, sha256: 'a'.repeat(64), findings: [] }))];
  const onPlay = jest.fn();
  renderIn(<WalksPanel map="hall" source={{ view: { ...view, files }, profileId: 'brinewick' }} run={run as TrialRun | null} onPlay={onPlay} />);
  return onPlay;
}

describe('walks of a map', () => {
  it('says where there are none, and refuses names that no file may have', async () => {
    open({});
    expect(screen.getByText(/^No walks yet/)).toBeTruthy();
    await userEvent.setup().type(screen.getByLabelText(/Save this run/), 'Über Stock');
    expect((screen.getByRole('button', { name: 'Save' }) as HTMLButtonElement).disabled).toBe(true);
    expect(screen.getByLabelText(/Save this run/).getAttribute('aria-invalid')).toBe('true');
  });

  it('saves what was recorded, and tells a refusal in its own words', async () => {
    const sent: unknown[] = [];
    open({ recorded: () => Promise.resolve({ walk: WALK, touched: false }) });
    const view = store.getState().crate.view!;
    serve({
      [`PUT /api/crates/${view.id}/walks/hall/over`]: (body) => {
        sent.push(body);
        return sent.length > 1 ? new Refusal(507, 'The disk is full.') : {};
      },
      [`GET /api/crates/${view.id}`]: view,
    });
    const user = userEvent.setup();
    for (let i = 0; i < 2; i++) {
      await user.clear(screen.getByLabelText(/Save this run/));
      await user.type(screen.getByLabelText(/Save this run/), 'over');
      await user.click(screen.getByRole('button', { name: 'Save' }));
      await waitFor(() => expect(sent).toHaveLength(i + 1));
    }
    expect(sent[0]).toEqual({ walk: WALK });
    await screen.findByText('The disk is full.');
  });

  it('does not save a run in which scripts or the map were changed', async () => {
    open({ recorded: () => Promise.resolve({ walk: WALK, touched: true }) });
    const sent = serve({});
    const user = userEvent.setup();
    await user.type(screen.getByLabelText(/Save this run/), 'over');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    await screen.findByText(/cannot be played back/);
    expect(sent).toEqual([]);
  });

  it('watches one, and makes it the trial steps in one edit', async () => {
    const onPlay = open({}, ['over']);
    serve({ [`GET /api/crates/${store.getState().crate.view!.id}/files/walks/hall/over.walk.json?v=aaaaaaaaaaaa`]: WALK });
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'Watch over' }));
    await waitFor(() => expect(onPlay).toHaveBeenCalledWith(WALK));
    await user.click(screen.getByRole('button', { name: 'Make over the trial steps' }));
    await screen.findByText(/2 of them|3 of them/);
    expect(store.getState().map.map!.settings.trial).toContainEqual({ use: 'crank' });
  });
});
