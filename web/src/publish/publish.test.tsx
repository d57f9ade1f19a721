/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { applyEdit } from '@violet-crate/core/document/edit';
import { newObject } from '@violet-crate/core/profile/newObject';
import { changesBetween } from '@violet-crate/core/release/notes';
import { testProfile, testWorld } from '@violet-crate/core/testing/world';
import type { PackageEntry, WorkshopMod } from '../api/types.ts';
import { openCrate } from '../state/crateSlice.ts';
import { jobChanged } from '../state/jobsSlice.ts';
import { store } from '../state/store.ts';
import { build, job, openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve, type Answer } from '../testing/server.ts';
import { PackagePanel } from './PackagePanel.tsx';
import { PlayerStep } from './PlayerStep.tsx';
import { PublishPage } from './PublishPage.tsx';

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
    platforms: [],
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
});

const steps = (id: string, more: Record<string, Answer> = {}) =>
  serve({
    [`GET /api/crates/${id}/changes`]: {
      since: '1.1.0',
      notes: '- Map hall: 1 object added: barrel',
      version: '1.2.0',
      why: 'there is something new to play',
      unchanged: false,
    },
    [`GET /api/crates/${id}/uploads`]: [],
    [`GET /api/crates/${id}/workshop`]: { mod: null, conditions: [], statistics: null },
    'GET /api/settings': { workshopUrl: 'http://127.0.0.1:4281', hasToken: true, depotUrl: '' },
    'GET /api/author': { publicKey: 'x', fingerprint: 'aaaa bbbb cccc dddd', file: '/data/author.key' },
    [`GET /api/crates/${id}/packages`]: { packages: [made()], releases: [] },
    ...more,
  });
const mod = (change: Partial<WorkshopMod> = {}): WorkshopMod => ({
  name: 'hall',
  visibility: 'code',
  organisation: 'keeper',
  current: '1.2.0',
  deletedAt: null,
  versions: [
    { version: '1.2.0', shareCode: 'AAAA-BBBB', notes: '', publishedAt: '2026-01-02', bytes: 10, downloads: 3, withdrawnFor: '' },
    { version: '1.1.0', shareCode: 'CCCC-DDDD', notes: '', publishedAt: '2026-01-01', bytes: 10, downloads: 1, withdrawnFor: '' },
  ],
  tests: [],
  ...change,
});

