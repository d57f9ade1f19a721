/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { testProfile, testWorld } from '@violet-crate/core/testing/world';
import { renderIn } from '../testing/render.tsx';
import type { CrateEntry } from '../api/types.ts';
import { Refusal, serve } from '../testing/server.ts';
import { HomePage } from './HomePage.tsx';

afterEach(cleanup);

const game = { profile: testProfile(), folder: '/games/brinewick', version: '2.4.1', installs: [] };
const absent = { profile: testProfile('skarrow'), folder: '/games/skarrow', version: null, installs: [] };
const crate: CrateEntry = {
  id: 'c1',
  manifest: testWorld().crate.manifest,
  updatedAt: '2026-01-02T03:04:05.000Z',
  picture: null,
  bytes: 2048,
  archived: false,
  deletedAt: null,
  damaged: 0,
  stages: { findings: 0, build: 'stale', release: 'none' },
};
const other: CrateEntry = {
  ...crate,
  id: 'c2',
  manifest: { ...crate.manifest, name: 'cellar', title: 'Cellar' },
  bytes: 9000,
  updatedAt: '2026-02-02T03:04:05.000Z',
};
const fine = { id: 'base', title: 'Base pack complete', ok: true, severity: 'blocker', detail: '44 files' };
const broken = { ...fine, ok: false, detail: '1 file differs', fix: { action: 'base', label: 'Fetch it again' } };
const always = {
  'GET /api/games': [game, absent],
  'GET /api/games/brinewick/checks': [fine],
  'GET /api/crates': [crate],
  'GET /api/depot/games/skarrow': { offers: [], findings: [] },
};

