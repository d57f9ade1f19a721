/**
 * The server killed (kill -9) at random moments of everything that writes. After each start: nothing that was
 * acknowledged is lost, nothing half made can be seen, and the same work can be done again.
 */
import assert from 'node:assert/strict';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { seeded } from '../measure.mjs';
import { dataFolder, manifestOf, Server, sleep } from './target.mjs';

const OBJ = (n) => `v 0 0 0\nv ${n} 0 0\nv 0 ${n} 0\nv 0 0 ${n}\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n`;
const sha256 = (bytes) => createHash('sha256').update(bytes).digest('hex');

/** Everything that the server offers of a crate is there and whole. */
async function wholeCrate(server, id) {
  const view = await server.json(`/api/crates/${id}`);
  for (const { path, sha256: wanted, bytes } of view.files) {
    const content = Buffer.from(await (await server.request(`/api/crates/${id}/files/${path}`)).arrayBuffer());
    assert.equal(content.length, bytes, path);
    assert.equal(sha256(content), wanted, path);
  }
  for (const path of Object.keys(view.manifest.assets))
    assert.ok(
      view.files.some((file) => file.path === path),
      `${path} is named, and not there`,
    );
  for (const build of await server.json(`/api/crates/${id}/builds`))
    for (const { path, sha256: wanted } of build.artefacts)
      assert.equal(
        sha256(Buffer.from(await (await server.request(`/api/crates/${id}/builds/${build.id}/files/${path}`)).arrayBuffer())),
        wanted,
        path,
      );
  const { packages } = await server.json(`/api/crates/${id}/packages`);
  for (const one of packages)
    assert.equal(sha256(Buffer.from(await (await server.request(`/api/packages/${one.id}/file`)).arrayBuffer())), one.sha256);
  return view;
}

/** A mod's folder is whole: one of the versions that were published, to the byte. */
function wholeMod(mods, name) {
  assert.deepEqual(
    // Where mods are from, and the versions that were replaced, lie there for good.
    readdirSync(mods).filter((entry) => entry.startsWith('.') && !['.installed.json', '.before'].includes(entry)),
    [],
    'something is left beside the mods',
  );
  const manifest = JSON.parse(readFileSync(join(mods, name, 'release.json'), 'utf8'));
  for (const { path, sha256: wanted } of manifest.files) assert.equal(sha256(readFileSync(join(mods, name, path))), wanted, path);
  return manifest.version;
}

