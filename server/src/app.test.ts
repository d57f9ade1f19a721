import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import request from 'supertest';
import { writeZip, readZip } from '@violet-crate/core/asset/archive/zip';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { newCrateTree } from '@violet-crate/core/crate/template';
import { loadProfile } from '@violet-crate/core/profile/load';
import { BlobStore } from '@violet-crate/host/blobStore';
import { readConfig, type Config } from './config.ts';
import { openCrates } from './crates/openCrates.ts';
import { SettingsService } from './settings/settings.service.ts';
import { JobsService } from './jobs/jobs.service.ts';
import { TASKS } from './jobs/tasks.ts';
import { createApp } from './app.ts';
import { QUICK_LIGHT, demoData } from './testing.ts';

// Worker threads run compiled code; here their tasks are called in this process, and e2e tests the rest.
const data = demoData();
let config: Config;
let app: NestExpressApplication;
const api = () => request(app.getHttpServer() as never);

const lamp: MapEdit = {
  name: 'add lamp',
  changes: [
    {
      of: 'objects',
      id: 'o9',
      to: { class: 'lamp', name: 'lamp_9', position: [0, 0, 64], turn: 0, properties: { colour: '#ffffff', intensity: 10, reach: 100, lit: true } },
    },
  ],
};

async function newCrate(name: string, template = 'sealed-room'): Promise<string> {
  const answer = await api().post('/api/crates').set('host', '127.0.0.1').send({ profile: 'brinewick', name, title: name, template });
  expect(answer.status).toBe(201);
  return (answer.body as { id: string }).id;
}

const profileOf = (id: string) => loadProfile(readFileSync(new URL(`../../core/profiles/${id}.json`, import.meta.url), 'utf8'), `${id}.json`);

const get = (path: string) => api().get(path).set('host', '127.0.0.1');

beforeAll(async () => {
  config = readConfig({ VIOLET_CRATE_DATA: data, VIOLET_CRATE_PORT: '0', VIOLET_CRATE_WEB: join(data, 'no-web') });
  app = await createApp(config);
  await app.init();
});

afterAll(async () => {
  await app.close();
  rmSync(data, { recursive: true, force: true });
});

describe('who is served', () => {
  it('not a foreign host, nor another site’s page', async () => {
    expect((await api().get('/api/crates').set('host', 'evil.example')).status).toBe(403);
    const foreign = await api().post('/api/crates').set('host', '127.0.0.1').set('origin', 'http://evil.example').send({});
    expect(foreign.status).toBe(403);
    expect(foreign.headers['content-type']).toContain('application/problem+json');
    expect((await get('/api/crates')).status).toBe(200);
  });

  it('documents itself', async () => {
    const paths = Object.keys(((await get('/api/docs-json')).body as { paths: object }).paths);
    expect(paths).toEqual(expect.arrayContaining(['/api/crates', '/api/crates/{id}/builds', '/api/jobs/events', '/api/crates/{id}/publish']));
  });
});

describe('set-up', () => {
  it('checks the disk, notices damage and repairs it', async () => {
    const checks = async () =>
      ((await get('/api/games/brinewick/checks')).body as { id: string; ok: boolean }[]).filter((c) => !c.ok).map((c) => c.id);
    expect(await checks()).toEqual([]);
    const game = join(config.games, 'brinewick');
    writeFileSync(join(game, 'base/textures/brick.ktx2'), 'overwritten');
    rmSync(join(game, 'tools/mapkit'), { recursive: true });
    writeFileSync(join(game, 'tools/texpress/tool.json'), JSON.stringify({ tool: 'texpress', version: '1.9.0' }));
    rmSync(join(game, 'mods'), { recursive: true });
    expect(await checks()).toEqual(['tool-mapkit', 'version-texpress', 'base', 'mods']);
    for (const action of ['tool:mapkit', 'tool:texpress', 'base', 'mods'])
      expect((await api().post('/api/games/brinewick/repairs').set('host', '127.0.0.1').send({ action })).status).toBe(201);
    expect(await checks()).toEqual([]);
    expect((await api().post('/api/games/brinewick/repairs').set('host', '127.0.0.1').send({ action: 'nonsense' })).status).toBe(422);
  });

  it('serves stock files and nothing beside them', async () => {
    expect((await get('/api/games/brinewick/base/previews/textures/brick.png')).status).toBe(200);
    expect((await get('/api/games/brinewick/base/..%2Fversion.json')).status).toBe(404);
  });
});

