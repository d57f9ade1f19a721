/** Crates on the shelf, the games' own maps, profiles and preferences, all through the API. */

import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Profile } from '@violet-crate/core/profile/schema';
import { startApplication, type TestApplication } from '../testing.ts';
import type { ShelfEntry } from './shelf.service.ts';

let server: TestApplication;
beforeAll(async () => (server = await startApplication()));
afterAll(() => server.close());

const shelf = async () => (await server.get('/api/crates')).body as ShelfEntry[];
const entry = async (id: string) => (await shelf()).find((one) => one.id === id)!;

describe('the shelf', () => {
  it('copies, renames and puts away, and knows how far a crate has come', async () => {
    const id = await server.newCrate('shelved');
    expect((await entry(id)).stages).toEqual({ findings: 0, build: 'none', release: 'none' });
    await server.build(id, 'shelved');
    expect((await entry(id)).stages.build).toBe('fresh');
    await server.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- other\n' });
    expect((await entry(id)).stages.build).toBe('stale');
    const copy = (await server.send('post', `/api/crates/${id}/copy`, { name: 'shelved_2', title: 'Copy' })).body as { id: string; maps: string[] };
    expect(copy.maps).toEqual(['shelved']);
    expect((await server.get(`/api/crates/${copy.id}/files/scripts/main.lua`)).text).toBe('-- other\n');
    expect((await server.send('put', `/api/crates/${copy.id}/name`, { name: 'shelved', title: 'x' })).body).toMatchObject({
      status: 422,
      code: 'crate-name',
    });
    await server.send('put', `/api/crates/${copy.id}/name`, { name: 'renamed', title: 'Renamed' });
    expect((await entry(copy.id)).manifest).toMatchObject({ name: 'renamed', title: 'Renamed' });
    await server.send('put', `/api/crates/${copy.id}/archived`, { archived: true });
    expect((await entry(copy.id)).archived).toBe(true);
  });

  it('a deleted crate is gone everywhere, its name is free, and it is had back under another', async () => {
    const id = await server.newCrate('lost');
    expect((await server.send('delete', `/api/crates/${id}`)).status).toBe(204);
    expect((await server.get(`/api/crates/${id}`)).status).toBe(404);
    expect((await entry(id)).deletedAt).not.toBeNull();
    await server.newCrate('lost');
    expect((await server.send('post', `/api/crates/deleted/${id}/restore`)).body).toMatchObject({ id, manifest: { name: 'lost_2' } });
    expect((await server.get(`/api/crates/${id}/maps/lost`)).status).toBe(200);
    expect((await server.send('post', `/api/crates/deleted/${id}/restore`)).status).toBe(404);
    expect((await server.send('delete', `/api/crates/deleted/${id}`)).status).toBe(404);
    await server.send('delete', `/api/crates/${id}`);
    expect((await server.send('delete', `/api/crates/deleted/${id}`)).status).toBe(204);
    expect(await entry(id)).toBeUndefined();
  });

  it('a crate begins with a copy of one of the game’s own maps', async () => {
    const answer = await server.send('post', '/api/crates', {
      profile: 'brinewick',
      name: 'from_stock',
      title: 'From stock',
      template: 'stock:bell_stair',
    });
    const { id, maps } = answer.body as { id: string; maps: string[] };
    expect(maps).toEqual(['from_stock']);
    const { map } = (await server.get(`/api/crates/${id}/maps/from_stock`)).body as { map: GameMap };
    expect(Object.keys(map.solids).length).toBeGreaterThan(15);
    const wrong = { profile: 'brinewick', name: 'none', title: 'None', template: 'stock:nowhere' };
    expect((await server.send('post', '/api/crates', wrong)).body).toMatchObject({ status: 422, code: 'stock-map' });
  });
});

