/** What once broke the server, each with the case that did. Full disks, kills and odd folders are tried by bench/attack. */

import { existsSync, mkdtempSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import { JobsService } from './jobs/jobs.service.ts';
import { CratesService } from './crates/crates.service.ts';
import { SpaceService } from './space/space.service.ts';
import { WatchService } from './watch/watch.service.ts';
import { startApplication, type TestApplication } from './testing.ts';

const OBJ = 'v 0 0 0\nv 64 0 0\nv 0 64 0\nv 0 0 64\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n';
const text = (content: string) => new TextEncoder().encode(content);
const later = (ms: number) => new Promise((done) => setTimeout(done, ms));

let t: TestApplication;
beforeAll(async () => {
  t = await startApplication();
});
afterAll(() => t.close());

interface Imported {
  files: { file: string; state: string; path?: string; reason?: string }[];
}
const imported = async (id: string, files: Record<string, Uint8Array | string>) => {
  const { jobs } = (await t.upload(`/api/crates/${id}/assets`, files)).body as { jobs: { id: string }[] };
  return (await t.ended(jobs[0])) as { state: string; result: Imported | null; error: { message: string; code?: string } | null };
};
const paths = async (id: string) =>
  ((await t.get(`/api/crates/${id}`)).body as { files: { path: string }[] }).files
    .map((file) => file.path)
    .filter((path) => !/^(sources|previews)/.test(path));

describe('jobs', () => {
  it('of a crate that is deleted are told to stop and awaited, and what they say afterwards ends nothing', async () => {
    const id = await t.newCrate('doomed');
    const jobs = t.app.get(JobsService);
    let stopped = false;
    let say: () => void = () => {};
    jobs.drive('convert', id, 'slow', async ({ signal, progress }) => {
      say = () => progress('late', 0.5);
      await new Promise<void>((done) => signal.addEventListener('abort', () => setTimeout(done, 100)));
      stopped = true;
      throw new Error('after all');
    });
    expect((await t.send('delete', `/api/crates/${id}`)).status).toBe(204);
    expect(stopped).toBe(true);
    say();
    await later(20);
    expect((await t.get('/api/crates')).status).toBe(200);
  });

  it('whose work throws, at once or later, fail with a sentence and nothing else', async () => {
    const id = await t.newCrate('throwing');
    const jobs = t.app.get(JobsService);
    const works = [
      () => {
        throw new Error('at once');
      },
      () => Promise.reject(new Error('later')),
    ];
    for (const work of works) {
      const job = jobs.drive('convert', id, 'bad', work);
      expect(await t.ended(job)).toMatchObject({ state: 'failed', error: { code: 'job-failed' } });
    }
  });

  it('hold in memory what a full disk does not take, and write it when there is room', async () => {
    const id = await t.newCrate('no_room');
    const jobs = t.app.get(JobsService);
    const { held } = jobs as unknown as { held: { write(row: unknown): void; again(): void; held: Map<string, unknown> } };
    const { write } = held;
    held.write = () => {
      throw Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });
    };
    const job = jobs.drive('convert', id, 'full', () => Promise.resolve({ n: 1 }));
    expect(await t.ended(job)).toMatchObject({ state: 'done', result: { n: 1 } });
    expect(held.held.size).toBe(1);
    held.again();
    expect(held.held.size).toBe(1);
    held.write = write;
    held.again();
    expect(held.held.size).toBe(0);
    expect(await t.ended(job)).toMatchObject({ state: 'done' });
  });
});