describe('crates', () => {
  it('are planned, made, listed and deleted', async () => {
    const plan = await api()
      .post('/api/crates/plan')
      .set('host', '127.0.0.1')
      .send({ profile: 'brinewick', name: 'planned', title: 'Planned', template: 'blank' });
    expect((plan.body as { files: string[] }).files).toEqual(['crate.json', 'maps/planned.map.json', 'scripts/main.lua']);
    const id = await newCrate('made');
    expect(((await get('/api/crates')).body as { id: string }[]).map((c) => c.id)).toContain(id);
    expect((await api().delete(`/api/crates/${id}`).set('host', '127.0.0.1')).status).toBe(204);
    expect((await get(`/api/crates/${id}`)).status).toBe(404);
  });

  it('names that the game cannot load, or that are taken, are refused', async () => {
    await newCrate('taken');
    for (const name of ['Has Spaces', 'Capital', 'taken', '9digits', '']) {
      const answer = await api().post('/api/crates').set('host', '127.0.0.1').send({ profile: 'brinewick', name, title: 'x', template: 'blank' });
      expect(answer.status).toBe(422);
    }
  });

  it('save edits in order, refuse edits on an old revision, and survive many', async () => {
    const id = await newCrate('edited');
    const send = (base: number, edits: unknown[]) => api().post(`/api/crates/${id}/maps/edited/edits`).set('host', '127.0.0.1').send({ base, edits });
    expect((await send(0, [lamp])).body).toEqual({ revision: 1, others: [] });
    expect((await send(0, [lamp])).status).toBe(409);
    for (let i = 1; i < 60; i++) expect((await send(i, [{ ...lamp, name: `edit ${i}` }])).status).toBe(201);
    const { map, revision } = (await get(`/api/crates/${id}/maps/edited`)).body as { map: { objects: object }; revision: number };
    expect(revision).toBe(60);
    expect(map.objects).toHaveProperty('o9.name', 'lamp_9');
    expect((await send(60, [{ name: 'bad', changes: [{ of: 'objects', id: 'o1', to: { class: 7 } }] }])).status).toBe(422);
    expect((await send(60, [])).status).toBe(400);
  });

  it('merge what touches different things, and leave the same things to the user', async () => {
    const id = await newCrate('merged');
    const send = (body: object) => api().post(`/api/crates/${id}/maps/merged/edits`).set('host', '127.0.0.1').send(body);
    const named = (name: string): MapEdit => ({
      name,
      changes: [{ ...lamp.changes[0], to: { ...(lamp.changes[0] as { to: object }).to, name } } as MapEdit['changes'][0]],
    });
    const band: MapEdit = { name: 'loft', changes: [{ of: 'bands', id: 'b2', to: { name: 'Loft', bottom: 128, top: 200 } }] };
    await send({ base: 0, edits: [named('first')] });
    expect((await send({ base: 0, edits: [band] })).body).toMatchObject({ revision: 2, others: [{ revision: 1, edit: { name: 'first' } }] });
    const refused = await send({ base: 0, edits: [named('second')] });
    expect(refused.status).toBe(409);
    expect(refused.body).toMatchObject({ code: 'map-conflict', conflicts: ['objects/o9'] });
    expect((await send({ base: 0, edits: [named('second')], force: true })).body).toMatchObject({ revision: 3 });
    expect((await send({ base: 99, edits: [band] })).status).toBe(409);
    const { map } = (await get(`/api/crates/${id}/maps/merged`)).body as { map: { objects: object; bands: object } };
    expect(map).toMatchObject({ objects: { o9: { name: 'second' } }, bands: { b2: { name: 'Loft' } } });
    expect(((await get(`/api/crates/${id}/maps/merged/edits?since=1`)).body as unknown[]).length).toBe(2);
  });

  it('keep every revision, to look at and to go back to', async () => {
    const id = await newCrate('kept');
    for (let i = 0; i < 55; i++)
      await api()
        .post(`/api/crates/${id}/maps/kept/edits`)
        .set('host', '127.0.0.1')
        .send({ base: i, edits: [{ ...lamp, name: `edit ${i + 1}` }] });
    const list = (await get(`/api/crates/${id}/maps/kept/revisions`)).body as { revision: number; name: string }[];
    expect([list.length, list[0].name, list[55].name]).toEqual([56, 'edit 55', 'as it began']);
    const at = async (n: number) => ((await get(`/api/crates/${id}/maps/kept/revisions/${n}`)).body as { map: { objects: object } }).map.objects;
    expect(Object.keys(await at(0))).toEqual(['o1', 'o2']);
    expect(Object.keys(await at(1))).toContain('o9');
    expect(Object.keys(await at(53))).toContain('o9');
    expect((await get(`/api/crates/${id}/maps/kept/revisions/x`)).status).toBe(400);
  });

  it('a map goes out as GLB and OBJ', async () => {
    const id = await newCrate('shown');
    const glb = await get(`/api/crates/${id}/maps/shown/export.glb`).buffer(true);
    expect([glb.status, glb.headers['content-type']]).toEqual([200, 'model/gltf-binary']);
    expect((await get(`/api/crates/${id}/maps/shown/export.obj`)).status).toBe(200);
    expect((await get(`/api/crates/${id}/maps/shown/export.stl`)).status).toBe(422);
    expect((await get(`/api/crates/${id}/maps/gone/export.glb`)).status).toBe(404);
  });

  it('a damaged map comes in as far as it can be read, and its file is kept', async () => {
    const tree = new Map(newCrateTree(profileOf('brinewick'), { name: 'torn', title: 'Torn', template: 'sealed-room' }));
    const path = 'maps/torn.map.json';
    const text = new TextDecoder().decode(tree.get(path)).replace('"s2": {', '"s2": {[');
    tree.set(path, new TextEncoder().encode(text));
    const answer = await api()
      .post('/api/crates/import')
      .set('host', '127.0.0.1')
      .attach('file', Buffer.from(writeZip(tree)), 'torn.zip');
    const body = answer.body as { id: string; damage: { message: string }[]; files: { path: string }[] };
    expect(body.damage.map((f) => f.message)).toEqual([expect.stringMatching(/line \d+, column \d+: solid s2/)]);
    expect(body.files.map((f) => f.path)).toContain(`sources/${path}`);
  });

  it('go out as a folder and come back equal', async () => {
    const id = await newCrate('travelling');
    await api().put(`/api/crates/${id}/scripts/extra.lua`).set('host', '127.0.0.1').send({ source: 'function f() end' });
    const zip = (
      await get(`/api/crates/${id}/export`)
        .buffer(true)
        .parse((response, done) => {
          const parts: Buffer[] = [];
          response.on('data', (part: Buffer) => parts.push(part));
          response.on('end', () => done(null, Buffer.concat(parts)));
        })
    ).body as Buffer;
    const tree = readZip(new Uint8Array(zip), 'x.zip');
    expect([...tree.keys()]).toEqual(['crate.json', 'maps/travelling.map.json', 'scripts/extra.lua', 'scripts/main.lua']);
    await api().delete(`/api/crates/${id}`).set('host', '127.0.0.1');
    const nested = writeZip(new Map([...tree].map(([path, bytes]) => [`travelling/${path}`, bytes])));
    const back = await api().post('/api/crates/import').set('host', '127.0.0.1').attach('file', Buffer.from(nested), 'travelling.zip');
    expect(back.status).toBe(201);
    expect(back.body).toMatchObject({ manifest: { name: 'travelling' }, maps: ['travelling'] });
  });

  it('keep walks of their maps, and refuse those that are none, with the line', async () => {
    const id = await newCrate('walked');
    const walk = { format: 1, map: 'walked', inputs: ['60 0 0 0 - 10000 0 0'], marks: [], track: [], hashes: [], ended: null };
    const put = (map: string, name: string, body: object) => api().put(`/api/crates/${id}/walks/${map}/${name}`).set('host', '127.0.0.1').send(body);
    expect((await put('walked', 'first', { walk })).body).toMatchObject({ path: 'walks/walked/first.walk.json' });
    expect((await get(`/api/crates/${id}/files/walks/walked/first.walk.json`)).status).toBe(200);
    for (const [map, name, body, says] of [
      ['walked', 'first', { walk: { ...walk, map: 'other' } }, 'recorded in the map other'],
      ['walked', 'first', { walk: { ...walk, inputs: ['run away'] } }, 'Line 1 of the walk'],
      ['walked', 'first', { walk: { ...walk, extra: 1 } }, 'extra'],
      ['walked', 'First!', { walk }, 'First!'],
      ['other', 'first', { walk }, 'There is no map other'],
      ['walked', 'first', { walk: 'x' }, 'walk'],
    ] as const) {
      const answer = await put(map, name, body);
      expect([answer.status >= 400 && answer.status < 500, (answer.body as { detail: string }).detail]).toEqual([
        true,
        expect.stringContaining(says),
      ]);
    }
    const { headers } = await get(`/api/crates/${id}/files/walks/walked/first.walk.json`);
    expect(Number(headers['content-length'])).toBe(JSON.stringify(walk).length);
  });

  it('an archive with ../ paths is refused and leaves everything as it was', async () => {
    const before = (await get('/api/crates')).body as unknown[];
    const evil = await api()
      .post('/api/crates/import')
      .set('host', '127.0.0.1')
      .attach('file', Buffer.from(writeZip(new Map([['../evil', new Uint8Array(1)]]))), 'evil.zip');
    expect(evil.status).toBe(422);
    expect((evil.body as { detail: string }).detail).toContain('outside the folder');
    expect((await get('/api/crates')).body).toEqual(before);
  });

  it('texts are changed within their rules', async () => {
    const id = await newCrate('texts');
    const patch = (body: object) => api().patch(`/api/crates/${id}`).set('host', '127.0.0.1').send(body);
    expect((await patch({ title: 'New', authors: ['A'], credits: [{ author: 'B', work: 'C', licence: 'CC0' }] })).body).toMatchObject({
      title: 'New',
      authors: ['A'],
    });
    expect((await patch({ version: 'one' })).status).toBe(400);
    expect((await patch({ name: 'other' })).status).toBe(400);
  });
});