describe('profiles', () => {
  const text = async (id: string) => JSON.parse((await server.get(`/api/profiles/${id}`)).text) as Profile;

  it('are copied, changed with a word on what it means, and crates stay with what they were made with', async () => {
    expect((await server.send('post', '/api/profiles/brinewick/copy', { id: 'marsh', title: 'Marsh' })).status).toBe(201);
    expect((await server.send('post', '/api/profiles/brinewick/copy', { id: 'marsh', title: 'Marsh' })).body).toMatchObject({ status: 409 });
    expect((await server.send('put', '/api/profiles/brinewick', { text: JSON.stringify(await text('brinewick')) })).body).toMatchObject({
      status: 409,
      code: 'profile-shipped',
    });
    const { id } = (await server.send('post', '/api/crates', { profile: 'marsh', name: 'bog', title: 'Bog', template: 'sealed-room' })).body as {
      id: string;
    };
    const next = await text('marsh');
    next.classes = next.classes.filter((one) => one.id !== 'lamp');
    const changed = { text: JSON.stringify(next) };
    const told = (await server.send('post', '/api/profiles/marsh/changes', changed)).body as {
      differences: string[];
      crates: { trouble: string[] }[];
    };
    expect(told.differences).toEqual(['Classes gone: lamp']);
    expect(told.crates).toEqual([{ id, title: 'Bog', trouble: ['bog: 1 of class lamp, which is gone'] }]);
    expect((await server.send('put', '/api/profiles/marsh', changed)).status).toBe(200);
    const game = async () => (await server.get(`/api/crates/${id}/game`)).body as { profile: Profile; newer: { trouble: string[] } | null };
    expect((await game()).profile.classes.some((one) => one.id === 'lamp')).toBe(true);
    expect((await game()).newer!.trouble).toEqual(['bog: 1 of class lamp, which is gone']);
    await server.send('post', `/api/crates/${id}/profile`);
    expect((await game()).profile.classes.some((one) => one.id === 'lamp')).toBe(false);
    expect((await game()).newer).toBeNull();
    expect((await server.send('delete', '/api/profiles/marsh')).body).toMatchObject({ status: 409, code: 'profile-used' });
  });

  it('that cannot be read are refused with the line, and their programs run only once they are allowed', async () => {
    expect((await server.send('post', '/api/profiles', { text: '{\n  "format": 1,\n' })).body).toMatchObject({
      status: 422,
      detail: expect.stringMatching(/line 3/),
    });
    const own = { ...(await text('brinewick')), id: 'strange', title: 'Strange' };
    own.programs![1].program = 'some-program';
    expect((await server.send('post', '/api/profiles', { text: JSON.stringify(own) })).status).toBe(201);
    const programs = (await server.get('/api/games/strange/programs')).body as { hash: string; allowed: boolean; commands: { line: string[] }[] };
    expect(programs.allowed).toBe(false);
    expect(programs.commands.some(({ line }) => line[0] === 'some-program')).toBe(true);
    const { id } = (await server.send('post', '/api/crates', { profile: 'strange', name: 'odd', title: 'Odd', template: 'sealed-room' })).body as {
      id: string;
    };
    expect((await server.send('post', `/api/crates/${id}/builds`, { map: 'odd', quality: 'draft' })).body).toMatchObject({
      status: 403,
      code: 'programs-unread',
    });
    expect((await server.send('post', '/api/games/strange/programs', { hash: 'a'.repeat(64) })).body).toMatchObject({
      status: 409,
      code: 'consent-changed',
    });
    expect((await server.send('post', '/api/games/strange/programs', { hash: programs.hash })).body).toMatchObject({ allowed: true });
    own.programs![1].arguments.push('--more');
    await server.send('put', '/api/profiles/strange', { text: JSON.stringify(own) });
    expect((await server.get('/api/games/strange/programs')).body).toMatchObject({ allowed: false });
  });

  it('name converters for files that nothing else reads: what they write comes in instead', async () => {
    const own = { ...(await text('brinewick')), id: 'converting', title: 'Converting' };
    const code = `const fs = require('fs'), [, given, out] = process.argv; const text = fs.readFileSync(given, 'utf8');
      if (!text.startsWith('wedge')) { console.log('error: no wedge'); process.exit(1); }
      console.log('note: the edge is blunt');
      fs.writeFileSync(out, 'v 0 0 0\\nv 1 0 0\\nv 0 1 0\\nv 0 0 1\\nf 1 3 2\\nf 1 2 4\\nf 2 3 4\\nf 1 4 3\\n');`;
    own.programs = [
      {
        id: 'wedges',
        title: 'Wedges',
        at: 'import',
        endings: ['wdg'],
        program: process.execPath,
        arguments: ['-e', code, '{in}/{file}', '{out}/{name}.obj'],
        seconds: 20,
        memory: 1024,
        outputs: [{ path: '{name}.obj', maxBytes: 1000 }],
        log: [
          { line: 'error: {message}', severity: 'blocker' },
          { line: 'note: {message}', severity: 'warning' },
        ],
      },
    ];
    own.preparation = [];
    expect((await server.send('post', '/api/profiles', { text: JSON.stringify(own) })).status).toBe(201);
    const { id } = (await server.send('post', '/api/crates', { profile: 'converting', name: 'wedged', title: 'Wedged', template: 'sealed-room' }))
      .body as { id: string };
    const take = async (files: Record<string, string>) => {
      const { jobs } = (await server.upload(`/api/crates/${id}/assets`, files)).body as { jobs: { id: string }[] };
      return server.ended(jobs[0]);
    };
    expect((await server.upload(`/api/crates/${id}/assets`, { 'roof.wdg': 'wedge' })).body).toMatchObject({ status: 403, code: 'programs-unread' });
    const { hash } = (await server.get('/api/games/converting/programs')).body as { hash: string };
    await server.send('post', '/api/games/converting/programs', { hash });
    const { result } = await take({ 'roof.wdg': 'wedge', 'bad.wdg': 'other' });
    expect(result!.files).toEqual([
      expect.objectContaining({ file: 'roof.obj', state: 'done', path: 'models/roof.glb' }),
      expect.objectContaining({ file: 'bad.wdg', state: 'skipped', reason: 'Wedges: no wedge.' }),
    ]);
    const { files } = (await server.get(`/api/crates/${id}`)).body as { files: { path: string; findings: object[] }[] };
    expect(files.find(({ path }) => path === 'models/roof.glb')!.findings).toContainEqual(
      expect.objectContaining({
        severity: 'warning',
        message: expect.stringContaining('the edge is blunt'),
        place: { file: 'models/roof.glb' },
      }),
    );
  });

  it('are tried against a folder without being kept, and a damaged file is told', async () => {
    const answer = await server.send('post', '/api/profiles/try', {
      text: JSON.stringify(await text('brinewick')),
      folder: join(server.config.games, 'brinewick'),
    });
    const { checks } = answer.body as { checks: { ok: boolean }[] };
    expect(checks.every(({ ok }) => ok)).toBe(true);
    writeFileSync(join(server.config.data, 'profiles/broken.json'), '{');
    await server.send('post', '/api/profiles/skarrow/copy', { id: 'other_ridge', title: 'Other' });
    expect((await server.get('/api/profiles')).body).toMatchObject({ damaged: [{ file: 'broken.json' }] });
    expect((await server.send('delete', '/api/profiles/other_ridge')).status).toBe(204);
    expect(existsSync(join(server.config.data, 'profiles/other_ridge.json'))).toBe(false);
  });
});