describe('imports', () => {
  it('keep files of one name from different folders apart, and find them again', async () => {
    const id = await t.newCrate('twins');
    const files = { 'a/door.lua': 'function a() end', 'b/door.lua': 'function b() end', 'a/post.obj': OBJ, 'b/post.obj': OBJ.replace('64', '32') };
    expect((await imported(id, files)).result!.files.map((file) => file.state)).toEqual(['done', 'done', 'done', 'done']);
    const before = await paths(id);
    expect(before).toEqual(['models/post.glb', 'models/post_2.glb', 'scripts/door.lua', 'scripts/door_2.lua', 'scripts/main.lua']);
    expect((await imported(id, files)).result!.files.map((file) => file.state)).toEqual(['unchanged', 'unchanged', 'unchanged', 'unchanged']);
    expect(await paths(id)).toEqual(before);
  });

  it('that were cancelled give their names back', async () => {
    const id = await t.newCrate('names_back');
    const { jobs } = (await t.upload(`/api/crates/${id}/assets`, { 'a/vase.obj': OBJ })).body as { jobs: { id: string }[] };
    await t.send('post', `/api/jobs/${jobs[0].id}/cancel`);
    await later(300);
    expect((await imported(id, { 'b/vase.obj': OBJ })).result!.files[0].path).toBe('models/vase.glb');
  });

  it('take a changed script over, but never over what was changed here', async () => {
    const id = await t.newCrate('scripts_again');
    await imported(id, { 'x/gate.lua': 'one = 1' });
    await imported(id, { 'x/gate.lua': 'two = 2' });
    expect((await t.get(`/api/crates/${id}/files/scripts/gate.lua`)).text).toBe('two = 2');
    await t.send('put', `/api/crates/${id}/scripts/gate.lua`, { source: 'mine = 3' });
    expect((await imported(id, { 'x/gate.lua': 'two = 2' })).result!.files[0].state).toBe('unchanged');
    const { result } = await imported(id, { 'x/gate.lua': 'four = 4' });
    expect(result!.files[0].path).toBe('scripts/gate_2.lua');
    expect((await t.get(`/api/crates/${id}/files/scripts/gate.lua`)).text).toBe('mine = 3');
  });

  it('merge a pack’s credits into what is there when they end', async () => {
    const id = await t.newCrate('credited');
    const pack = writeZip(
      new Map([
        ['pack.json', text(JSON.stringify({ format: 1, title: 'Moor', author: 'Ada', licence: 'CC0' }))],
        ['stone.obj', text(OBJ)],
      ]),
    );
    const opened = (await t.upload(`/api/crates/${id}/packs`, { 'moor.zip': pack })).body as { id: string };
    const { jobs } = (await t.send('post', `/api/crates/${id}/packs/${opened.id}/import`, { paths: ['stone.obj'] })).body as {
      jobs: { id: string }[];
    };
    await t.send('patch', `/api/crates/${id}`, { credits: [{ author: 'Grace', work: 'Sketches', licence: 'CC0' }] });
    await t.ended(jobs[0]);
    const { manifest } = (await t.get(`/api/crates/${id}`)).body as { manifest: { credits: { author: string }[] } };
    expect(manifest.credits.map((credit) => credit.author)).toEqual(['Grace', 'Ada']);
  });

  it('go on where one file fails in planning, in conversion, or as an archive', async () => {
    const id = await t.newCrate('goes_on');
    const { result } = await imported(id, {
      'v1.gltf': JSON.stringify({ asset: { version: '1.0' }, buffers: { b: {} } }),
      'broken.zip': 'PK nothing',
      'cut.fbx': 'Kaydara FBX Binary  \0\x1a\0',
      'good.obj': OBJ,
    });
    const state = Object.fromEntries(result!.files.map((file) => [file.file, file.state]));
    expect(state).toEqual({ 'v1.gltf': 'failed', 'broken.zip': 'skipped', 'cut.fbx': 'failed', 'good.obj': 'done' });
  });
});

describe('a watched folder', () => {
  it('with links in a circle is read without them, and says so', async () => {
    const id = await t.newCrate('looping');
    const folder = mkdtempSync(join(tmpdir(), 'violet-loop-'));
    writeFileSync(join(folder, 'vase.obj'), OBJ);
    symlinkSync('..', join(folder, 'up'));
    symlinkSync('self', join(folder, 'self'));
    const answer = await t.send('put', `/api/crates/${id}/watch`, { folder, automatic: false });
    expect(answer.body).toMatchObject({
      watch: { fresh: [expect.stringContaining('vase.obj')], problem: expect.stringContaining('up: it is a link') },
    });
    // Its crate goes, and nobody watches any more.
    expect((await t.send('delete', `/api/crates/${id}`)).status).toBe(204);
    expect(t.app.get(WatchService).view(id)).toBeNull();
    expect((await t.get(`/api/crates/${id}/watch`)).status).toBe(404);
  });
});