describe('tasks of the workers', () => {
  const pictures: string[][] = [];
  const quiet = {
    progress: () => {},
    log: () => {},
    program: () => {},
    picture: (map: string, files: Map<string, unknown>) => void pictures.push([map, ...files.keys()]),
  };

  it('build, store and pack a crate, with a picture of its light on the way and one of what came out', async () => {
    const { CratesService } = await import('./crates/crates.service.ts');
    const id = await newCrate('packed');
    const world = app.get(CratesService).world(id);
    const { GamesService } = await import('./games/games.service.ts');
    const base = app.get(GamesService).basePackFolder(app.get(CratesService).game(id));
    const built = await TASKS.build(
      {
        world,
        map: 'packed',
        quality: 'draft',
        parameters: QUICK_LIGHT,
        anyway: false,
        blobs: config.blobs,
        cache: config.cache,
        base,
        required: config.required,
        game: null,
      },
      quiet,
    );
    expect(built.ok).toBe(true);
    // A picture is made beside the light, and of so small a map may come after it.
    for (let i = 0; i < 50 && pictures.length === 0; i++) await new Promise((done) => setTimeout(done, 100));
    expect(pictures[0]).toEqual(['packed', 'lightmap.ktx2', 'map.glb']);
    expect([...app.get(BlobStore).read(built.picture!).subarray(1, 4)].map((code) => String.fromCharCode(code)).join('')).toBe('PNG');
    const packed = await TASKS.pack({ world, artefacts: built.artefacts, blobs: config.blobs, key: config.authorKey, platforms: ['lantern'] }, quiet);
    const [lantern] = packed.platforms;
    expect([lantern.id, app.get(BlobStore).has(lantern.sha256), lantern.sha256 === packed.sha256]).toEqual(['lantern', true, false]);
    expect(lantern.differences.join()).toContain('scripts/main.lua: lines end with CR and LF');
    expect(app.get(BlobStore).has(packed.sha256)).toBe(true);
    expect(existsSync(app.get(BlobStore).pathOf(built.artefacts[0].sha256))).toBe(true);
    expect(readFileSync(app.get(BlobStore).pathOf(packed.sha256)).length).toBe(packed.bytes);
  });
});

