/** A disk that is full: 60 MB of tmpfs. Nothing cut off may stay, everything goes on when there is room again. */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
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
  const mounted = await run('mount', ['-t', 'tmpfs', '-o', 'size=60m', 'tmpfs', disk]);
  if (mounted.code !== 0) {
    console.log('disk: left out, since no file system can be mounted here');
    return;
  }
  try {
    const prepared = await dataFolder();
    cpSync(prepared, disk, { recursive: true });
    rmSync(prepared, { recursive: true });
    const server = await Server.start(disk);
    const filler = join(disk, 'filler');
    const fill = (left) => {
      rmSync(filler, { force: true });
      const { bavail, bsize } = statfsSync(disk);
      writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - left)));
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