describe('free space', () => {
  /** Deleted crates can be had back, so that nothing of them is free before they are gone for good. */
  const forGood = async () => {
    for (const { id, deletedAt } of (await t.get('/api/crates')).body as { id: string; deletedAt: string | null }[])
      if (deletedAt) expect((await t.send('delete', `/api/crates/deleted/${id}`)).status).toBe(204);
  };
  const space = async () => (await t.get('/api/space')).body as Record<string, { files: number; bytes: number }>;

  it('clears away what nothing names, and never what can be put back, or a copy still names', async () => {
    const id = await t.newCrate('tidy');
    await imported(id, { 'vase.obj': OBJ, 'kept.lua': 'x = 1' });
    const { undo } = (await t.send('post', `/api/crates/${id}/assets/remove`, { entries: ['models/vase.glb'] })).body as { undo: string };
    writeFileSync(join(t.config.blobs, 'ab.part'), 'cut off');
    await t.send('put', `/api/crates/${id}/scripts/kept.lua`, { source: 'y = 2' });
    await forGood();
    const before = await space();
    expect(before.parts).toEqual({ files: 1, bytes: 7 });
    expect(before.unused.files).toBeGreaterThan(0);
    const left = (await t.send('post', '/api/space', { what: ['parts', 'unused'] })).body as typeof before;
    expect([left.parts.files, left.unused.files]).toEqual([0, 0]);
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${undo}/undo`, {})).status).toBe(200);
    expect((await t.get(`/api/crates/${id}/files/models/vase.glb`)).status).toBe(200);
    expect((await t.get(`/api/crates/${id}/files/scripts/kept.lua`)).text).toBe('y = 2');
    await t.send('delete', `/api/crates/${id}`);
    await forGood();
    expect((await space()).unused.files).toBeGreaterThan(0);
  });

  it('waits for work that is under way', async () => {
    const id = await t.newCrate('busy');
    let done: (result: Record<string, unknown>) => void = () => {};
    const job = t.app.get(JobsService).drive('convert', id, 'slow', () => new Promise((resolve) => (done = resolve)));
    expect((await t.send('post', '/api/space', { what: ['unused'] })).status).toBe(409);
    done({});
    await t.ended(job);
    expect((await t.send('post', '/api/space', { what: ['unused'] })).status).toBe(200);
    expect((await t.send('post', '/api/space', { what: ['everything'] })).status).toBe(400);
  });

  it('is kept by a daily copy of the database, which names what it needs', async () => {
    expect(readdirSync(join(t.config.data, 'copies')).some((name) => name.endsWith('-daily-crates.sqlite'))).toBe(true);
    const crates = t.app.get(CratesService);
    const id = await t.newCrate('in_copy');
    crates.writeFiles(id, [{ path: 'sources/only.txt', bytes: text('only here') }]);
    const hash = crates.fileHash(id, 'sources/only.txt');
    const { keepCopy } = await import('@violet-crate/host/copies');
    const { DATABASE } = await import('./database/database.ts');
    keepCopy((t.app.get(DATABASE) as { $client: never }).$client, t.config.database, 'migration');
    await t.send('delete', `/api/crates/${id}`);
    await forGood();
    const file = join(t.config.blobs, hash.slice(0, 2), hash);
    t.app.get(SpaceService).clear(['unused']);
    expect(existsSync(file)).toBe(true);
    t.app.get(SpaceService).clear(['copies']);
    expect(existsSync(file)).toBe(false);
  });
});

describe('requests', () => {
  it('that are nested too deep, too large or no JSON are refused in a sentence', async () => {
    const id = await t.newCrate('refusals');
    const raw = (body: string) => t.send('patch', `/api/crates/${id}`).set('content-type', 'application/json').send(body);
    expect(await raw('['.repeat(5000) + ']'.repeat(5000))).toMatchObject({
      status: 400,
      body: { detail: expect.stringContaining('nested more than 100') },
    });
    expect(await raw('{"a":')).toMatchObject({ status: 400, body: { detail: 'The request is no valid JSON.' } });
    expect(await raw(JSON.stringify({ description: 'x'.repeat(33 << 20) }))).toMatchObject({
      status: 413,
      body: { detail: 'The request is larger than 32 MB.' },
    });
    expect((await t.get('/api/crates/%E0%A4%A')).status).toBe(400);
    expect((await t.get(`/api/crates/${id}/files/a.constructor`)).status).toBe(404);
  });

  it('carry headers that keep a page to itself', async () => {
    const { headers } = await t.get('/api/crates');
    expect(headers['content-security-policy']).toContain("frame-ancestors 'none'");
    expect(headers['content-security-policy']).not.toMatch(/script-src[^;]*'unsafe-(inline|eval)/);
    expect(headers['x-powered-by']).toBeUndefined();
  });

  it('with a picture that is none, or options out of form, are refused by name', async () => {
    const id = await t.newCrate('forms');
    await imported(id, { 'vase.obj': OBJ });
    const reconvert = (options: object) => t.send('post', `/api/crates/${id}/assets/reconvert`, { path: 'models/vase.glb', options });
    for (const options of [
      { pivotPoint: [1] },
      { materials: { a: 7 } },
      { lods: ['x'] },
      { materials: Object.fromEntries(Array.from({ length: 501 }, (_, i) => [`m${i}`, 'x'])) },
    ])
      expect((await reconvert(options)).status).toBe(422);
    expect((await t.send('patch', `/api/crates/${id}`, { authors: ['x'.repeat(201)] })).status).toBe(400);
    expect(
      (await t.send('put', `/api/crates/${id}/materials/moss`, { material: { name: 'moss', type: 'lit', colour: 'red', unitsPerRepeat: 64 } }))
        .status,
    ).toBe(422);
    expect((await t.send('post', '/api/games/brinewick/mods/install', { shareCode: '' })).status).toBe(400);
  });

  it('a prefab that would hold itself is refused as an edit', async () => {
    const id = await t.newCrate('prefabs');
    const copy = { prefab: 'p1', name: 'inner', position: [0, 0, 0], turn: 0, values: {} };
    const to = { name: 'post', parameters: [], solids: {}, objects: {}, signals: {}, copies: { c1: copy } };
    const answer = await t.send('post', `/api/crates/${id}/maps/prefabs/edits`, {
      base: 0,
      edits: [{ name: 'x', changes: [{ of: 'prefabs', id: 'p1', to }] }],
    });
    expect(answer).toMatchObject({ status: 422, body: { code: 'prefab-cycle', detail: 'Prefab post would hold itself: post → post.' } });
    expect((await t.get(`/api/crates/${id}/maps/prefabs`)).body).toMatchObject({ revision: 0 });
  });
});
