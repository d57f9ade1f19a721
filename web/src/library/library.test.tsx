/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { DEFAULT_TEXTURE_OPTIONS } from '@violet-crate/core/asset/texture/options';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import type { Finding } from '@violet-crate/core/finding';
import { cube, solid, withChanges } from '@violet-crate/core/testing/maps';
import type { WatchState } from '../api/types.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { LibraryPage } from './LibraryPage.tsx';

afterEach(cleanup);
beforeEach(() => localStorage.clear());

const file = (path: string, bytes = 2048) => ({ path, bytes, sha256: 'ab'.repeat(32) });
const options = { ...DEFAULT_TEXTURE_OPTIONS, use: 'colour' };

/** A crate with three pictures, a script and subtitles; moss is of a material that a solid wears. */
function fill(world: CrateWorld): void {
  const { crate } = world;
  crate.files.push(file('textures/moss.ktx2'), file('textures/reed.ktx2', 4096), file('textures/silt.ktx2'), file('subtitles/horn.vtt', 90));
  for (const name of ['moss', 'reed', 'silt'])
    crate.manifest.assets[`textures/${name}.ktx2`] = {
      source: `sources/textures/${name}.png`,
      options,
      width: 512,
      height: 256,
      origin: { path: `banks/${name}.png`, sha256: 'cd'.repeat(32), ...(name === 'silt' ? { pack: 'Riverbed' } : {}) },
    };
  crate.manifest.materials.push({ name: 'moss', type: 'lit', colour: '#446633', unitsPerRepeat: 64, texture: 'textures/moss.ktx2' });
  crate.scripts['scripts/locks.lua'] = 'function open() end\n';
  crate.maps.hall = withChanges(crate.maps.hall, solid('s900', { faces: cube([900, 0, 0]).faces.map((face) => ({ ...face, material: 'moss' })) }));
}
const seam: Finding = {
  code: 'texture-seam',
  severity: 'warning',
  stage: 'assets',
  message: 'reed shows a seam.',
  place: { file: 'textures/reed.ktx2' },
};
const watch: WatchState = {
  folder: '/home/me/sources',
  automatic: false,
  stale: [{ asset: 'textures/silt.ktx2', file: 'banks/silt.png' }],
  fresh: [],
  problem: null,
};

function show(address = '/?file=scripts/locks.lua') {
  openWorld(fill, { findings: { 'textures/reed.ktx2': [seam] }, watch });
  renderIn(<LibraryPage />, address);
  return store.getState().crate.view!.id;
}
const user = () => userEvent.setup();
const cells = () => within(screen.getByTestId('library')).getAllByRole('button');
const names = () => cells().map((cell) => cell.querySelector('.name')!.textContent.trim());
const detail = () => within(screen.getByRole('complementary', { name: 'Details' }));

