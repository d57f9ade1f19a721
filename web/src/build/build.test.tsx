/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { parametersOf, PARAMETERS, type BuildParameters } from '@violet-crate/core/stages/contract/parameters';
import type { Profile } from '@violet-crate/core/profile/schema';
import { useState } from 'react';
import profileFile from '../../../core/profiles/brinewick.json' with { type: 'json' };
import { pictured, pictureGone } from '../state/jobsSlice.ts';
import { store } from '../state/store.ts';
import { build, job, renderIn, report } from '../testing/render.tsx';
import { BuildList } from './BuildList.tsx';
import { BuildLog } from './BuildLog.tsx';
import { BuildResult } from './BuildResult.tsx';
import { ExpertSheet } from './ExpertSheet.tsx';
import { RunningBuild } from './RunningBuild.tsx';

const profile = profileFile as unknown as Profile;
const defaults = parametersOf('draft', profile);
const asked: string[] = [];
beforeEach(() => {
  asked.length = 0;
  globalThis.fetch = jest.fn((url: string) => {
    asked.push(url);
    return Promise.resolve({ ok: true, status: 200, json: () => Promise.resolve({}) });
  }) as unknown as typeof fetch;
});
afterEach(cleanup);

/** The sheet as its page holds it. */
function Sheet({ told }: { told: Partial<BuildParameters>[] }) {
  const [given, setGiven] = useState<Partial<BuildParameters>>({});
  const change = (next: Partial<BuildParameters>) => {
    told.push(next);
    setGiven(next);
  };
  return <ExpertSheet defaults={defaults} given={given} onChange={change} unit="notches" anyway={false} onAnyway={() => {}} />;
}

describe('the parameters', () => {
  it('are all there with what they do, and hold the quality’s values', () => {
    renderIn(<Sheet told={[]} />);
    for (const { label, explains, id } of PARAMETERS) {
      expect(screen.getByText(explains)).toBeTruthy();
      const field = screen.getByLabelText<HTMLInputElement>(new RegExp(`^${label.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')} · `));
      expect(field.value).toBe(String(defaults[id]));
    }
  });

  it('tell only what differs, and go back to the default', async () => {
    const told: Partial<BuildParameters>[] = [];
    renderIn(<Sheet told={told} />);
    const user = userEvent.setup();
    const field = screen.getByLabelText(/^Bounces ·/);
    await user.clear(field);
    // Nothing typed yet is no number, and changes nothing.
    expect(screen.getByText('It has to be a number from 0 to 64.')).toBeTruthy();
    expect(told).toEqual([]);
    await user.type(field, '7');
    expect(told.at(-1)).toEqual({ bounces: 7 });
    await user.selectOptions(screen.getByLabelText(/^Visibility ·/), 'none');
    expect(told.at(-1)).toEqual({ bounces: 7, visibility: 'none' });
    await user.click(screen.getByRole('button', { name: `Bounces back to ${defaults.bounces}` }));
    expect(told.at(-1)).toEqual({ visibility: 'none' });
    // 9 fits, 99 does not and is not told.
    await user.clear(field);
    await user.type(field, '99');
    expect(told.at(-1)).toEqual({ bounces: 9, visibility: 'none' });
  });
});

describe('a running build', () => {
  it('says what it does and how far it is, and can be paused and cancelled', async () => {
    renderIn(<RunningBuild job={job()} />);
    expect(screen.getByRole('progressbar', { name: 'Build hall' }).getAttribute('aria-valuenow')).toBe('42');
    expect(screen.getByRole('status').textContent).toContain('lighting, lightmap with shadows');
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'Pause' }));
    await user.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(asked).toEqual(['/api/jobs/j1/pause', '/api/jobs/j1/cancel']);
  });

  it('that is paused or waits says so, and a paused one resumes', async () => {
    const { rerender } = renderIn(<RunningBuild job={job({ state: 'paused' })} />);
    expect(screen.getByRole('status').textContent).toContain('finished stages are kept');
    await userEvent.setup().click(screen.getByRole('button', { name: 'Resume' }));
    expect(asked).toEqual(['/api/jobs/j1/resume']);
    rerender(<></>);
    renderIn(<RunningBuild job={job({ state: 'queued' })} />);
    expect(screen.getByRole('status').textContent).toContain('waiting for its turn');
  });

  it('offers its light once there is a picture of the open map, and shows it in the perspective', async () => {
    renderIn(<RunningBuild job={job()} />);
    expect(screen.queryByRole('button', { name: 'Watch the light' })).toBeNull();
    const { name } = store.getState().map;
    act(() => void store.dispatch(pictured({ jobId: 'j1', crateId: 'c1', map: name, version: 1 })));
    await userEvent.setup().click(await screen.findByRole('button', { name: 'Watch the light' }));
    expect(store.getState().view.builtLight).toBe(true);
    act(() => void store.dispatch(pictureGone('j1')));
    expect(store.getState().jobs.pictures).toEqual({});
  });
});

