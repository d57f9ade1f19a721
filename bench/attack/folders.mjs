/** Watched folders with what no folder of sources should hold. */
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { dataFolder, scratch, Server, sleep } from './target.mjs';

const OBJ = 'v 0 0 0\nv 64 0 0\nv 0 64 0\nf 1 2 3\n';

export async function attack(attempt, { short }) {
  const data = await dataFolder();
  let server = await Server.start(data);
  const traps = {
    'a link to itself': (folder) => symlinkSync('loop', join(folder, 'loop')),
    'a link to its parent': (folder) => symlinkSync('..', join(folder, 'up')),
    'a named pipe': (folder) => execFileSync('mkfifo', [join(folder, 'pipe.obj')]),
    'a link to a device that never ends': (folder) => symlinkSync('/dev/zero', join(folder, 'zero.png')),
    'folders 60 deep': (folder) => mkdirSync(join(folder, ...Array(60).fill('d')), { recursive: true }),
    'a link to nowhere': (folder) => symlinkSync('/nowhere/at/all', join(folder, 'gone.png')),
  };
  let n = 0;
  for (const [name, lay] of Object.entries(traps).slice(0, short ? 3 : undefined)) {
    const folder = mkdtempSync(join(scratch, 'watched-'));
    writeFileSync(join(folder, 'vase.obj'), OBJ);
    const { id } = await server.newCrate(`watch_${++n}`);
    const ask = () => server.json(`/api/crates/${id}/watch`);
    await attempt(`${name}, there before`, async () => {
      lay(folder);
      const { watch } = await server.json(`/api/crates/${id}/watch`, { method: 'PUT', body: { folder, automatic: true } });
      assert.ok(watch.problem !== undefined);
      await sleep(700);
      assert.ok(server.alive);
      const after = (await ask()).watch;
      assert.ok(after.problem === null || !/^\w+: .*syscall|ELOOP|EISDIR/.test(after.problem), after.problem);
    });
    await attempt(`${name}, after a restart`, async () => {
      await server.kill();
      server = await Server.start(data);
      await sleep(700);
      assert.ok(server.alive);
      const { watch } = await ask();
      assert.ok(name.includes('deep') ? watch.problem : watch.fresh.length + watch.stale.length > 0 || watch.problem, JSON.stringify(watch));
    });
    await attempt(`${name}, while it is watched`, async () => {
      rmSync(folder, { recursive: true });
      mkdirSync(folder);
      await server.json(`/api/crates/${id}/watch`, { method: 'PUT', body: { folder, automatic: true } });
      await sleep(300);
      lay(folder);
      writeFileSync(join(folder, 'late.obj'), OBJ);
      await sleep(1200);
      assert.ok(server.alive);
      assert.ok(await ask());
    });
    await server.request(`/api/crates/${id}`, { method: 'DELETE' });
  }
  await attempt('the folder itself is a file, or gone', async () => {
    const { id } = await server.newCrate('watch_gone');
    const folder = mkdtempSync(join(scratch, 'watched-'));
    await server.json(`/api/crates/${id}/watch`, { method: 'PUT', body: { folder, automatic: false } });
    rmSync(folder, { recursive: true });
    writeFileSync(folder, 'a file now');
    await server.kill();
    server = await Server.start(data);
    await sleep(700);
    assert.match((await server.json(`/api/crates/${id}/watch`)).watch.problem, /file, not a folder/);
  });
  await server.stop();
}