describe('the list of assets', () => {
  it('is narrowed down by words, kind, origin, use, findings and what is stale', async () => {
    show();
    expect(names()).toEqual(expect.arrayContaining(['moss.ktx2', 'reed.ktx2', 'locks.lua', 'horn.vtt', 'brick']));
    await user().type(screen.getByRole('searchbox'), 'riverbed');
    expect(names()).toEqual(['silt.ktx2']);
    await user().click(screen.getByRole('button', { name: 'Show all' }));
    await user().click(within(screen.getByRole('group', { name: 'Kind' })).getByRole('button', { name: /^Pictures/ }));
    expect(names()).toEqual(['moss.ktx2', 'reed.ktx2', 'silt.ktx2']);
    await user().selectOptions(screen.getByLabelText('Use'), 'used');
    expect(names()).toEqual(['moss.ktx2']);
    await user().click(screen.getByRole('button', { name: 'Show all' }));
    await user().click(screen.getByRole('button', { name: 'With findings' }));
    expect(names()).toEqual(['reed.ktx2']);
    await user().click(screen.getByRole('button', { name: 'With findings' }));
    await user().click(screen.getByRole('button', { name: 'Stale' }));
    expect(names()).toEqual(['silt.ktx2']);
    await user().selectOptions(screen.getByLabelText('Origin'), 'game');
    expect(screen.getByRole('heading', { name: 'Nothing matches' })).toBeTruthy();
  });

  it('shows as a list what it costs and who uses it, and remembers that', async () => {
    show();
    await user().click(screen.getByRole('button', { name: 'List' }));
    const row = cells().find((cell) => cell.textContent.includes('reed.ktx2'))!;
    expect(row.textContent).toMatch(/1.*unused.*4(\.0)? KiB/);
    cleanup();
    show();
    expect(screen.getByRole('button', { name: 'List' }).getAttribute('aria-pressed')).toBe('true');
  });

  it('arrows walk from one to the next', async () => {
    show('/?file=textures/moss.ktx2');
    await user().click(screen.getByRole('button', { name: /^Pictures/ }));
    const current = () => cells().findIndex((cell) => cell.getAttribute('aria-current') === 'true');
    act(() => cells()[0].focus());
    await user().keyboard('{ArrowRight}');
    expect(current()).toBe(1);
    await user().keyboard('{ArrowRight}{ArrowRight}');
    expect(current()).toBe(2);
    await user().keyboard('{ArrowLeft}');
    expect(current()).toBe(1);
  });

  it('several are chosen with Ctrl and removed together; undo brings them back', async () => {
    const id = show('/?file=textures/reed.ktx2');
    const sent = serve({ [`POST /api/crates/${id}/assets/remove`]: { undo: 'u7' }, [`GET /api/crates/${id}`]: store.getState().crate.view! });
    const own = user();
    await own.keyboard('{Control>}');
    await own.click(cells()[names().indexOf('silt.ktx2')]);
    await own.keyboard('{/Control}');
    expect(screen.getByText('2 chosen')).toBeTruthy();
    await own.click(screen.getByRole('button', { name: 'Remove them' }));
    expect(sent[0].body).toEqual({ entries: ['textures/reed.ktx2', 'textures/silt.ktx2'] });
    await own.click(await screen.findByRole('button', { name: 'Undo' }));
    expect(sent.find(({ path }) => path.endsWith('/crate-edits/u7/undo'))?.method).toBe('POST');
  });
});

describe('one asset', () => {
  it('says where it comes from and who uses it', () => {
    show('/?file=textures/moss.ktx2');
    expect(detail().getByText(/from banks\/moss\.png/)).toBeTruthy();
    expect(detail().getByText(/512 × 256 texels/)).toBeTruthy();
    expect(detail().getByRole('heading', { name: 'Used by 1 place' })).toBeTruthy();
  });

  it('shows its findings, and of what could not be imported why', () => {
    show('/?file=textures/reed.ktx2');
    expect(within(detail().getByRole('region', { name: 'Findings' })).getByText(/reed shows a seam/)).toBeTruthy();
    cleanup();
    show('/?file=textures/gone.ktx2');
    expect(detail().getByRole('heading', { name: 'textures/gone.ktx2 is not here' })).toBeTruthy();
    expect(detail().getByText('It may have been removed or renamed.')).toBeTruthy();
  });

  it('is renamed by its stem; a name that is taken is said', async () => {
    const id = show('/?file=textures/reed.ktx2');
    const sent = serve({ [`POST /api/crates/${id}/assets/rename`]: new Refusal(409, 'There is a texture moss already.') });
    await user().click(detail().getByRole('button', { name: 'Rename' }));
    const field = detail().getByLabelText<HTMLInputElement>('New name');
    expect(field.value).toBe('reed');
    await user().clear(field);
    await user().type(field, 'moss{Enter}');
    expect(sent[0].body).toEqual({ entry: 'textures/reed.ktx2', name: 'moss' });
    expect((await detail().findByRole('alert')).textContent).toContain('There is a texture moss already.');
    await user().type(field, '{Escape}');
    expect(detail().queryByLabelText('New name')).toBeNull();
  });

  it('is converted again with changed settings, alone or with its folder', async () => {
    const id = show('/?file=textures/reed.ktx2');
    const sent = serve({ [`POST /api/crates/${id}/assets/reconvert`]: {} });
    await user().click(detail().getByRole('button', { name: 'Convert again' }));
    expect(sent[0].body).toEqual({ path: 'textures/reed.ktx2', options });
    await user().click(detail().getByRole('button', { name: 'The same for all of its folder' }));
    expect(sent[1].body).toMatchObject({ folder: true });
  });

  it('a script leads to the editor and cannot be renamed here', () => {
    show();
    expect(detail().getByRole('button', { name: 'Open in the editor' })).toBeTruthy();
    expect(detail().queryByRole('button', { name: 'Rename' })).toBeNull();
    expect(detail().getByRole('button', { name: 'Remove' })).toBeTruthy();
  });

  it('subtitles are read, and a broken file is said', async () => {
    const vtt = 'WEBVTT\n\n00:01.000 --> 00:02.500\nThe horn of the ferry\n';
    globalThis.fetch = () => Promise.resolve(new Response(vtt));
    show('/?file=subtitles/horn.vtt');
    const row = await detail().findByRole('row', { name: /The horn of the ferry/ });
    expect(row.textContent).toContain('00:01.000');
    cleanup();
    globalThis.fetch = () => Promise.resolve(new Response('not subtitles'));
    show('/?file=subtitles/horn.vtt');
    expect((await detail().findByRole('alert')).textContent).toMatch(/WEBVTT/);
  });
});

