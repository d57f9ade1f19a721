import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { INestApplication } from '@nestjs/common';
import type { Offer } from '@violet-crate/core/setup/packUpdates';
import type { DepotIndex } from '@violet-crate/core/setup/depot';
import { createWorkshop } from '@violet-crate/workshop/app';
import { startApplication, type TestApplication } from '../testing.ts';

let t: TestApplication;
let workshop: INestApplication;

beforeAll(async () => {
  t = await startApplication();
  workshop = await createWorkshop({
    database: join(t.config.data, 'workshop.sqlite'),
    files: join(t.config.data, 'workshop'),
    token: 'right',
    depot: t.config.depot,
  });
  await workshop.listen(0, '127.0.0.1');
  await t.send('put', '/api/settings', { depotUrl: `${(await workshop.getUrl()).replace('[::1]', '127.0.0.1')}/depot` });
});
afterAll(async () => {
  await t.close();
  await workshop.close();
  rmSync(t.config.data, { recursive: true, force: true });
});

const offer = async (id: string) =>
  ((await t.get('/api/depot/games/brinewick')).body as { offers: Offer[] }).offers.find(({ item }) => item.id === id)!;
interface Row {
  id: string;
  item: string;
  state: string;
  problem: string | null;
}
async function fetched(item: string, version: string): Promise<Row> {
  const begun = await t.send('post', '/api/depot/games/brinewick', { item, version });
  expect([begun.status, begun.text]).toEqual([201, expect.anything()]);
  for (;;) {
    const row = ((await t.get('/api/depot/downloads')).body as Row[]).find((one) => one.item === item)!;
    if (row.state === 'done' || row.state === 'failed') return row;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
}

describe('what the depot has', () => {
  it('a pack comes in one version, is updated, goes back to the one before, and is removed', async () => {
    const pack = join(t.config.games, 'brinewick', 'base', 'packs', 'chandlery');
    expect(await fetched('chandlery', '1.0.0')).toMatchObject({ state: 'done' });
    const { installed, update, before } = await offer('chandlery');
    expect([installed, update, before]).toEqual(['1.0.0', '1.1.0', null]);
    await fetched('chandlery', '1.1.0');
    expect(await offer('chandlery')).toMatchObject({ installed: '1.1.0', update: null, before: '1.0.0' });
    await fetched('chandlery', '1.0.0');
    expect((await offer('chandlery')).installed).toBe('1.0.0');
    expect(existsSync(pack)).toBe(true);
    expect((await t.send('delete', '/api/depot/games/brinewick/chandlery')).status).toBe(204);
    expect(existsSync(pack)).toBe(false);
    expect((await t.send('delete', '/api/depot/games/brinewick/chandlery')).status).toBe(404);
  });

  it('what it no longer has, or what is not for this game, is refused by name', async () => {
    const ask = async (item: string, version: string) => {
      const { status, body } = await t.send('post', '/api/depot/games/brinewick', { item, version });
      return [status, (body as { detail: string }).detail];
    };
    expect(await ask('chandlery', '9.0.0')).toEqual([404, expect.stringMatching(/no chandlery 9\.0\.0/)]);
    expect(await ask('ridgekit', '2.4.0')).toEqual([422, expect.stringMatching(/knows no tool "ridgekit"/)]);
    expect(await ask('oxbow', '0.1.0')).toEqual([422, expect.stringMatching(/under Profiles/)]);
    expect(((await t.get('/api/depot/downloads')).body as Row[]).filter(({ state }) => state !== 'done')).toEqual([]);
  });

  it('an example that is there already comes to lie beside it', async () => {
    const crates = async () => ((await t.get('/api/crates')).body as { manifest: { name: string; title: string } }[]).map(({ manifest }) => manifest);
    for (let i = 0; i < 2; i++) expect(await fetched('pumphouse', '1.0.0')).toMatchObject({ state: 'done', problem: null });
    expect((await crates()).map(({ name }) => name).sort()).toEqual(['pumphouse', 'pumphouse_2']);
    expect(await crates()).toContainEqual(expect.objectContaining({ name: 'pumphouse_2', title: 'Pumphouse at Low Tide (1.0.0)' }));
  });

  it('a profile of a third game is added once', async () => {
    const listed = async () => ((await t.get('/api/depot/profiles')).body as { item: { id: string }; installed: string | null }[])[0];
    expect(await listed()).toMatchObject({ item: { id: 'oxbow' }, installed: null });
    expect((await t.send('post', '/api/depot/profiles', { item: 'oxbow', version: '0.1.0' })).status).toBe(204);
    expect((await listed()).installed).toBe('0.1.0');
    const { profiles } = (await t.get('/api/profiles')).body as { profiles: { id: string; shipped: boolean }[] };
    expect(profiles.find(({ id }) => id === 'oxbow')).toMatchObject({ shipped: false });
    // Taken once more it stays as it is; what is no profile is refused.
    expect((await t.send('post', '/api/depot/profiles', { item: 'oxbow', version: '0.1.0' })).status).toBe(204);
    expect((await t.send('post', '/api/depot/profiles', { item: 'mapkit', version: '2.4.0' })).status).toBe(422);
  });

  it('an archive that is not what the index says is not taken, and a depot that does not answer is told', async () => {
    const archive = join(t.config.depot, 'oxbow-0.1.0.zip');
    const right = readFileSync(archive);
    writeFileSync(
      archive,
      right.map((byte, i) => (i === 40 ? byte ^ 1 : byte)),
    );
    const lied = await t.send('post', '/api/depot/profiles', { item: 'oxbow', version: '0.1.0' });
    expect([lied.status, (lied.body as { detail: string }).detail]).toEqual([422, expect.stringMatching(/hash|block|not what/i)]);
    writeFileSync(archive, right);

    const index = join(t.config.depot, 'index.json');
    const text = readFileSync(index, 'utf8');
    const changed = JSON.parse(text) as DepotIndex;
    changed.items.find(({ id }) => id === 'oxbow')!.id = 'other';
    writeFileSync(index, JSON.stringify(changed));
    expect((await t.send('post', '/api/depot/profiles', { item: 'other', version: '0.1.0' })).status).toBeGreaterThanOrEqual(400);
    writeFileSync(index, text);
    await t.send('put', '/api/settings', { depotUrl: 'http://127.0.0.1:9/depot' });
    const away = await t.get('/api/depot/profiles');
    expect(away.status).toBeGreaterThanOrEqual(400);
    expect((away.body as { detail: string }).detail).toMatch(/depot/i);
  });
});
