/** Starts that cannot be: two servers on one folder, a damaged database, a port in use. */
import assert from 'node:assert/strict';
import { copyFileSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { dataFolder, freePort, ROOT, run, Server } from './target.mjs';

const main = join(ROOT, 'server/dist/main.js');
const restore = join(ROOT, 'server/dist/restore.js');

/** The server has to end with code 2 and one sentence. */
async function refused(env, pattern) {
  const { code, err } = await run(process.execPath, [main], { env: { VIOLET_CRATE_PORT: String(await freePort()), ...env } });
  assert.equal(code, 2, err);
  assert.match(err, pattern);
  assert.ok(err.trim().split('\n').length <= 2 && !/\n\s+at /.test(err), `a stack: ${err}`);
}

export async function attack(attempt) {
  const data = await dataFolder();
  const database = join(data, 'crates.sqlite');
  await attempt('a second server on the same folder', async () => {
    const first = await Server.start(data);
    await refused({ VIOLET_CRATE_DATA: data }, new RegExp(`in use by process ${first.child.pid} \\(port ${first.port}`));
    const crate = await first.newCrate('two_servers');
    const order = { base: 0, edits: [{ name: 'x', changes: [{ of: 'bands', id: 'b9', to: { name: 'nine', bottom: 0, top: 8 } }] }] };
    assert.equal((await first.json(`/api/crates/${crate.id}/maps/two_servers/edits`, { method: 'POST', body: order })).revision, 1);
    await first.kill();
  });
  await attempt('a start after a killed one, whose lock lies there', async () => {
    await (await Server.start(data)).kill();
    await (await Server.start(data)).stop();
  });
  await attempt('a port in use', async () => {
    const other = await dataFolder();
    const first = await Server.start(data);
    await refused({ VIOLET_CRATE_DATA: other, VIOLET_CRATE_PORT: String(first.port) }, /Port \d+ is taken/);
    await first.stop();
  });
  await attempt('an odd port', () => refused({ VIOLET_CRATE_DATA: data, VIOLET_CRATE_PORT: '70000' }, /has to be a port number/));
  const whole = `${database}.whole`;
  copyFileSync(database, whole);
  for (const [name, damage, pattern] of [
    ['cut off in the middle', () => truncateSync(database, 20_000), /is damaged/],
    ['empty', () => truncateSync(database, 0), /is empty/],
    ['something else', () => writeFileSync(database, 'no database at all, but a text that is long enough '.repeat(100)), /no SQLite file/],
    [
      'overwritten in its middle',
      () => {
        const bytes = readFileSync(whole);
        bytes.fill(0x55, 8192, 60_000);
        writeFileSync(database, bytes);
      },
      /is damaged/,
    ],
  ])
    await attempt(`a database that is ${name}`, async () => {
      for (const ending of ['-wal', '-shm']) rmSync(database + ending, { force: true });
      damage();
      await refused({ VIOLET_CRATE_DATA: data }, pattern);
    });
  await attempt('bringing back the daily copy', async () => {
    const [copy] = readdirSync(join(data, 'copies')).filter((name) => name.includes('daily'));
    const { code, out, err } = await run(process.execPath, [restore, copy], { env: { VIOLET_CRATE_DATA: data } });
    assert.equal(code, 0, err);
    assert.match(out, /Brought back/);
    const server = await Server.start(data);
    assert.ok(await server.pumphouse());
    const again = await run(process.execPath, [restore, copy], { env: { VIOLET_CRATE_DATA: data } });
    assert.equal(again.code, 2);
    assert.match(again.err, /in use by process/);
    await server.stop();
  });
  await attempt('bringing back what is no copy', async () => {
    writeFileSync(join(data, 'copies', '2026-01-01T00-00-00-daily-crates.sqlite'), 'no copy');
    const { code, err } = await run(process.execPath, [restore, '2026-01-01T00-00-00-daily-crates.sqlite'], { env: { VIOLET_CRATE_DATA: data } });
    assert.equal(code, 2);
    assert.match(err, /is damaged/);
  });
}