describe('a watched folder', () => {
  it('offers what has changed, changes how it is followed, and is let go', async () => {
    const id = show();
    await user().click(screen.getByRole('button', { name: 'Watch a folder' }));
    const panel = within(screen.getByRole('region', { name: 'Watched folder' }));
    const sent = serve({
      [`PUT /api/crates/${id}/watch`]: (body: unknown) => ({ watch: { ...watch, ...(body as object) } }),
      [`POST /api/crates/${id}/watch/take`]: {},
      [`DELETE /api/crates/${id}/watch`]: {},
    });
    await user().click(panel.getByRole('button', { name: /Import 1 changed file again/ }));
    expect(sent[0]).toMatchObject({ method: 'POST', body: { fresh: false } });
    expect(panel.getByRole<HTMLButtonElement>('button', { name: /Import 0 new files/ }).disabled).toBe(true);
    await user().click(panel.getByRole('checkbox', { name: 'Import changed files again at once' }));
    expect(sent[1].body).toEqual({ folder: '/home/me/sources', automatic: true });
    expect((await panel.findByRole<HTMLInputElement>('checkbox', { name: /at once/ })).checked).toBe(true);
    await user().click(panel.getByRole('button', { name: 'Stop watching' }));
    expect(await panel.findByText(/Sources that change there are marked as stale/)).toBeTruthy();
  });

  it('a folder that cannot be watched is said', async () => {
    const id = show();
    await user().click(screen.getByRole('button', { name: 'Watch a folder' }));
    serve({ [`PUT /api/crates/${id}/watch`]: new Refusal(422, 'There is no folder /nowhere.') });
    const field = screen.getByLabelText('Folder on this machine');
    await user().clear(field);
    await user().type(field, '/nowhere{Enter}');
    expect((await screen.findByRole('alert')).textContent).toContain('There is no folder /nowhere.');
  });
});

describe('importing', () => {
  it('sends the chosen files, and says why they were refused', async () => {
    const id = show();
    const sent = serve({ [`POST /api/crates/${id}/assets`]: new Refusal(413, 'Together they are larger than 512 MiB.') });
    await user().upload(screen.getByLabelText('Choose files to convert'), new File(['x'], 'reed.png', { type: 'image/png' }));
    expect((await screen.findByRole('alert')).textContent).toContain('Together they are larger than 512 MiB.');
    expect(sent.map(({ method, path }) => `${method} ${path}`)).toEqual([`POST /api/crates/${id}/assets`]);
  });
});
