/** A disk that is full: 90 MB of tmpfs. Nothing cut off may stay, everything goes on when there is room again. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { slowDepot } from './slowDepot.mjs';
import { dataFolder, run, scratch, Server, sleep } from './target.mjs';

/** Something that does not shrink when it is packed. */
const noise = (bytes, seed) => {
  const out = Buffer.alloc(bytes);
  for (let i = 0, state = seed; i < bytes; i += 4) out.writeUInt32LE((state = (Math.imul(state, 1664525) + 1013904223) >>> 0), i);
  return out;
};
const wav = (seconds, seed) => {
  const data = noise(seconds * 22050 * 2 - ((seconds * 22050 * 2) % 4), seed);
  const head = Buffer.alloc(44);
  head.write('RIFF', 0).valueOf();
  head.writeUInt32LE(36 + data.length, 4);
  head.write('WAVEfmt ', 8);
  head.writeUInt32LE(16, 16);
  head.writeUInt16LE(1, 20);
  head.writeUInt16LE(1, 22);
  head.writeUInt32LE(22050, 24);
  head.writeUInt32LE(44100, 28);
  head.writeUInt16LE(2, 32);
  head.writeUInt16LE(16, 34);
  head.write('data', 36);
  head.writeUInt32LE(data.length, 40);
  return Buffer.concat([head, data]);
};