export async function attack(attempt, { rounds }) {
  const random = seeded(11);
  const data = await dataFolder();
  let shop = await Server.workshop(data);
  let server = await Server.start(data);
  const restart = async () => {
    await server.kill();
    server = await Server.start(data);
  };
  await server.json('/api/settings', { method: 'PUT', body: { workshopUrl: shop.url, workshopToken: 'token' } });
  const { id } = await server.newCrate('killed');
  const map = `/api/crates/${id}/maps/killed`;
  const ledger = join(data, 'games/brinewick/ledger.bnk');
  const original = sha256(readFileSync(ledger));
  /** What the mods have as a bank is the game's own and one copy, that of the installed version. */
  const wholeBank = async (mods) => {
    await server.json('/api/games/brinewick/mods');
    assert.equal(sha256(readFileSync(ledger)), original);
    const copy = join(data, 'games/brinewick/ledger.killed.bnk');
    if (!existsSync(join(mods, 'killed'))) return assert.equal(existsSync(copy), false);
    const { to } = JSON.parse(readFileSync(join(mods, 'killed/banks/ledger.json'), 'utf8'));
    assert.equal(sha256(readFileSync(copy)), to.sha256);
  };

  /** Sends a package, goes on with what broke off, and answers its share code. */
  const publish = async ({ id: packageId }) => {
    await server.json(`/api/crates/${id}/publish`, { method: 'POST', body: { packageId } });
    for (;;) {
      const upload = (await server.json(`/api/crates/${id}/uploads`)).find((one) => one.packageId === packageId);
      if (upload.state === 'done') break;
      if (upload.state === 'failed') await server.json(`/api/uploads/${upload.id}/resume`, { method: 'POST', body: {} });
      await sleep(30);
    }
    return (await server.json(`/api/crates/${id}/packages`)).releases.find((one) => one.packageId === packageId).shareCode;
  };
  const modOf = async () => shop.json('/api/mods/killed', { headers: { authorization: 'Bearer token' } });
  /** However often a package was sent, it is one release, of the very bytes. */
  const oneRelease = async (version, made) => {
    const found = (await modOf()).versions.filter((one) => one.version === version);
    assert.deepEqual(
      found.map((one) => one.sha256),
      [made.sha256],
    );
    const content = await shop.request(`/api/releases/${found[0].shareCode}/package`);
    assert.equal(sha256(Buffer.from(await content.arrayBuffer())), made.sha256);
  };

  /** Starts some work, kills the server at a random moment of it, and starts it again. Answers what was acknowledged. */
  const interrupted = async (work, longest) => {
    const acknowledged = [];
    const running = work((value) => acknowledged.push(value)).catch(() => {});
    await sleep(random() * longest);
    await server.kill();
    await running;
    server = await Server.start(data);
    for (const job of await server.json('/api/jobs')) assert.ok(!['queued', 'running', 'paused'].includes(job.state), `${job.label} is ${job.state}`);
    return acknowledged;
  };

  for (let round = 1; round <= rounds; round++) {
    await attempt(`edits, round ${round}`, async () => {
      let { revision } = await server.json(map);
      const start = revision;
      const mine = [];
      const acknowledged = await interrupted(async (tell) => {
        for (let i = 0; ; i++) {
          const to = { name: `r${round} ${i}`, bottom: i, top: i + 8 };
          const edit = { name: `r${round} ${i}`, changes: [{ of: 'bands', id: `b${(i % 40) + 10}`, to }] };
          mine.push(edit);
          const answer = await server.json(`${map}/edits`, { method: 'POST', body: { base: revision, edits: [edit] } });
          revision = answer.revision;
          tell(revision);
        }
      }, 900);
      const now = await server.json(map);
      const written = now.revision - start;
      // One more may have been written whose answer never came.
      assert.ok([acknowledged.length, acknowledged.length + 1].includes(written), `${written} written of ${acknowledged.length} acknowledged`);
      const wanted = new Map(mine.slice(0, written).map(({ changes: [{ id, to }] }) => [id, to.name]));
      for (const [id, name] of wanted) assert.equal(now.map.bands[id].name, name);
    });
    await attempt(`import, round ${round}`, async () => {
      const files = Array.from({ length: 12 }, (_, i) => [`r${round}/thing_${round}_${i}.obj`, OBJ(32 + i)]);
      await interrupted(async () => {
        const { jobs } = await server.upload(id, files);
        await server.finished(jobs[0]);
      }, 2500);
      const view = await wholeCrate(server, id);
      const some = view.files.filter((file) => file.path.startsWith(`models/thing_${round}_`)).length;
      const { jobs } = await server.upload(id, files);
      const job = await server.finished(jobs[0]);
      assert.equal(job.state, 'done', JSON.stringify(job.error));
      assert.equal(job.result.files.filter((file) => file.state === 'unchanged').length, some);
      const after = (await server.json(`/api/crates/${id}`)).files.filter((file) => file.path.startsWith(`models/thing_${round}_`));
      assert.equal(after.length, 12);
      await server.json(`/api/crates/${id}/assets/remove`, { method: 'POST', body: { entries: after.map((file) => file.path), anyway: true } });
    });
    await attempt(`a bank, round ${round}`, async () => {
      const bank = `/api/crates/${id}/banks/ledger`;
      const { document } = await server.json(bank);
      document.sections.people[0].values.reward = 100 + round;
      await interrupted((tell) => server.json(bank, { method: 'POST', body: { document } }).then(tell), 200);
      await wholeCrate(server, id);
      await server.json(bank, { method: 'POST', body: { document } });
      assert.equal((await server.json(bank)).document.sections.people[0].values.reward, 100 + round);
    });
    await attempt(`build, round ${round}`, async () => {
      const order = { map: 'killed', quality: 'draft', parameters: { luxel: 24 + round } };
      await interrupted(async () => {
        await server.finished(await server.json(`/api/crates/${id}/builds`, { method: 'POST', body: order }));
      }, 2500);
      await wholeCrate(server, id);
      const job = await server.finished(await server.json(`/api/crates/${id}/builds`, { method: 'POST', body: order }));
      assert.equal(job.state, 'done', JSON.stringify(job.error));
    });
    const version = `1.${round}.0`;
    await attempt(`pack, round ${round}`, async () => {
      await server.json(`/api/crates/${id}`, { method: 'PATCH', body: { version } });
      await interrupted(async () => {
        await server.finished(await server.json(`/api/crates/${id}/packages`, { method: 'POST', body: {} }));
      }, 1500);
      await wholeCrate(server, id);
      const job = await server.finished(await server.json(`/api/crates/${id}/packages`, { method: 'POST', body: {} }));
      assert.equal(job.state, 'done', JSON.stringify(job.error));
    });
    const [newest] = (await server.json(`/api/crates/${id}/packages`)).packages;
    let shareCode;
    await attempt(`publish, round ${round}`, async () => {
      const told = await interrupted(async (tell) => tell(await publish(newest)), 150);
      shareCode = await publish(newest);
      for (const code of told) assert.equal(code, shareCode);
      await oneRelease(version, newest);
    });
    await attempt(`publish to a workshop that is killed, round ${round}`, async () => {
      const next = `1.${round}.1`;
      await server.json(`/api/crates/${id}`, { method: 'PATCH', body: { version: next } });
      assert.equal((await server.finished(await server.json(`/api/crates/${id}/packages`, { method: 'POST', body: {} }))).state, 'done');
      const [packed] = (await server.json(`/api/crates/${id}/packages`)).packages;
      const running = publish(packed).catch(() => {});
      await sleep(random() * 120);
      await shop.kill();
      shop = await Server.workshop(data, shop.port);
      await running;
      shareCode = await publish(packed);
      await oneRelease(next, packed);
      // Rolling back and forth, killed in between: one of the two is given out, and whole.
      const both = [version, next];
      const order = shop
        .json('/api/mods/killed/rollback', { method: 'POST', body: { version }, headers: { authorization: 'Bearer token' } })
        .catch(() => null);
      await sleep(random() * 10);
      await shop.kill();
      const answered = await order;
      shop = await Server.workshop(data, shop.port);
      const { current } = await modOf();
      assert.ok(both.includes(current), current);
      if (answered) assert.equal(current, version);
      await shop.json('/api/mods/killed/rollback', { method: 'POST', body: { version: next }, headers: { authorization: 'Bearer token' } });
    });
    const latest = `1.${round}.1`;
    const mods = join(data, 'games/brinewick/mods');
    await attempt(`${round === 1 ? 'install' : 'update'}, round ${round}`, async () => {
      const before = existsSync(join(mods, 'killed')) ? wholeMod(mods, 'killed') : null;
      const install = () => server.json('/api/games/brinewick/mods/install', { method: 'POST', body: { shareCode } });
      const told = await interrupted(async (tell) => tell(await install()), 250);
      const now = existsSync(join(mods, 'killed')) ? wholeMod(mods, 'killed') : null;
      assert.ok(now === before || now === latest, `${now} instead of ${before} or ${latest}`);
      if (told.length > 0) assert.equal(now, latest);
      await wholeBank(mods);
      await install();
      assert.equal(wholeMod(mods, 'killed'), latest);
      await wholeBank(mods);
    });
    await attempt(`taking out, round ${round}`, async () => {
      await interrupted(() => server.json('/api/games/brinewick/mods/killed/remove', { method: 'POST', body: {} }), 100);
      await wholeBank(mods);
      await server.json('/api/games/brinewick/mods/install', { method: 'POST', body: { shareCode } });
      await wholeBank(mods);
    });
  }
  await attempt('a whole crate comes in, or not at all', async () => {
    for (let round = 1; round <= rounds; round++) {
      const files = Object.fromEntries(Array.from({ length: 200 }, (_, i) => [`sources/${i}.txt`, new TextEncoder().encode(`${round} ${i}`)]));
      const form = new FormData();
      form.append('file', new File([zipSync({ 'crate.json': manifestOf(`whole_${round}`, 'Whole'), ...files })], 'whole.zip'));
      await interrupted(() => server.json('/api/crates/import', { method: 'POST', body: form }), 600);
      const found = (await server.json('/api/crates')).find((one) => one.manifest.name === `whole_${round}`);
      if (found) assert.equal((await wholeCrate(server, found.id)).files.length, 200);
    }
  });
  await attempt('what is not needed is cleared away at the start', async () => {
    await restart();
    const space = await server.json('/api/space');
    assert.equal(space.parts.files, 0);
    assert.equal(space.unused.files, 0);
    await wholeCrate(server, id);
  });
  await server.stop();
  await shop.stop();
}
