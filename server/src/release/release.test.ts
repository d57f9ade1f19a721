import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import request from 'supertest';
import { createWorkshop } from '@violet-crate/workshop/app';
import { createApp } from '../app.ts';
import { QUICK_LIGHT, demoData } from '../testing.ts';
import { GamesService } from '../games/games.service.ts';
import { BuildsService } from '../builds/builds.service.ts';
import { readConfig, type Config } from '../config.ts';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { builds, packages } from '../database/schema.ts';
import { TASKS } from '../jobs/tasks.ts';

// The workers' tasks run in this process; everything else is the real server and the real workshop.
const data = demoData();
const quiet = { progress: () => {}, log: () => {}, program: () => {}, picture: () => {} };
let config: Config;
let app: NestExpressApplication;
let workshop: NestExpressApplication;
let id: string;
let packageId: string;

function send(method: 'post' | 'put' | 'patch', path: string, body: object) {
  const agent = request(app.getHttpServer() as never);
  return agent[method](path).set('host', '127.0.0.1').send(body);
}
const get = (path: string) =>
  request(app.getHttpServer() as never)
    .get(path)
    .set('host', '127.0.0.1');

/** Sends a package, and answers how that ended. */
async function publish(packageId: string, more: object = {}): Promise<{ id: string; state: string; problem: string | null }> {
  const started = await send('post', `/api/crates/${id}/publish`, { packageId, ...more });
  expect(started.status).toBe(201);
  for (;;) {
    const [latest] = (await get(`/api/crates/${id}/uploads`)).body as { id: string; state: string; problem: string | null }[];
    if (latest.state !== 'running') return latest;
    await new Promise((done) => setTimeout(done, 20));
  }
}

/** Builds and packs as the workers would, and enters the rows. */
async function buildAndPack(name: string): Promise<void> {
  const database = app.get<Database>(DATABASE);
  const world = app.get(CratesService).world(id);
  const built = await TASKS.build(
    {
      world,
      map: name,
      quality: 'draft',
      parameters: QUICK_LIGHT,
      anyway: false,
      blobs: config.blobs,
      cache: config.cache,
      base: app.get(GamesService).basePackFolder(app.get(CratesService).game(id)),
      required: config.required,
      game: null,
    },
    quiet,
  );
  const buildId = `build-${Date.now()}`;
  const inputHash = app.get(BuildsService).inputHash(id, name);
  database
    .insert(builds)
    .values({
      id: buildId,
      crateId: id,
      map: name,
      quality: 'draft',
      inputHash,
      ok: built.ok,
      stages: built.stages,
      artefacts: built.artefacts,
      createdAt: new Date().toISOString(),
    })
    .run();
  const packed = await TASKS.pack({ world, artefacts: built.artefacts, blobs: config.blobs, key: config.authorKey, platforms: [] }, quiet);
  packageId = `package-${Date.now()}`;
  database
    .insert(packages)
    .values({ id: packageId, crateId: id, ...packed, inputHash: 'any', createdAt: new Date().toISOString() })
    .run();
}

beforeAll(async () => {
  workshop = await createWorkshop({
    database: join(data, 'workshop.sqlite'),
    files: join(data, 'workshop'),
    token: 'right',
    depot: join(data, 'depot'),
  });
  await workshop.listen(0, '127.0.0.1');
  config = readConfig({
    VIOLET_CRATE_DATA: data,
    VIOLET_CRATE_PORT: '0',
    VIOLET_CRATE_WEB: join(data, 'no-web'),
    VIOLET_CRATE_WORKSHOP: await workshop.getUrl(),
    VIOLET_CRATE_WORKSHOP_TOKEN: 'right',
  });
  app = await createApp(config);
  await app.init();
  id = ((await send('post', '/api/crates', { profile: 'brinewick', name: 'quay', title: 'Quay', template: 'sealed-room' })).body as { id: string })
    .id;
  await buildAndPack('quay');
});

afterAll(async () => {
  await app.close();
  await workshop.close();
  rmSync(data, { recursive: true, force: true });
});

describe('from package to the game', () => {
  let shareCode: string;

  it('a package is downloaded as it was made', async () => {
    const answer = await get(`/api/packages/${packageId}/file`);
    expect(answer.status).toBe(200);
    expect(answer.headers['content-disposition']).toContain('quay-0.1.0.zip');
    expect((await get('/api/packages/none/file')).status).toBe(404);
  });

  it('is published, listed with the crate, and installed with every hash right', async () => {
    expect(await publish(packageId, { notes: 'first' })).toMatchObject({ state: 'done', problem: null });
    shareCode = ((await get(`/api/crates/${id}/packages`)).body as { releases: { shareCode: string }[] }).releases[0].shareCode;
    const installed = await send('post', '/api/games/brinewick/mods/install', { shareCode });
    expect(installed.body).toMatchObject([{ name: 'quay', version: '0.1.0' }]);
    expect(existsSync(join(config.games, 'brinewick/mods/quay/release.json'))).toBe(true);
  });

  it('installing again replaces the folder whole: nothing of an older state is left', async () => {
    const stray = join(config.games, 'brinewick/mods/quay/stray.txt');
    writeFileSync(stray, 'left over');
    writeFileSync(join(config.games, 'brinewick/mods/quay/scripts/main.lua'), 'changed');
    expect((await send('post', '/api/games/brinewick/mods/install', { shareCode })).status).toBe(201);
    expect(existsSync(stray)).toBe(false);
    expect(readFileSync(join(config.games, 'brinewick/mods/quay/scripts/main.lua'), 'utf8')).toContain('function startup');
  });

  it('a stale build is not packaged', async () => {
    await send('put', `/api/crates/${id}/scripts/main.lua`, { source: 'function startup() say("new") end' });
    const answer = await send('post', `/api/crates/${id}/packages`, {});
    expect(answer.status).toBe(409);
    expect((answer.body as { detail: string }).detail).toContain('Build it again');
    const list = (await get(`/api/crates/${id}/builds`)).body as { fresh: boolean }[];
    expect(list[0].fresh).toBe(false);
  });

  it('a wrong token, an absent workshop and an unknown code are said as what they are', async () => {
    await send('put', '/api/settings', { workshopToken: 'wrong' });
    await buildAndPack('quay');
    expect(await publish(packageId)).toMatchObject({ state: 'failed', problem: expect.stringMatching(/token is not right.*Check the token/) });
    await send('put', '/api/settings', { workshopToken: 'right' });
    expect((await send('post', '/api/games/brinewick/mods/install', { shareCode: 'XXXX-XXXX' })).body).toMatchObject({ code: 'workshop-refused' });
    await send('put', '/api/settings', { workshopUrl: 'http://127.0.0.1:1' });
    expect((await send('post', '/api/games/brinewick/mods/install', { shareCode })).body).toMatchObject({ code: 'workshop-unreachable' });
    expect((await send('put', '/api/settings', { workshopUrl: 'nonsense' })).status).toBe(400);
  });
});