/** Every stored content has the hash that is its name, and none is unfinished. */
function wholeBlobs(data) {
  for (const entry of readdirSync(join(data, 'blobs'), { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const path = join(entry.parentPath, entry.name);
    assert.ok(!path.endsWith('.part'), `${path} is left`);
    assert.equal(createHash('sha256').update(readFileSync(path)).digest('hex'), basename(path), `${path} is cut off`);
  }
}

export async function attack(attempt, { short }) {
  const disk = join(scratch, 'disk');
  mkdirSync(disk);
  const mounted = await run('mount', ['-t', 'tmpfs', '-o', 'size=90m', 'tmpfs', disk]);
  if (mounted.code !== 0) {
    console.log('disk: left out, since no file system can be mounted here');
    return;
  }
  try {
    const prepared = await dataFolder();
    cpSync(prepared, disk, { recursive: true });
    rmSync(prepared, { recursive: true });
    const pack = Array.from({ length: 40 }, (_, i) => ({ path: `textures/t${i}.bin`, bytes: noise(100_000, i + 1) }));
    const depot = await slowDepot(pack);
    const server = await Server.start(disk, { env: { VIOLET_CRATE_DEPOT: depot.url, TMPDIR: mkdtempSync(join(disk, 'tmp-')) } });
    const filler = join(disk, 'filler');
    const fill = (left) => {
      rmSync(filler, { force: true });
      const { bavail, bsize } = statfsSync(disk);
      try {
        writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - left)));
      } catch (error) {
        // What is under way was quicker: then it is full all the more.
        if (error.code !== 'ENOSPC') throw error;
      }
    };
    const empty = () => rmSync(filler, { force: true });
    const { id } = await server.newCrate('full_disk');
    const rooms = short ? [300_000, 900_000] : [0, 20_000, 100_000, 300_000, 600_000, 900_000, 1_500_000];
    let n = 0;
    for (const left of rooms) {
      const sound = wav(20, ++n);
      await attempt(`an import with ${left} bytes left`, async () => {
        fill(left);
        let refused;
        try {
          const { jobs } = await server.upload(id, [[`noise_${n}.wav`, sound]]);
          const job = await server.finished(jobs[0]);
          assert.equal(job.state, 'failed');
          refused = job.error.message;
        } catch (error) {
          if (error.status !== 507) throw error;
          refused = error.body.detail;
        }
        assert.match(refused, /The disk is full: [\d,]+ MB are needed/);
        assert.ok(server.alive);
        wholeBlobs(disk);
      });
      await attempt(`the same import when there is room again (${left})`, async () => {
        empty();
        await sleep(100);
        const { jobs } = await server.upload(id, [[`noise_${n}.wav`, sound]]);
        const job = await server.finished(jobs[0]);
        assert.equal(job.state, 'done', JSON.stringify(job.error));
        wholeBlobs(disk);
        await server.json(`/api/crates/${id}/assets/remove`, { method: 'POST', body: { entries: [job.result.files[0].path] } });
      });
    }
    await attempt('edits on a full disk', async () => {
      const at = `/api/crates/${id}/maps/full_disk`;
      const before = (await server.json(at)).revision;
      fill(0);
      let acknowledged = before;
      let refused = 0;
      for (let i = 0; i < 400 && refused < 3; i++) {
        const to = { name: `band ${i} ${'x'.repeat(40)}`, bottom: i, top: i + 8 };
        const response = await server.request(`${at}/edits`, {
          method: 'POST',
          body: { base: acknowledged, edits: [{ name: 'x', changes: [{ of: 'bands', id: `b${i + 10}`, to }] }] },
        });
        const body = await response.json();
        if (response.ok) acknowledged = body.revision;
        else {
          refused++;
          assert.equal(response.status, 507, JSON.stringify(body));
          assert.match(body.detail, /The disk is full/);
        }
      }
      assert.ok(refused > 0, 'the disk never filled up');
      empty();
      assert.equal((await server.json(at)).revision, acknowledged);
    });
    await attempt('a build on a full disk', async () => {
      fill(0);
      const order = { method: 'POST', body: { map: 'full_disk', quality: 'draft' } };
      let job;
      try {
        job = await server.finished(await server.json(`/api/crates/${id}/builds`, order));
        assert.equal(job.state, 'failed', job.state);
        assert.match(job.error.message, /The disk is full/);
      } catch (error) {
        assert.equal(error.status, 507, String(error));
      }
      assert.ok(server.alive);
      empty();
      await sleep(2500);
      for (const one of await server.json('/api/jobs')) assert.ok(!['queued', 'running'].includes(one.state), `${one.label} is ${one.state}`);
      const again = await server.finished(await server.json(`/api/crates/${id}/builds`, order));
      assert.equal(again.state, 'done', JSON.stringify(again.error));
    });
    const there = join(disk, 'games/brinewick/base/packs/slow');
    const download = async () => (await server.json('/api/depot/downloads'))[0];
    const order = { method: 'POST', body: { item: 'slow', version: '1.0.0' } };
    await attempt('a download that has no room is refused before it begins', async () => {
      fill(1_000_000);
      const refused = await server.request('/api/depot/games/brinewick', order);
      assert.ok(refused.status >= 400);
      assert.match((await refused.json()).detail, /room|space|free/i);
      assert.deepEqual(await server.json('/api/depot/downloads'), []);
      empty();
    });
    for (const [what, moment, left] of [
      ['while it is fetched', 0.3, 200_000],
      ['while it is unpacked', 0.3, depot.size + 600_000],
    ])
      await attempt(`a disk that fills up under a download ${what}`, async () => {
        const { id: row } = await server.json('/api/depot/games/brinewick', order);
        while ((await download()).done < depot.size * moment) await sleep(10);
        fill(left - Math.round((await download()).done));
        while (!['failed', 'done'].includes((await download()).state)) await sleep(20);
        const { state, problem } = await download();
        assert.equal(state, 'failed');
        assert.match(problem, /disk is full|room/i);
        assert.ok(!existsSync(there), 'a pack is there, in part');
        empty();
        await server.json(`/api/depot/downloads/${row}/resume`, { method: 'POST' });
        while ((await download()).state !== 'done') {
          assert.notEqual((await download()).state, 'failed', (await download()).problem);
          await sleep(20);
        }
        for (const { path, bytes } of pack) assert.ok(readFileSync(join(there, path)).equals(bytes), path);
        await server.json('/api/depot/games/brinewick/slow', { method: 'DELETE' });
      });
    depot.server.close();

    await attempt('a folder that is kept equal on a full disk', async () => {
      const folder = join(disk, 'bound');
      const look = async () => (await server.json(`/api/crates/${id}/folder/look`, { method: 'POST', body: {} })).folder;
      await server.json(`/api/crates/${id}/folder`, { method: 'PUT', body: { folder } });
      const text = 'x'.repeat(40_000);
      mkdirSync(join(folder, 'sources'), { recursive: true });
      // The file comes to lie in the folder; for the copy in the crate there is no room.
      fill(60_000);
      writeFileSync(join(folder, 'sources/large.txt'), text);
      const full = await look();
      assert.match(full.problem ?? '', /disk is full/i);
      assert.equal(readFileSync(join(folder, 'sources/large.txt'), 'utf8'), text);
      empty();
      const after = await look();
      assert.deepEqual([after.problem, after.refused, after.conflicts], [null, [], []]);
      assert.ok((await server.json(`/api/crates/${id}`)).files.some(({ path }) => path === 'sources/large.txt'));
      await server.json(`/api/crates/${id}/folder`, { method: 'DELETE' });
      rmSync(folder, { recursive: true });
    });

    await attempt('the programs of the game on a full disk', async () => {
      fill(0);
      const build = { method: 'POST', body: { map: 'full_disk', quality: 'draft', only: 'programs' } };
      try {
        const job = await server.finished(await server.json(`/api/crates/${id}/builds`, build));
        assert.equal(job.state, 'failed', job.state);
      } catch (error) {
        assert.equal(error.status, 507, String(error));
      }
      empty();
      await sleep(2500);
      const again = await server.finished(await server.json(`/api/crates/${id}/builds`, build));
      assert.equal(again.state, 'done', JSON.stringify(again.error));
    });

    await attempt('free space after all that', async () => {
      const before = statfsSync(disk).bavail;
      const space = await server.json('/api/space');
      await server.json('/api/space', { method: 'POST', body: { what: ['parts', 'unused', 'cache', 'copies'] } });
      assert.ok(statfsSync(disk).bavail >= before);
      assert.equal(space.parts.files, 0);
      // What was removed can still be put back.
      wholeBlobs(disk);
      assert.ok(await server.pumphouse());
    });
    await server.stop();
  } finally {
    await run('umount', ['-l', disk]);
  }
}