describe('a result', () => {
  const shown = (change: Parameters<typeof build>[0], onOnly: (stage: string) => void = () => {}) =>
    renderIn(<BuildResult build={build(change)} unsaved={false} crateId="c1" busy={false} onOnly={onOnly} />);
  const row = (stage: string) => document.querySelector<HTMLElement>(`[data-stage-name="${stage}"]`)!;

  it('says by stage what came out, how long it took, and lets one run alone', async () => {
    const only: string[] = [];
    shown({}, (stage) => only.push(stage));
    expect(row('geometry').textContent).toContain('geometry is done.');
    expect(row('geometry').textContent).toContain('1200 ms');
    await userEvent.setup().click(within(row('lighting')).getByRole('button', { name: 'Only this' }));
    expect(only).toEqual(['lighting']);
    expect(within(row('packing')).queryByRole('button')).toBeNull();
  });

  it('names what has changed since, the first few and how many more', () => {
    shown({
      fresh: false,
      freshness: [{ stage: 'lighting', fresh: false, reasons: ['a moved', 'b moved', 'c moved', 'd moved', 'e moved', 'f moved'] }],
    });
    expect(row('lighting').textContent).toContain('out of date: a moved, b moved, c moved, d moved and 2 more');
    expect(screen.getByText(/stale: the crate was changed since/)).toBeTruthy();
  });

  it('that stopped shows why, and cannot be walked', () => {
    const finding = { code: 'leak', severity: 'blocker', stage: 'build', message: 'The map leaks: from lamp there is a way out.' } as const;
    shown({ ok: false, stages: [report('sealing', { state: 'failed', findings: [finding] })] });
    expect(screen.getByText(/The map leaks/)).toBeTruthy();
    expect(screen.queryByRole('link', { name: /Test run/ })).toBeNull();
    expect(row('sealing').textContent).toContain('stopped');
    expect(row('packing').textContent).toContain('not run');
  });

  it('offers its files and its picture', () => {
    shown({ picture: 'abc', artefacts: [{ path: 'maps/hall/map.glb', bytes: 2048, sha256: 'x' }] });
    expect(screen.getByRole('link', { name: 'maps/hall/map.glb' }).getAttribute('href')).toBe('/api/crates/c1/builds/b1/files/maps/hall/map.glb');
    expect(screen.getByRole('img', { name: /hall/ }).getAttribute('src')).toBe('/api/crates/c1/builds/b1/picture');
  });
});

describe('the builds that are kept', () => {
  it('are told apart, and one is chosen', async () => {
    const chosen: string[] = [];
    renderIn(
      <BuildList
        builds={[build({ id: 'new', quality: 'final', fresh: true }), build({ id: 'old', fresh: false }), build({ id: 'bad', ok: false })]}
        crateId="c1"
        shown="new"
        onShow={(id) => chosen.push(id)}
      />,
    );
    const buttons = screen.getAllByRole('button');
    expect(buttons.map((button) => button.getAttribute('aria-pressed'))).toEqual(['true', 'false', 'false']);
    expect(buttons.map((button) => /fresh|stale|stopped/.exec(button.textContent!)![0])).toEqual(['fresh', 'stale', 'stopped']);
    expect(buttons[0].textContent).toContain('8.4 s');
    await userEvent.setup().click(buttons[1]);
    expect(chosen).toEqual(['old']);
  });
});

describe('the log', () => {
  it('is searched without regard to case, and can be taken along', async () => {
    renderIn(<BuildLog name="hall" lines={['geometry: ran in 3 ms', 'Lighting: fresh in 1 ms']} />);
    const user = userEvent.setup();
    await user.type(screen.getByLabelText('Filter the log'), 'light');
    expect(document.querySelector('pre')!.textContent).toBe('Lighting: fresh in 1 ms');
    await user.type(screen.getByLabelText('Filter the log'), 'nothing');
    expect(document.querySelector('pre')!.textContent).toBe('No line has these words.');
    const link = screen.getByRole('link', { name: 'Download' });
    expect(link.getAttribute('download')).toBe('hall-build.log');
    // The whole log, whatever is filtered.
    expect(decodeURIComponent(link.getAttribute('href')!)).toContain('geometry: ran in 3 ms\nLighting: fresh in 1 ms');
  });
});
