/** Folders, repositories, packs and stored files of somebody else, against the real server: nothing of them runs, leads out or is believed. */
import assert from 'node:assert/strict';
import { execFileSync, spawn } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { crate, dataFolder, run, scratch, Server, sleep } from './target.mjs';

export async function attack(attempt, { short }) {
  const data = await dataFolder();
  let server = await Server.start(data);
  const own = realpathSync(mkdtempSync(join(scratch, 'strangers-')));
  const trap = (name) => {
    const ran = join(own, `${name}.ran`);
    const program = join(own, `${name}.sh`);
    writeFileSync(program, `#!/bin/sh\ntouch ${ran}\ncat\n`);
    chmodSync(program, 0o755);
    return { program, ran: () => existsSync(ran) };
  };
  const opened = async (name) => {
    const { id } = await server.newCrate(name);
    const folder = join(own, name);
    await server.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } });
    return { id, folder };
  };
  const git = (folder, ...words) => execFileSync('git', words, { cwd: folder, encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] });

  const keys = [
    'core.fsmonitor',
    'core.sshCommand',
    'diff.external',
    'core.pager',
    'core.editor',
    'gpg.program',
    'credential.helper',
    'filter.x.clean',
    'merge.x.driver',
    'diff.x.textconv',
    'alias.status',
  ];
  const { id: repository, folder: checkout } = await opened('repository');
  git(checkout, 'init', '--quiet');
  git(checkout, 'config', 'commit.gpgSign', 'true');
  const traps = keys.map((key) => [key, trap(key)]);
  for (const [key, { program }] of traps) git(checkout, 'config', key, key.startsWith('alias') ? `!${program}` : program);
  const hook = trap('hook');
  for (const name of ['pre-commit', 'post-commit', 'commit-msg', 'post-checkout', 'post-merge', 'reference-transaction', 'post-index-change'])
    symlinkSync(hook.program, join(checkout, '.git/hooks', name));
  const versions = `/api/crates/${repository}/versions`;
  await attempt('git: a look at a repository of somebody else', async () => {
    const { untrusted } = await server.json(versions);
    assert.ok(untrusted.settings.some((one) => one.startsWith('core.fsmonitor')));
    assert.deepEqual(
      traps.filter(([, one]) => one.ran()).map(([key]) => key),
      [],
    );
  });
  await attempt('git: trusted, committed, branched and merged', async () => {
    const { untrusted } = await server.json(versions);
    await server.json(`${versions}/trust`, { method: 'POST', body: { hash: untrusted.hash } });
    await server.json(`${versions}/commits`, { method: 'POST', body: { message: 'one' } });
    await server.json(`${versions}/branch`, { method: 'POST', body: { branch: 'night', fresh: true } });
    writeFileSync(join(checkout, 'scripts/main.lua'), '-- two\n');
    await server.json(`${versions}/commits`, { method: 'POST', body: { message: 'two' } });
    assert.deepEqual(
      [...traps, ['hook', hook]].filter(([, one]) => one.ran()).map(([key]) => key),
      [],
    );
  });

  const { id: linked, folder } = await opened('linked');
  const outside = join(own, 'outside');
  mkdirSync(outside);
  writeFileSync(join(outside, 'main.lua'), '-- theirs\n');
  await attempt('a folder of a linked folder becomes a link', async () => {
    rmSync(join(folder, 'scripts'), { recursive: true });
    symlinkSync(outside, join(folder, 'scripts'));
    symlinkSync('/etc/passwd', join(folder, 'passwd.txt'));
    await server.json(`/api/crates/${linked}/scripts/main.lua`, { method: 'PUT', body: { source: '-- mine\n' } });
    const { folder: view } = await server.json(`/api/crates/${linked}/folder/look`, { method: 'POST', body: {} });
    assert.ok(view.refused.some(({ path }) => path === 'scripts'));
    assert.equal(readFileSync(join(outside, 'main.lua'), 'utf8'), '-- theirs\n');
    const { files } = await server.json(`/api/crates/${linked}`);
    assert.ok(!files.some(({ path }) => path.includes('passwd')));
  });
  await attempt('a folder that is exchanged for a link again and again while files are written', async () => {
    const { id, folder: at } = await opened('racing');
    const swap = spawn(process.execPath, [
      '-e',
      `const { renameSync, symlinkSync, rmSync } = require('fs'); const at = ${JSON.stringify(join(at, 'scripts'))};
      for (;;) { try { renameSync(at, at + '.real'); symlinkSync(${JSON.stringify(outside)}, at); } catch {} try { rmSync(at, { recursive: true }); } catch {} try { renameSync(at + '.real', at); } catch {} }`,
    ]);
    for (let i = 0; i < (short ? 20 : 200); i++) {
      await server.json(`/api/crates/${id}/scripts/main.lua`, { method: 'PUT', body: { source: `-- ${i}\n` } });
      await sleep(20);
    }
    swap.kill('SIGKILL');
    assert.equal(readFileSync(join(outside, 'main.lua'), 'utf8'), '-- theirs\n');
    assert.ok(server.alive);
  });

  await attempt('pages and scripts among the files of a game', async () => {
    const base = join(data, 'games/brinewick/base');
    for (const [name, text] of Object.entries({
      'x.html': '<script src="x.js"></script>',
      'x.js': 'fetch("/api/author")',
      'x.svg': '<svg/>',
      'x.png': '<html>',
    })) {
      writeFileSync(join(base, name), text);
      const { headers } = await server.request(`/api/games/brinewick/base/${name}`);
      assert.equal(headers.get('content-type'), 'application/octet-stream', name);
      assert.match(headers.get('content-security-policy'), /sandbox/);
      assert.equal(headers.get('x-content-type-options'), 'nosniff');
    }
    symlinkSync('/etc/passwd', join(base, 'p.txt'));
    assert.equal((await server.request('/api/games/brinewick/base/p.txt')).status, 404);
    assert.equal((await server.request('/api/games/brinewick/base/..%2f..%2f..%2fauthor.key')).status >= 400, true);
  });
  await attempt('the private key, by every address that speaks of it', async () => {
    await server.json('/api/author');
    const key = readFileSync(join(data, 'author.key'), 'utf8').split('\n')[1];
    for (const [path, method] of [
      ['/api/author', 'GET'],
      ['/api/author/export', 'POST'],
      ['/api/author/export', 'GET'],
      ['/api/settings', 'GET'],
    ])
      assert.ok(!(await (await server.request(path, { method, ...(method === 'POST' ? { body: {} } : {}) })).text()).includes(key), path);
  });

  await attempt('a stored content that is cut off is no empty script, and takes no other crate with it', async () => {
    const { id } = await server.newCrate('cut');
    const { files } = await server.json(`/api/crates/${id}`);
    const { sha256 } = files.find(({ path }) => path === 'scripts/main.lua');
    truncateSync(join(data, 'blobs', sha256.slice(0, 2), sha256), 0);
    assert.equal((await server.request(`/api/crates/${id}/files/scripts/main.lua`)).status, 422);
    assert.equal((await server.request(`/api/crates/${id}/export`)).status, 409);
    assert.ok((await server.json('/api/crates')).find((one) => one.id === id).damaged > 0);
    assert.equal((await server.request(`/api/crates/${id}/export?damaged=without`)).status, 200);
  });

  await attempt('commands: inputs and a crate’s own files are not written over, and what has no end is not read', async () => {
    const dir = join(own, 'guarded');
    assert.equal((await crate(['new', 'guarded', '--profile', 'brinewick', '--dir', dir])).code, 0);
    const before = readFileSync(join(dir, 'crate.json'));
    assert.equal((await crate(['pack', dir, '--out', join(dir, 'crate.json')])).code, 2);
    assert.deepEqual(readFileSync(join(dir, 'crate.json')), before);
    const { code, err } = await crate(['profile', 'check', '/dev/zero'], { timeout: 20_000 });
    assert.equal(code, 2);
    assert.match(err, /no regular file/);
  });

  await attempt('a test run that is only slow is not ended, beside four busy processes', async () => {
    const busy = Array.from({ length: 4 }, () => spawn(process.execPath, ['-e', 'for (;;) {}']));
    try {
      const dir = join(own, 'busy');
      assert.equal((await crate(['new', 'busy', '--profile', 'brinewick', '--template', 'sealed-room', '--dir', dir])).code, 0);
      for (let round = 0; round < (short ? 1 : 3); round++) {
        const { out } = await crate(['trial', dir, '--game', join(data, 'games/brinewick'), '--json'], {
          env: { VIOLET_CRATE_DATA: data },
          timeout: 240_000,
        });
        assert.ok(!/script-stuck|trial-failed/.test(out), out.slice(0, 500));
      }
    } finally {
      for (const one of busy) one.kill('SIGKILL');
    }
  });

  await attempt('the data folder vanishes under the server, and comes back', async () => {
    const { id } = await server.newCrate('vanishing');
    renameSync(join(data, 'blobs'), join(data, 'away'));
    const answers = await Promise.all([`/api/crates/${id}`, '/api/crates', `/api/crates/${id}/export`].map((path) => server.request(path)));
    assert.deepEqual(
      answers.map(({ status }) => status < 500),
      [true, true, true],
    );
    renameSync(join(data, 'away'), join(data, 'blobs'));
    assert.equal((await server.request(`/api/crates/${id}/export`)).status, 200);
    assert.ok(server.alive);
  });
  await attempt('a clock that goes backwards', async () => {
    const faketime = '/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1';
    await server.stop();
    // Where libfaketime is there the clock is set back by a year; else the times of what is stored are set into the future.
    const env = existsSync(faketime) ? { LD_PRELOAD: faketime, FAKETIME: '-365d' } : {};
    if (!existsSync(faketime)) await run('find', [data, '-type', 'f', '-exec', 'touch', '-d', '+400 days', '{}', '+']);
    server = await Server.start(data, { env });
    const { id } = await server.newCrate('backwards');
    await server.json(`/api/crates/${id}/scripts/main.lua`, { method: 'PUT', body: { source: '-- then\n' } });
    assert.equal(await (await server.request(`/api/crates/${id}/files/scripts/main.lua`)).text(), '-- then\n');
    assert.ok((await server.json('/api/crates')).length > 2);
  });
  await server.stop();
}