describe('installs', () => {
  it('are chosen by folder; one of another game, or none, is refused with what to do', async () => {
    const own = (await server.get('/api/games')).body as { profile: Profile; installs: { id: string; folder: string; version: string }[] }[];
    expect(own.find(({ profile }) => profile.id === 'brinewick')!.installs).toEqual([
      expect.objectContaining({ version: '2.4.1', how: 'in the games folder' }),
    ]);
    expect((await server.send('post', '/api/games/brinewick/installs', { folder: join(server.config.games, 'skarrow') })).body).toMatchObject({
      detail: expect.stringMatching(/holds Skarrow, not Brinewick/),
    });
    expect((await server.send('post', '/api/games/brinewick/installs', { folder: '/' })).body).toMatchObject({
      detail: expect.stringMatching(/does not hold Brinewick/),
    });
    const [{ installs }] = own.filter(({ profile }) => profile.id === 'brinewick');
    expect((await server.send('delete', `/api/games/brinewick/installs/${installs[0].id}`)).body).toMatchObject({
      status: 409,
      code: 'install-found',
    });
  });

  it('steps are ticked and done, and the game is started only when it is prepared', async () => {
    const steps = async () =>
      ((await server.get('/api/games/brinewick/preparation')).body as { step: { id: string }; done: boolean }[])
        .filter(({ done }) => done)
        .map(({ step }) => step.id);
    expect(await steps()).toEqual(['first_start', 'allow_mods']);
    await server.send('put', '/api/games/brinewick/preparation/read_terms', { done: true });
    expect(await steps()).toContain('read_terms');
    expect((await server.send('put', '/api/games/brinewick/preparation/allow_mods', { done: true })).body).toMatchObject({
      status: 422,
      code: 'step-by-rule',
    });
    const settings = join(server.config.games, 'brinewick/settings.ini');
    writeFileSync(settings, 'allow_mods = no\n');
    const id = await server.newCrate('unprepared');
    await server.build(id, 'unprepared');
    expect((await server.send('post', `/api/crates/${id}/launch`, { map: 'unprepared' })).body).toMatchObject({ status: 409, code: 'not-prepared' });
    expect((await server.send('post', '/api/games/brinewick/preparation/allow_mods')).body).toMatchObject({
      done: expect.stringMatching(/Set allow_mods to yes/),
    });
    expect(await steps()).toContain('allow_mods');
    const report = (await server.get('/api/games/brinewick/report')).text;
    expect(report).toContain('ok     Game found: Brinewick 2.4.1 in [game]');
    expect(report).not.toContain(server.config.data);
    expect((await server.get('/api/games/brinewick/report?paths=yes')).text).toContain(server.config.games);
  });
});