describe('the first page', () => {
  it('lists crates with their game, and games with what was found', async () => {
    serve(always);
    renderIn(<HomePage />);
    expect(screen.getByRole('status').textContent).toContain('Looking for crates');
    const card = await screen.findByRole('link', { name: /Hall/ });
    expect(card.getAttribute('href')).toBe('/crates/c1/map');
    expect(card.textContent).toContain('for Brinewick');
    expect(screen.getByText('ready')).toBeTruthy();
    expect(screen.getByRole('region', { name: 'Skarrow' }).textContent).toMatch(/was not found.*\/games\/skarrow/);
    expect(card.parentElement!.textContent).toMatch(/build stale.*no package/);
  });

  it('a damaged file is told, and a picture that does not come is not shown broken', async () => {
    serve({ ...always, 'GET /api/crates': [{ ...crate, damaged: 2, picture: '/api/crates/c1/files/picture.png' }] });
    const { container } = renderIn(<HomePage />);
    const card = await screen.findByRole('link', { name: /Hall/ });
    expect(card.parentElement!.textContent).toContain('2 files damaged');
    const picture = () => container.querySelector('.crate-picture');
    expect(picture()).not.toBeNull();
    fireEvent.error(picture()!);
    expect(picture()).toBeNull();
  });

  it('says what to do when there is none yet', async () => {
    serve({ ...always, 'GET /api/crates': [] });
    renderIn(<HomePage />);
    await screen.findByRole('heading', { name: 'No crates yet' });
  });

  it('a server that is away is told, and asked again', async () => {
    let away = true;
    serve({ ...always, 'GET /api/crates': () => (away ? new Refusal(503, 'The server is starting.') : [crate]) });
    renderIn(<HomePage />);
    expect((await screen.findByRole('alert')).textContent).toContain('The server is starting.');
    away = false;
    await userEvent.click(screen.getByRole('button', { name: /again/ }));
    await screen.findByRole('link', { name: /Hall/ });
    expect(screen.queryByRole('alert')).toBeNull();
  });

  it('what is broken in an install is repaired from here', async () => {
    const sent = serve({
      ...always,
      'GET /api/games/brinewick/checks': [broken],
      'POST /api/games/brinewick/repairs': { done: 'Fetched 1 file.', checks: [fine] },
    });
    renderIn(<HomePage />);
    await screen.findByText('needs attention');
    await userEvent.click(screen.getByRole('button', { name: 'Fetch it again' }));
    await screen.findByText('ready');
    expect(screen.getByText('Fetched 1 file.')).toBeTruthy();
    expect(sent.find(({ method }) => method === 'POST')!.body).toEqual({ action: 'base' });
  });

  it('a repair that fails says why, and the check stands', async () => {
    serve({
      ...always,
      'GET /api/games/brinewick/checks': [broken],
      'POST /api/games/brinewick/repairs': new Refusal(500, 'The folder cannot be written to.'),
    });
    renderIn(<HomePage />);
    await userEvent.click(await screen.findByRole('button', { name: 'Fetch it again' }));
    await screen.findByText('The folder cannot be written to.');
    expect(screen.getByText('needs attention')).toBeTruthy();
  });

  it('a new crate: names are proposed, wrong ones explained, files shown before anything is made', async () => {
    const sent = serve({ ...always, 'POST /api/crates/plan': { files: ['crate.json', 'maps/tide.map.json'] }, 'POST /api/crates': { id: 'c2' } });
    renderIn(<HomePage />);
    await userEvent.click(await screen.findByRole('button', { name: 'New crate' }));
    const dialog = within(await screen.findByRole('dialog'));
    const make = () => dialog.getByRole<HTMLButtonElement>('button', { name: 'Make the crate' });
    expect(make().disabled).toBe(true);
    await userEvent.type(dialog.getByLabelText('Title'), 'Low Tide');
    const name = dialog.getByLabelText<HTMLInputElement>('Short name');
    expect(name.value).toBe('low_tide');
    await userEvent.clear(name);
    await userEvent.type(name, 'hall');
    expect(make().disabled).toBe(true);
    await userEvent.clear(name);
    await userEvent.type(name, 'tide');
    await dialog.findByText('maps/tide.map.json');
    expect(sent.filter(({ path }) => path === '/api/crates').every(({ method }) => method === 'GET')).toBe(true);
    await userEvent.click(make());
    expect(sent.at(-1)).toMatchObject({
      method: 'POST',
      path: '/api/crates',
      body: { profile: 'brinewick', name: 'tide', title: 'Low Tide', template: 'sealed-room' },
    });
  });

  it('crates are searched and sorted', async () => {
    serve({ ...always, 'GET /api/crates': [crate, other] });
    renderIn(<HomePage />);
    await screen.findByRole('link', { name: /Cellar/ });
    const titles = () => screen.getAllByRole('link', { name: /for Brinewick/ }).map((link) => link.querySelector('h2')!.textContent);
    expect(titles()).toEqual(['Cellar', crate.manifest.title]);
    await userEvent.selectOptions(screen.getByRole('combobox', { name: /Order/ }), 'size');
    expect(titles()).toEqual(['Cellar', crate.manifest.title]);
    await userEvent.type(screen.getByRole('searchbox', { name: /Search/ }), 'hall');
    expect(titles()).toEqual([crate.manifest.title]);
    await userEvent.type(screen.getByRole('searchbox', { name: /Search/ }), ' nothing');
    expect(screen.getByText(/No crate has all of these words/)).toBeTruthy();
  });

  it('a crate is copied, renamed, put away, deleted and had back', async () => {
    const deleted = { ...other, deletedAt: '2026-03-01T00:00:00.000Z' };
    const sent = serve({ ...always, 'GET /api/crates': [crate, deleted] });
    renderIn(<HomePage />);
    await screen.findByRole('link', { name: /Hall/ });
    const choose = async (what: string) => {
      await userEvent.click(screen.getByRole('button', { name: /More for/ }));
      await userEvent.click(await screen.findByText(what));
    };
    await choose('Copy …');
    const dialog = within(screen.getByRole('dialog'));
    await userEvent.clear(dialog.getByLabelText('Short name'));
    await userEvent.type(dialog.getByLabelText('Short name'), 'No Name');
    expect(dialog.getByRole('alert').textContent).toBeTruthy();
    await userEvent.clear(dialog.getByLabelText('Short name'));
    await userEvent.type(dialog.getByLabelText('Short name'), 'hall_night');
    await userEvent.click(dialog.getByRole('button', { name: 'Make the copy' }));
    await choose('Put away');
    await choose('Delete');
    await userEvent.click(screen.getByRole('button', { name: /Have it back/ }));
    expect(sent.filter(({ method }) => method !== 'GET').map(({ method, path, body }) => [method, path, body])).toEqual([
      ['POST', '/api/crates/c1/copy', { name: 'hall_night', title: `${crate.manifest.title} 2` }],
      ['PUT', '/api/crates/c1/archived', { archived: true }],
      ['DELETE', '/api/crates/c1', undefined],
      ['POST', '/api/crates/deleted/c2/restore', {}],
    ]);
  });
});
