/**
 * The set-up under attack: the server killed (kill -9) while it fetches, unpacks and keeps a folder equal, a depot that is slow, and
 * two servers on one folder.
 */
import assert from 'node:assert/strict';
import { createHash, randomBytes } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { seeded } from '../measure.mjs';
import { slowDepot } from './slowDepot.mjs';
import { dataFolder, scratch, Server, sleep } from './target.mjs';

const sha256 = (bytes) => createHash('sha256').update(bytes).digest('hex');
/** Whether a process runs; one that has ended and that nobody has asked after does not. */
function runs(pid) {
  try {
    return !/^\d+ \(.*\) Z/.test(readFileSync(`/proc/${pid}/stat`, 'utf8'));
  } catch {
    return false;
  }
}

/** Another copy of the demo's game, which says that it is that of the profile "hanging". */
function hangingGame(data) {
  const folder = join(data, 'hanging-game');
  cpSync(join(data, 'games/brinewick'), folder, { recursive: true });
  const file = join(folder, 'version.json');
  writeFileSync(file, JSON.stringify({ ...JSON.parse(readFileSync(file, 'utf8')), game: 'hanging' }));
  return folder;
}

export async function attack(attempt, { rounds }) {
  const random = seeded(23);
  const data = await dataFolder();
  const files = Array.from({ length: 40 }, (_, i) => ({ path: `textures/t${i}.bin`, bytes: randomBytes(150_000) }));
  const depot = await slowDepot(files);
  let server = await Server.start(data, { env: { VIOLET_CRATE_DEPOT: depot.url } });
  const restart = async () => {
    await server.kill();
    server = await Server.start(data, { env: { VIOLET_CRATE_DEPOT: depot.url } });
  };
  const pack = join(data, 'games/brinewick/base/packs/slow');

  await attempt('kill -9 while a pack is fetched and unpacked', async () => {
    await server.json('/api/depot/games/brinewick', { method: 'POST', body: { item: 'slow', version: '1.0.0' } });
    let state = '';
    for (let round = 0; round < rounds; round++) {
      await sleep(100 + random() * 500);
      // The pack is not there, or it is whole.
      if (existsSync(pack)) assert.equal(readdirSync(join(pack, 'textures')).length, files.length);
      await restart();
    }
    for (let i = 0; i < 300 && state !== 'done'; i++) {
      [{ state }] = await server.json('/api/depot/downloads');
      assert.notEqual(state, 'failed');
      await sleep(50);
    }
    assert.equal(state, 'done');
    for (const { path, bytes } of files) assert.equal(sha256(readFileSync(join(pack, path))), sha256(bytes), path);
    assert.deepEqual(
      readdirSync(join(pack, '..')).filter((entry) => entry !== 'slow'),
      [],
      'something is left beside the pack',
    );
    // It went on each time: without that every start would have fetched all of it again.
    assert.ok(depot.served() < depot.size * 3, `${depot.served()} bytes were sent for ${depot.size}`);
  });

  const folder = join(mkdtempSync(join(scratch, 'bound-')), 'crate');
  await attempt('kill -9 while a folder is kept equal', async () => {
    const { id } = await server.newCrate('bound');
    await server.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } });
    mkdirSync(join(folder, 'sources'), { recursive: true });
    for (let round = 0; round < rounds; round++) {
      for (let i = 0; i < 200; i++) writeFileSync(join(folder, `sources/f${i}.txt`), `${round} ${i}`);
      await server.json(`/api/crates/${id}/scripts/main.lua`, { method: 'PUT', body: { source: `-- ${round}\n` } });
      await sleep(random() * 400);
      await restart();
    }
    const { folder: view } = await server.json(`/api/crates/${id}/folder/look`, { method: 'POST', body: {} });
    assert.deepEqual([view.problem, view.refused, view.conflicts], [null, [], []]);
    for (const { path, sha256: wanted } of (await server.json(`/api/crates/${id}`)).files)
      assert.equal(sha256(readFileSync(join(folder, path))), wanted, path);
    assert.equal(readFileSync(join(folder, 'scripts/main.lua'), 'utf8'), `-- ${rounds - 1}\n`);
    assert.equal(readFileSync(join(folder, 'sources/f199.txt'), 'utf8'), `${rounds - 1} 199`);
  });

  await attempt('two servers on one folder: the second is told, and touches nothing', async () => {
    const other = await Server.start(await dataFolder());
    try {
      const { id } = await other.newCrate('bound');
      const before = readFileSync(join(folder, 'scripts/main.lua'), 'utf8');
      const { folder: view } = await other.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } });
      assert.match(view.problem ?? '', /Another program keeps this folder equal already/);
      await other.json(`/api/crates/${id}/scripts/main.lua`, { method: 'PUT', body: { source: '-- other\n' } });
      await sleep(500);
      assert.equal(readFileSync(join(folder, 'scripts/main.lua'), 'utf8'), before);
    } finally {
      await other.stop();
    }
  });

  await attempt('a tool that hangs ends with its build: cancelled, or killed with the server', async () => {
    const profile = await server.json('/api/profiles/brinewick');
    const mark = join(scratch, 'hanging');
    const code = `require('fs').writeFileSync(${JSON.stringify(mark)}, String(process.pid)); setInterval(() => {}, 1000)`;
    const hanging = {
      id: 'hang',
      title: 'Hang',
      at: 'build',
      program: process.execPath,
      arguments: ['-e', code],
      seconds: 600,
      memory: 1024,
      outputs: [],
      log: [],
    };
    const text = JSON.stringify({ ...profile, id: 'hanging', title: 'Hanging', preparation: [], programs: [hanging], launch: undefined });
    await server.json('/api/profiles', { method: 'POST', body: { text } });
    // Materials of the game that it was copied from.
    await server.json(`/api/games/hanging/installs`, { method: 'POST', body: { folder: hangingGame(data) } });
    // A yes is for this very install.
    const { hash } = await server.json('/api/games/hanging/programs');
    await server.json('/api/games/hanging/programs', { method: 'POST', body: { hash } });
    const { id } = await server.json('/api/crates', {
      method: 'POST',
      body: { profile: 'hanging', name: 'stuck', title: 'Stuck', template: 'sealed-room' },
    });
    const job = await server.json(`/api/crates/${id}/builds`, { method: 'POST', body: { map: 'stuck', quality: 'draft' } });
    for (let i = 0; i < 300 && !existsSync(mark); i++) await sleep(100);
    const pid = Number(readFileSync(mark, 'utf8'));
    assert.ok(runs(pid));
    await server.json(`/api/jobs/${job.id}/cancel`, { method: 'POST', body: {} });
    await sleep(500);
    assert.ok(!runs(pid), 'the tool goes on');

    // Killed with it running, the next server ends what the one before left.
    rmSync(mark);
    await server.json(`/api/crates/${id}/builds`, { method: 'POST', body: { map: 'stuck', quality: 'draft' } });
    for (let i = 0; i < 300 && !existsSync(mark); i++) await sleep(100);
    const left = Number(readFileSync(mark, 'utf8'));
    await sleep(200);
    await server.kill();
    assert.ok(runs(left));
    server = await Server.start(data, { env: { VIOLET_CRATE_DEPOT: depot.url } });
    await sleep(200);
    assert.ok(!runs(left), 'the tool of the killed server goes on');
    const [last] = await server.json('/api/jobs');
    assert.equal(last.state, 'interrupted');
  });

  await server.stop();
  depot.server.close();
}
