/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { PackageEntry } from '../api/types.ts';
import { openCrate } from '../state/crateSlice.ts';
import { jobChanged } from '../state/jobsSlice.ts';
import { store } from '../state/store.ts';
import { build, job, openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { PackagePanel } from './PackagePanel.tsx';
import { WorkshopPanel } from './WorkshopPanel.tsx';

afterEach(cleanup);

const files = [
  { path: 'maps/hall/map.json', bytes: 10, sha256: 'a'.repeat(64) },
  { path: 'maps/hall/map.glb', bytes: 4096, sha256: 'b'.repeat(64) },
];
const made = (change: Partial<PackageEntry> = {}): PackageEntry =>
  ({
    id: 'p1',
    sha256: 'c'.repeat(64),
    bytes: 5000,
    fresh: true,
    findings: [],
    createdAt: '2026-01-02T03:04:05.000Z',
    manifest: { name: 'hall', version: '1.2.0', files },
    ...change,
  }) as PackageEntry;

/** Opens the crate again with what the server has of builds, packages and releases. */
function open(change: Record<string, unknown> = {}): string {
  openWorld();
  const { crate, map } = store.getState();
  const payload = {
    ...crate,
    map: { map: map.map, revision: 1 },
    mapName: 'hall',
    builds: [build()],
    packages: [],
    releases: [],
    ...change,
  } as never;
  store.dispatch(openCrate.fulfilled(payload, 'test', crate.view!.id));
  return crate.view!.id;
}
const button = (name: RegExp | string) => screen.getByRole<HTMLButtonElement>('button', { name });

describe('making a package', () => {
  it('needs a fresh build, and says so', () => {
    const id = open({ builds: [build({ fresh: false })] });
    renderIn(<PackagePanel crateId={id} />);
    expect(button('Make package').disabled).toBe(true);
    expect(screen.getByText(/has no fresh build/)).toBeTruthy();
  });

  it('is under way while its job is, and a refusal is told', async () => {
    const id = open();
    const sent = serve({ [`POST /api/crates/${id}/packages`]: new Refusal(409, 'The map was changed meanwhile.') });
    renderIn(<PackagePanel crateId={id} />);
    await userEvent.click(button('Make package'));
    expect((await screen.findByRole('alert')).textContent).toBe('The map was changed meanwhile.');
    expect(sent).toHaveLength(1);
    act(() => void store.dispatch(jobChanged(job({ id: 'pack1', kind: 'pack', crateId: id }))));
    expect(button('Packing …').disabled).toBe(true);
  });

  it('what is in it is listed, the largest first', () => {
    const id = open({ packages: [made()] });
    renderIn(<PackagePanel crateId={id} />);
    expect(screen.getByText('hall-1.2.0.zip').getAttribute('href')).toBe('/api/packages/p1/file');
    const paths = screen.getAllByText(/^maps\/hall\//).map((cell) => cell.textContent);
    expect(paths).toEqual(['maps/hall/map.glb', 'maps/hall/map.json']);
  });

  it('only a fresh package is published, once', async () => {
    const stale = open({ packages: [made({ fresh: false })] });
    renderIn(<PackagePanel crateId={stale} />);
    expect(button('Publish 1.2.0').disabled).toBe(true);
    cleanup();
    const id = open({ packages: [made()] });
    const release = { shareCode: 'ABCD-EFGH', packageId: 'p1', version: '1.2.0', workshop: 'x', publishedAt: '2026-01-02T03:04:05.000Z' };
    const sent = serve({ 'POST /api/publish': release, [`GET /api/crates/${id}/packages`]: { packages: [made()], releases: [release] } });
    renderIn(<PackagePanel crateId={id} />);
    await userEvent.click(button('Publish 1.2.0'));
    await screen.findByText(/ABCD-EFGH/);
    expect(sent[0]).toMatchObject({ path: '/api/publish', body: { packageId: 'p1' } });
    expect(button('Published').disabled).toBe(true);
  });
});

describe('the workshop', () => {
  const settings = { workshopUrl: 'http://127.0.0.1:4281', workshopToken: 't' };

  it('installs by share code, and says where and how many files were verified', async () => {
    open();
    const sent = serve({
      'GET /api/settings': settings,
      'POST /api/install': { name: 'hall', version: '1.2.0', folder: '/mods/hall', verified: 12 },
    });
    renderIn(<WorkshopPanel />);
    await userEvent.type(screen.getByLabelText('Install a release into the game'), 'ABCD-EFGH{Enter}');
    expect((await screen.findByText(/\/mods\/hall/)).closest('section')!.textContent).toMatch(/12/);
    expect(sent.at(-1)!.body).toEqual({ shareCode: 'ABCD-EFGH' });
  });

  it('a package that was tampered with is refused with its file', async () => {
    open();
    serve({ 'GET /api/settings': settings, 'POST /api/install': new Refusal(422, 'scripts/main.lua does not match its SHA-256.') });
    renderIn(<WorkshopPanel />);
    await userEvent.type(screen.getByLabelText('Install a release into the game'), 'ABCD-EFGH{Enter}');
    expect((await screen.findByRole('alert')).textContent).toContain('scripts/main.lua does not match');
  });
});