describe('publishing, step by step', () => {
  it('each step says how it stands, and leads to the next', async () => {
    const id = open({ packages: [made({ fresh: false })] });
    steps(id);
    renderIn(<PublishPage />);
    const nav = screen.getByRole('navigation', { name: 'Steps of publishing' });
    expect(within(nav).getByRole('button', { name: /Package.*of an older state/ })).toBeTruthy();
    expect(within(nav).getByRole('button', { name: /Upload.*not sent/ })).toBeTruthy();
    await userEvent.click(button(/Next: Check/));
    expect(screen.getByText('Before it goes out')).toBeTruthy();
    expect(screen.getByText('Map, archive and package agree').closest('li')!.dataset.state).toBe('met');
    expect(screen.getByText('Everybody is credited, and may be').closest('li')!.dataset.state).toBe('warning');
  });

  it('only a fresh package is sent, with the notes that were drafted, and an upload that broke off is gone on with', async () => {
    const stale = open({ packages: [made({ fresh: false })] });
    steps(stale);
    renderIn(<PublishPage />, '/?step=upload');
    expect((await screen.findByRole<HTMLButtonElement>('button', { name: 'Publish 1.2.0' })).disabled).toBe(true);
    cleanup();
    const id = open({ packages: [made()] });
    const broken = {
      id: 'u1',
      packageId: 'p1',
      notes: '',
      visibility: 'code',
      bytes: 100,
      sent: 40,
      state: 'failed',
      problem: 'The connection broke off. Try again.',
      createdAt: '',
    };
    let upload: object[] = [];
    const sent = steps(id, {
      [`GET /api/crates/${id}/uploads`]: () => upload,
      [`POST /api/crates/${id}/publish`]: () => ((upload = [broken]), broken),
      'POST /api/uploads/u1/resume': () => ((upload = [{ ...broken, state: 'running', problem: null }]), broken),
    });
    renderIn(<PublishPage />, '/?step=upload');
    await userEvent.type(await screen.findByDisplayValue(/barrel/), ' and more');
    await userEvent.click(button('Publish 1.2.0'));
    expect((await screen.findByRole('alert')).textContent).toContain('broke off');
    expect(sent.find(({ path }) => path.endsWith('/publish'))!.body).toEqual({
      packageId: 'p1',
      notes: '- Map hall: 1 object added: barrel and more',
      visibility: 'code',
    });
    await userEvent.click(button('Go on'));
    expect(await screen.findByText(/on its way/, { selector: '.upload *' })).toBeTruthy();
  });

  it('what is published has a share code that can be copied', async () => {
    const release = { shareCode: 'ABCD-EFGH', packageId: 'p1', version: '1.2.0', workshop: 'x', publishedAt: '2026-01-02T03:04:05.000Z' };
    const id = open({ packages: [made()], releases: [release] });
    steps(id);
    renderIn(<PublishPage />, '/?step=upload');
    expect((await screen.findByText('ABCD-EFGH')).closest('span')).toBeTruthy();
    expect(button('Published').disabled).toBe(true);
  });

  it('listing says what is missing; other versions are given out or withdrawn with a reason', async () => {
    const id = open();
    const sent = steps(id, {
      [`GET /api/crates/${id}/workshop`]: {
        mod: mod(),
        conditions: [{ id: 'tested', met: false, text: 'Somebody else has tested it.' }],
        statistics: { perDay: [], used: [{ version: '1.1.0', count: 7 }] },
      },
      [`POST /api/crates/${id}/workshop/visibility`]: new Refusal(409, 'It cannot be listed yet: Somebody else has tested it.'),
      [`POST /api/crates/${id}/workshop/rollback`]: { mod: mod({ current: '1.1.0' }) },
      [`POST /api/crates/${id}/workshop/withdraw`]: { mod: mod() },
    });
    renderIn(<PublishPage />, '/?step=list');
    expect((await screen.findByText(/not met: Somebody else/)).dataset.met).toBe('false');
    await userEvent.click(button(/Listed: everybody/));
    expect((await screen.findByRole('alert')).textContent).toContain('cannot be listed yet');
    await userEvent.click(button('Give this one out'));
    await userEvent.click(screen.getAllByRole('button', { name: 'Withdraw …' })[0]);
    expect(button('Withdraw it').disabled).toBe(true);
    await userEvent.type(screen.getByLabelText(/Why 1.2.0 is withdrawn/), 'it floods{Enter}');
    expect(sent.filter(({ path }) => path.includes('/workshop/')).map(({ body }) => body)).toEqual([
      { visibility: 'listed' },
      { version: '1.1.0' },
      { version: '1.2.0', reason: 'it floods' },
    ]);
  });

  it('two packages are compared in words, on the plan and by files', async () => {
    const id = open({ packages: [made(), made({ id: 'p0', createdAt: '2026-01-01T03:04:05.000Z' })] });
    const { hall } = testWorld().crate.maps;
    const after = applyEdit(hall, { name: 'x', changes: [{ of: 'objects', id: 'o77', to: newObject(testProfile(), 'prop', 'barrel', [0, 0, 0]) }] });
    const [was, is] = [hall, after].map((map) => ({ ...testWorld().crate, maps: { hall: map } }));
    steps(id, {
      [`GET /api/crates/${id}/compare`]: {
        files: [{ path: 'maps/hall/map.json', before: 100, after: 2148, changed: true }],
        changes: changesBetween(was, is),
        before: was.maps,
        after: is.maps,
      },
    });
    renderIn(<PublishPage />, '/?step=package');
    const region = await screen.findByRole('region', { name: 'Comparison of two packages' });
    expect(await within(region).findByText(/1 object added: barrel/)).toBeTruthy();
    expect(within(region).getByRole('img', { name: 'Plan of hall: 1 added, 0 removed, 0 changed' })).toBeTruthy();
    expect(within(region).getByRole('row', { name: /changed.*map\.json.*\+2\.0 KiB/ })).toBeTruthy();
  });
});

describe('testing as a player', () => {
  it('installs by share code, and says where and how many files were verified', async () => {
    open({ releases: [{ shareCode: 'ABCD-EFGH', packageId: 'p1', version: '1.2.0', workshop: 'x', publishedAt: '2026-01-02T03:04:05.000Z' }] });
    const sent = serve({
      'POST /api/games/brinewick/mods/install': [{ name: 'hall', title: 'Hall', version: '1.2.0', folder: '/mods/hall', verified: 12, fetched: 1 }],
    });
    renderIn(<PlayerStep workshop={null} />);
    await userEvent.click(button('Install'));
    expect((await screen.findByRole('status')).textContent).toMatch(/\/mods\/hall; 12 files verified/);
    expect(sent.at(-1)!.body).toEqual({ shareCode: 'ABCD-EFGH' });
  });

  it('a package that was tampered with is refused with its file', async () => {
    open();
    serve({ 'POST /api/games/brinewick/mods/install': new Refusal(422, 'scripts/main.lua does not match its SHA-256.') });
    renderIn(<PlayerStep workshop={null} />);
    await userEvent.type(screen.getByLabelText('Install a release into the game'), 'ABCD-EFGH{Enter}');
    expect((await screen.findByRole('alert')).textContent).toContain('scripts/main.lua does not match');
  });
});