describe('jobs', () => {
  it('that were running when the process died are marked as interrupted', async () => {
    const { DATABASE } = await import('./database/database.ts');
    const { jobs } = await import('./database/schema.ts');
    const database = app.get<import('./database/database.ts').Database>(DATABASE);
    const row = {
      kind: 'build',
      crateId: null,
      label: 'x',
      step: '',
      progress: 0.4,
      result: null,
      error: null,
      log: [],
      createdAt: new Date().toISOString(),
      finishedAt: null,
    };
    database
      .insert(jobs)
      .values([
        { ...row, id: 'a', state: 'running' },
        { ...row, id: 'b', state: 'queued' },
        { ...row, id: 'c', state: 'done' },
      ])
      .run();
    const revived = new JobsService(database, config, new SettingsService(database, config), openCrates(config, database));
    expect(['a', 'b', 'c'].map((id) => revived.get(id).state)).toEqual(['interrupted', 'interrupted', 'done']);
  });

  it('packaging without a fresh build is refused with what to do', async () => {
    const id = await newCrate('unbuilt');
    const answer = await api().post(`/api/crates/${id}/packages`).set('host', '127.0.0.1').send({});
    expect(answer.status).toBe(409);
    expect((answer.body as { detail: string }).detail).toContain('Build it first');
  });
});
