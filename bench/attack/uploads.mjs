/** Files that are small on the wire and large in memory, or come in twice. */
import assert from 'node:assert/strict';
import { deflateSync, crc32 } from 'node:zlib';
import { zipSync } from 'fflate';
import { dataFolder, manifestOf, Server } from './target.mjs';

const OBJ = 'v 0 0 0\nv 64 0 0\nv 0 64 0\nv 0 0 64\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n';
const text = (content) => new TextEncoder().encode(content);
const zip = (files) => zipSync(files, { level: 9 });

function chunk(name, data) {
  const out = Buffer.alloc(12 + data.length);
  out.writeUInt32BE(data.length, 0);
  out.write(name, 4, 'latin1');
  data.copy(out, 8);
  out.writeUInt32BE(crc32(out.subarray(4, 8 + data.length)), 8 + data.length);
  return out;
}
/** A picture of one colour with extra chunks, and with more pixels than it has room for. */
function png(extra = [], pixels = Buffer.alloc(64 * (1 + 64 * 3), 100)) {
  for (let row = 0; row < 64; row++) pixels[row * (1 + 64 * 3)] = 0;
  const head = Buffer.alloc(13);
  head.writeUInt32BE(64, 0);
  head.writeUInt32BE(64, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    ...extra,
    chunk('IDAT', deflateSync(pixels)),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

export async function attack(attempt, { short }) {
  const server = await Server.start(await dataFolder());
  const { id } = await server.newCrate('uploads');
  const size = short ? 250 << 20 : 500 << 20;
  // The threads that convert are there before anything is measured.
  const warm = [...['w1', 'w2'].map((name) => [`${name}.obj`, OBJ]), ...['w3', 'w4'].map((name) => [`${name}.png`, png()])];
  await server.finished((await server.upload(id, warm)).jobs[0]);
  /** Sends a batch while asking how the server is; answers the job and how much memory it took. */
  const send = async (files) => {
    const before = await server.memory();
    const { jobs } = await server.upload(id, files);
    let [most, slowest, over] = [before, 0, false];
    const done = server.finished(jobs[0]).finally(() => (over = true));
    while (!over) {
      const asked = performance.now();
      await server.json('/api/crates');
      slowest = Math.max(slowest, performance.now() - asked);
      most = Math.max(most, await server.memory());
    }
    return { job: await done, grown: most - before, slowest };
  };
  await attempt('six archives that unpack to gigabytes', async () => {
    const bomb = zip({ 'a.bmp': new Uint8Array(size) });
    const { job, grown, slowest } = await send([...Array(6).keys()].map((i) => [`bomb_${i}.zip`, bomb]).concat([['good.obj', text(OBJ)]]));
    assert.equal(job.state, 'done', JSON.stringify(job.error));
    assert.equal(job.result.files.find((file) => file.file === 'good.obj').state, 'done');
    assert.equal(job.result.files.filter((file) => file.state === 'skipped').length, 6);
    assert.ok(grown < 900, `${Math.round(grown)} MiB`);
    assert.ok(slowest < 4000, `an answer took ${Math.round(slowest)} ms`);
  });
  await attempt('a PNG with a profile of hundreds of megabytes', async () => {
    const profile = chunk('iCCP', Buffer.concat([Buffer.from('x\0\0'), deflateSync(Buffer.alloc(500 << 20))]));
    const { job, grown } = await send([['profile.png', png([profile])]]);
    assert.equal(job.state, 'done', JSON.stringify(job.error));
    assert.ok(grown < 300, `${Math.round(grown)} MiB`);
  });
  await attempt('a PNG with more pixels than its size', async () => {
    const { job, grown } = await send([['pixels.png', png([], Buffer.alloc(500 << 20))]]);
    assert.equal(job.state, 'done', JSON.stringify(job.error));
    assert.ok(grown < 400, `${Math.round(grown)} MiB`);
  });
  await attempt('a glTF with accessors of 400 million elements', async () => {
    const gltf = {
      asset: { version: '2.0' },
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
      accessors: [{ componentType: 5126, count: 400_000_000, type: 'VEC3' }],
    };
    const { job, grown } = await send([['large.gltf', text(JSON.stringify(gltf))]]);
    assert.equal(job.state, 'failed');
    assert.match(job.error.message, /\/accessors\/0/);
    assert.ok(grown < 400, `${Math.round(grown)} MiB`);
  });
  await attempt('one name from two folders, and twice in one request', async () => {
    const { job } = await send([
      ['a/twin.lua', text('function a() end')],
      ['b/twin.lua', text('function b() end')],
      ['same.lua', text('function c() end')],
      ['same.lua', text('function d() end')],
    ]);
    assert.equal(job.state, 'done');
    assert.equal(new Set(job.result.files.map((file) => file.path)).size, 4);
    const { files } = await server.json(`/api/crates/${id}`);
    for (const name of ['twin', 'twin_2', 'same', 'same_2'])
      assert.ok(
        files.some((file) => file.path === `scripts/${name}.lua`),
        name,
      );
  });
  await attempt('the same folder again', async () => {
    const folder = [
      ['d/door.lua', text('function door() end')],
      ['d/door.obj', text(OBJ)],
    ];
    await send(folder);
    const before = (await server.json(`/api/crates/${id}`)).files.map((file) => file.path);
    const { job } = await send(folder);
    assert.deepEqual(
      (await server.json(`/api/crates/${id}`)).files.map((file) => file.path),
      before,
    );
    assert.deepEqual(
      job.result.files.map((file) => file.state),
      ['unchanged', 'unchanged'],
    );
  });
  await attempt('two batches of one name at the same time', async () => {
    const two = await Promise.all(['x/rush.obj', 'y/rush.obj'].map((name) => server.upload(id, [[name, text(OBJ)]])));
    const jobs = await Promise.all(two.map(({ jobs }) => server.finished(jobs[0])));
    assert.equal(new Set(jobs.map((job) => job.result.files[0].path)).size, 2);
  });
  await attempt('credits edited while a batch runs stay', async () => {
    const pack = zip({ 'pack.json': text(JSON.stringify({ format: 1, title: 'Moor', author: 'Ada', licence: 'CC0' })), 'stone.obj': text(OBJ) });
    const form = new FormData();
    form.append('files', new File([pack], 'moor.zip'));
    const opened = await server.json(`/api/crates/${id}/packs`, { method: 'POST', body: form });
    const { jobs } = await server.json(`/api/crates/${id}/packs/${opened.id}/import`, { method: 'POST', body: { paths: ['stone.obj'] } });
    const mine = { author: 'Grace', work: 'Sketches', licence: 'CC0' };
    await server.json(`/api/crates/${id}`, { method: 'PATCH', body: { credits: [mine] } });
    await server.finished(jobs[0]);
    const { manifest } = await server.json(`/api/crates/${id}`);
    assert.deepEqual(manifest.credits.map((credit) => credit.author).sort(), ['Ada', 'Grace']);
  });
  await attempt('an archive with a file that is also a folder', async () => {
    const { job } = await send([
      ['both.zip', zip({ a: text('x'), 'a/b.lua': text('x') })],
      ['fine.lua', text('x = 1')],
    ]);
    assert.match(job.result.files.find((file) => file.state === 'skipped').reason, /a file and a folder/);
  });
  await attempt('a crate whose sources hold an archive comes in whole', async () => {
    const tree = {
      'crate.json': manifestOf('from_zip', 'From a ZIP'),
      'sources/pack.zip': zip({ 'a.txt': text('x') }),
      '.DS_Store': text('x'),
    };
    const form = new FormData();
    form.append('file', new File([zip(tree)], 'from_zip.zip'));
    const view = await server.json('/api/crates/import', { method: 'POST', body: form });
    assert.deepEqual(
      view.files.map((file) => file.path),
      ['sources/pack.zip'],
    );
  });
  await attempt('the server is still there', async () => assert.ok(server.alive && (await server.pumphouse())));
  await server.stop();
}
