/** Folders, profiles and packs of somebody else: nothing of them runs, writes or reads anything until the user has said so, having seen what. */

import { execFileSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, realpathSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { FolderView } from './bound/folderView.ts';
import { startApplication, type TestApplication } from './testing.ts';
import type { VersionsView } from './versions/versions.service.ts';

let server: TestApplication;
let own: string;
beforeAll(async () => {
  server = await startApplication();
  own = realpathSync(mkdtempSync(join(tmpdir(), 'violet-strangers-')));
});
afterAll(() => server.close());

const file = (path: string, text: string): string => {
  mkdirSync(dirname(join(own, path)), { recursive: true });
  writeFileSync(join(own, path), text);
  return join(own, path);
};
/** A program that says that it ran. */
const trap = (name: string): [program: string, ran: () => boolean] => {
  const ran = join(own, `${name}.ran`);
  const program = file(`${name}.sh`, `#!/bin/sh\ntouch ${ran}\ncat\n`);
  chmodSync(program, 0o755);
  return [program, () => existsSync(ran)];
};

async function openedFolder(name: string): Promise<{ id: string; folder: string }> {
  const id = await server.newCrate(name);
  const folder = join(own, name);
  expect((await server.send('put', `/api/crates/${id}/folder`, { folder })).status).toBe(200);
  return { id, folder };
}

describe('a repository of somebody else', () => {
  it('runs nothing at a look, and nothing after it was trusted: monitors, filters, hooks, signing, drivers, textconv', async () => {
    const { id, folder } = await openedFolder('traps');
    const git = (...words: string[]) => execFileSync('git', words, { cwd: folder, encoding: 'utf8' });
    const at = `/api/crates/${id}/versions`;
    git('init', '--quiet');
    git('config', 'user.name', 'S');
    git('config', 'user.email', 's@example.org');
    git('add', '--all', '.');
    git('commit', '--quiet', '-m', 'first');
    const traps = Object.fromEntries(
      ['monitor', 'clean', 'gpg', 'hook', 'driver', 'conv', 'diff', 'pager', 'editor', 'helper'].map((name) => [name, trap(name)]),
    );
    const set = (key: string, name: string) => git('config', key, traps[name][0]);
    set('core.fsmonitor', 'monitor');
    set('filter.odd.clean', 'clean');
    set('filter.odd.smudge', 'clean');
    set('gpg.program', 'gpg');
    git('config', 'commit.gpgSign', 'true');
    set('merge.odd.driver', 'driver');
    set('diff.odd.textconv', 'conv');
    set('diff.external', 'diff');
    set('core.pager', 'pager');
    set('core.editor', 'editor');
    set('credential.helper', 'helper');
    for (const hook of [
      'pre-commit',
      'post-commit',
      'commit-msg',
      'prepare-commit-msg',
      'post-checkout',
      'post-merge',
      'post-index-change',
      'reference-transaction',
    ]) {
      symlinkSync(traps.hook[0], join(folder, '.git/hooks', hook));
    }
    writeFileSync(join(folder, '.gitattributes'), '*.lua diff=odd merge=odd\n*.map.json diff=odd\n');
    const view = (await server.get(at)).body as VersionsView;
    expect(view.repository).toBe(false);
    expect(view.untrusted!.settings).toEqual(
      expect.arrayContaining([`core.fsmonitor = ${traps.monitor[0]}`, `gpg.program = ${traps.gpg[0]}`, 'hook pre-commit', 'hook post-checkout']),
    );
    expect((await server.send('post', `${at}/commits`, { message: 'x' })).body).toMatchObject({ status: 403, code: 'git-untrusted' });
    expect((await server.send('post', `${at}/trust`, { hash: 'a'.repeat(64) })).body).toMatchObject({ status: 409, code: 'consent-changed' });
    const trusted = (await server.send('post', `${at}/trust`, { hash: view.untrusted!.hash })).body as VersionsView;
    expect(trusted).toMatchObject({ repository: true, untrusted: null });
    // Everything that the page does: commit, branch, another commit, a clash of both, and the merge of them.
    const script = (text: string) => writeFileSync(join(folder, 'scripts/main.lua'), text);
    const done = async (path: string, body: object) => {
      const answer = await server.send('post', at + path, body);
      expect([path, answer.status < 300 ? '' : (answer.body as { detail: string }).detail]).toEqual([path, '']);
    };
    script('-- one\n');
    await done('/commits', { message: 'one' });
    await done('/branch', { branch: 'night', fresh: true });
    script('-- two\n');
    await done('/commits', { message: 'two' });
    await done('/branch', { branch: trusted.branch, fresh: false });
    script('-- three\n');
    await done('/commits', { message: 'three' });
    await done('/merge', { branch: 'night' });
    const { conflicts } = (await server.get(at)).body as VersionsView;
    expect(conflicts.map(({ path }) => path)).toEqual(['scripts/main.lua']);
    await done('/settle', { path: 'scripts/main.lua', side: 'ours' });
    await done('/commits', { message: 'merged' });
    const log = (await server.get(`${at}/commits`)).body as { hash: string; message: string }[];
    expect(log.map(({ message }) => message)).toEqual(expect.arrayContaining(['merged', 'three', 'two', 'one', 'first']));
    await server.get(`${at}/commits/${log.at(-2)!.hash}`);
    await done('/restore', { hash: log.at(-1)!.hash, path: 'scripts/main.lua' });
    expect(Object.entries(traps).filter(([, [, ran]]) => ran())).toEqual([]);
    // Another hook is another question.
    file('traps/.git/hooks/update', '#!/bin/sh\n');
    expect(((await server.get(at)).body as VersionsView).untrusted!.settings).toContain('hook update');
  });

  it('whose files go through a filter, or which is elsewhere, is left to git itself', async () => {
    const { id, folder } = await openedFolder('filtered');
    const at = `/api/crates/${id}/versions`;
    execFileSync('git', ['init', '--quiet'], { cwd: folder });
    execFileSync('git', ['config', 'filter.odd.clean', trap('filtering')[0]], { cwd: folder });
    writeFileSync(join(folder, '.gitattributes'), '*.lua filter=odd\n');
    const { untrusted } = (await server.get(at)).body as VersionsView;
    await server.send('post', `${at}/trust`, { hash: untrusted!.hash });
    expect((await server.send('post', `${at}/commits`, { message: 'x' })).body).toMatchObject({
      code: 'git-filter',
      detail: expect.stringMatching(/main\.lua goes through the filter "odd"/),
    });
    execFileSync('git', ['config', 'core.worktree', '/etc'], { cwd: folder });
    expect(((await server.get(at)).body as VersionsView).problem).toMatch(/files are in another folder/);
    const other = await openedFolder('elsewhere');
    writeFileSync(join(other.folder, '.git'), `gitdir: ${join(folder, '.git')}\n`);
    expect(((await server.get(`/api/crates/${other.id}/versions`)).body as VersionsView).problem).toMatch(/in another folder than the crate/);
  });
});

describe('links in a linked folder', () => {
  it('are neither read nor written through, and what is behind them is not taken for gone', async () => {
    const { id, folder } = await openedFolder('linked');
    const outside = file('outside/main.lua', '-- somebody else’s\n');
    const before = ((await server.get(`/api/crates/${id}`)).body as { files: { path: string }[] }).files;
    rmSync(join(folder, 'scripts'), { recursive: true });
    symlinkSync(dirname(outside), join(folder, 'scripts'));
    symlinkSync('/etc/passwd', join(folder, 'notes.txt'));
    const look = async () => ((await server.send('post', `/api/crates/${id}/folder/look`, {})).body as { folder: FolderView }).folder;
    expect((await look()).refused.map(({ path }) => path).sort()).toEqual(['notes.txt', 'scripts']);
    await server.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- saved here\n' });
    await look();
    expect(readFileSync(outside, 'utf8')).toBe('-- somebody else’s\n');
    const { files } = (await server.get(`/api/crates/${id}`)).body as { files: { path: string }[] };
    expect(files.map(({ path }) => path)).toEqual(before.map(({ path }) => path));
    // Once the link is gone, what was changed here and is gone there is somebody's to settle.
    rmSync(join(folder, 'scripts'));
    expect((await look()).conflicts.map(({ path }) => path)).toEqual(['scripts/main.lua']);
  });
});

describe('a profile of somebody else', () => {
  const profile = async (id: string, change: (profile: Profile) => void) => {
    const own = { ...(JSON.parse((await server.get('/api/profiles/brinewick')).text) as Profile), id, title: id };
    change(own);
    return server.send('post', '/api/profiles', { text: JSON.stringify(own) });
  };

  it.each([
    ['a base pack above the install', (p: Profile) => void (p.install.basePack = '../../../../etc')],
    ['mods on another drive', (p: Profile) => void (p.install.mods = 'C:/Users')],
    ['a tool by a path from the root', (p: Profile) => void (p.install.tools[0].folder = '/etc')],
    ['a bank above', (p: Profile) => void (p.banks![0].file = 'a/../../b.bnk')],
    [
      'a setting in the user’s folder',
      (p: Profile) => void (p.preparation![1].done = { when: 'setting', file: '{home}/.profile', key: 'a', value: 'b' }),
    ],
    ['settings that start programs', (p: Profile) => void (p.install.settings = [{ path: '{home}/.config/autostart/x' }])],
    [
      'a setting in a program of the game',
      (p: Profile) => void (p.preparation![1].done = { when: 'setting', file: '{game}/bin/run.sh', key: 'a', value: 'b' }),
    ],
    ['a loader’s variable', (p: Profile) => void (p.programs![0].environment = { LD_PRELOAD: '/tmp/x.so' })],
    ['an interpreter’s variable', (p: Profile) => void (p.programs![0].environment = { Node_Options: '--require /tmp/x.js' })],
  ])('with %s is refused', async (_, change) => {
    const { body } = await profile('crooked', change);
    expect(body).toMatchObject({ status: 422 });
  });

  it('writes settings only where its user has read what is written and where', async () => {
    await profile('writing', (p) => {
      p.install.settings = [{ path: '{env:XDG_CONFIG_HOME}/writing' }];
      p.preparation![1].done = { when: 'setting', file: '{settings}/options.ini', key: 'mods', value: 'yes' };
    });
    const config = join(own, 'config');
    process.env.XDG_CONFIG_HOME = config;
    const options = join(config, 'writing/options.ini');
    const act = () => server.send('post', '/api/games/writing/preparation/allow_mods', {});
    expect((await act()).body).toMatchObject({ status: 403, code: 'places-unread' });
    expect(existsSync(options)).toBe(false);
    const places = (await server.get('/api/games/writing/places')).body as { hash: string; writes: object[]; allowed: boolean };
    expect(places).toMatchObject({ allowed: false, writes: [{ file: options, content: 'mods = yes' }] });
    await server.send('post', '/api/games/writing/places', { hash: places.hash });
    expect((await act()).status).toBe(201);
    expect(readFileSync(options, 'utf8')).toBe('mods = yes\n');
    rmSync(options);
    symlinkSync(file('profile', 'mine\n'), options);
    expect((await act()).body).toMatchObject({ status: 422, code: 'link-in-path' });
    expect(readFileSync(join(own, 'profile'), 'utf8')).toBe('mine\n');
  });

  it('runs programs only as they were read: with the very install, files, arguments, variables and folder', async () => {
    const make = (change: (p: Profile) => void) => (p: Profile) => {
      p.programs![0] = {
        ...p.programs![0],
        program: 'node',
        arguments: ['{game}/bin/brinewick.mjs'],
        folder: '{game}',
        environment: { BRINEWICK_MODE: 'a' },
      };
      change(p);
    };
    await profile(
      'runner',
      make(() => {}),
    );
    const game = join(server.config.games, 'brinewick');
    const install = join(own, 'runner_game');
    mkdirSync(join(install, 'bin'), { recursive: true });
    writeFileSync(join(install, 'version.json'), JSON.stringify({ game: 'runner', version: '1.0.0' }));
    writeFileSync(join(install, 'bin/brinewick.mjs'), readFileSync(join(game, 'bin/brinewick.mjs')));
    await server.send('post', '/api/games/runner/installs', { folder: install });
    const programs = async () =>
      (await server.get('/api/games/runner/programs')).body as {
        hash: string;
        allowed: boolean;
        commands: { line: string[]; folder: string; environment: object; files: { path: string; sha256: string }[] }[];
      };
    const shown = await programs();
    expect(shown.allowed).toBe(false);
    const shownCommand = shown.commands.find(({ environment }) => 'BRINEWICK_MODE' in environment)!;
    expect(shownCommand).toMatchObject({ folder: install, environment: { BRINEWICK_MODE: 'a' } });
    expect(shownCommand.line[0]).toMatch(/^\/.*node$/);
    expect(shownCommand.files.map(({ path }) => path)).toEqual([shownCommand.line[0], join(install, 'bin/brinewick.mjs')]);
    const allow = async () => server.send('post', '/api/games/runner/programs', { hash: (await programs()).hash });
    await allow();
    expect((await programs()).allowed).toBe(true);
    // The file itself.
    writeFileSync(join(install, 'bin/brinewick.mjs'), 'console.log(1)');
    expect((await programs()).allowed).toBe(false);
    await allow();
    for (const change of [
      (p: Profile) => void (p.programs![0].environment = { BRINEWICK_MODE: 'b' }),
      (p: Profile) => void (p.programs![0].folder = '{in}'),
      (p: Profile) => void p.programs![0].arguments.push('--more'),
    ]) {
      const text = { ...(JSON.parse((await server.get('/api/profiles/brinewick')).text) as Profile), id: 'runner', title: 'runner' };
      make(change)(text);
      await server.send('put', '/api/profiles/runner', { text: JSON.stringify(text) });
      expect((await programs()).allowed).toBe(false);
    }
    // Another install of the profile that ships, which somebody else has filled.
    const foreign = join(own, 'foreign');
    mkdirSync(foreign, { recursive: true });
    writeFileSync(join(foreign, 'version.json'), JSON.stringify({ game: 'brinewick', version: '2.4.0' }));
    const added = (await server.send('post', '/api/games/brinewick/installs', { folder: foreign })).body as { id: string };
    expect((await server.get(`/api/games/brinewick/programs?install=${added.id}`)).body).toMatchObject({ allowed: false });
    expect((await server.get('/api/games/brinewick/programs')).body).toMatchObject({ allowed: true });
  });
});

describe('files of somebody else', () => {
  it('are never pages or scripts of this application, wherever they come from', async () => {
    const id = await server.newCrate('served');
    const page = '<!doctype html><script src="x.js"></script>';
    const base = join(server.config.games, 'brinewick/base');
    const odd = {
      'x.html': page,
      'x.js': 'fetch("/api/author")',
      'x.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>',
      'x.png': page,
      'x.xhtml': page,
    };
    for (const [name, text] of Object.entries(odd)) writeFileSync(join(base, name), text);
    const pack = (
      await server.upload(`/api/crates/${id}/packs`, {
        'pack.zip': writeZip(new Map(Object.entries(odd).map(([name, text]) => [name, new TextEncoder().encode(text)]))),
      })
    ).body as { id: string };
    const addresses = Object.keys(odd).flatMap((name) => [
      `/api/games/brinewick/base/${name}`,
      ...(pack.id ? [`/api/crates/${id}/packs/${pack.id}/files/${name}`] : []),
    ]);
    let served = 0;
    for (const address of addresses) {
      const { headers, status } = await server.get(address);
      if (status === 404 && address.includes('/packs/')) continue;
      served++;
      expect([address, status, headers['content-type']]).toEqual([address, 200, 'application/octet-stream']);
      expect(headers).toMatchObject({ 'x-content-type-options': 'nosniff', 'content-security-policy': "default-src 'none'; sandbox" });
      expect(headers['content-disposition']).toMatch(/^attachment/);
    }
    expect(served).toBeGreaterThanOrEqual(Object.keys(odd).length);
    // What is what it says stays of use to the page.
    const pictures = ((await server.get('/api/games/brinewick/pack')).body as { files: { path: string }[] }).files;
    const glb = pictures.find(({ path }) => path.endsWith('.glb'))!;
    expect((await server.get(`/api/games/brinewick/base/${glb.path}`)).headers['content-type']).toBe('model/gltf-binary');
    symlinkSync('/etc/passwd', join(base, 'link.txt'));
    expect((await server.get('/api/games/brinewick/base/link.txt')).status).toBe(404);
  });

  it('and the private key leaves by no address', async () => {
    const told = JSON.stringify((await server.get('/api/author')).body);
    const key = readFileSync(server.config.authorKey, 'utf8');
    expect(told).not.toContain(key.split('\n')[1]);
    expect((await server.send('post', '/api/author/export', {})).status).toBe(404);
  });
});