describe('a crate whose game is gone', () => {
  it('opens all the same, and its set-up says so', async () => {
    const { id } = (await server.send('post', '/api/crates', { profile: 'skarrow', name: 'orphan', title: 'Orphan', template: 'open-field' }))
      .body as { id: string };
    rmSync(join(server.config.games, 'skarrow'), { recursive: true });
    const { install } = (await server.get(`/api/crates/${id}`)).body as { install: string };
    for (const what of ['checks', 'pack', 'preparation'])
      expect([what, (await server.get(`/api/games/skarrow/${what}?install=${install}`)).status]).toEqual([what, 200]);
    const checks = (await server.get(`/api/games/skarrow/checks?install=${install}`)).body as { id: string; ok: boolean }[];
    expect(checks.find((check) => check.id === 'game')!.ok).toBe(false);
    expect((await server.get(`/api/crates/${id}/game`)).body).toMatchObject({ install: { version: null }, change: null });
    expect((await server.get('/api/games/skarrow/checks?install=0123456789')).status).toBe(404);
  });
});

describe('preferences', () => {
  it('are kept, and what cannot be is named', async () => {
    const sent = { values: { theme: 'light', textSize: 'large' }, keys: { 'tool-room': 'Ctrl+R' } };
    expect((await server.send('put', '/api/preferences', sent)).body).toMatchObject({
      values: { theme: 'light', textSize: 100 },
      left: ['textSize'],
    });
    expect((await server.get('/api/preferences')).body).toMatchObject({ values: { theme: 'light' }, keys: { 'tool-room': 'Ctrl+R' } });
    expect((await server.send('put', '/api/preferences', {})).status).toBe(400);
  });
});
