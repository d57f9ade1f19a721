import { mkdirSync, mkdtempSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import { writeZip } from '@violet-crate/core/asset/archive/zip';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import { startApplication, type TestApplication } from '../testing.ts';

// Conversions run in the threads of the real converter, compiled.
let t: TestApplication;
beforeAll(async () => {
  t = await startApplication();
});
afterAll(() => t.close());

const png = (level: number) => encode({ width: 8, height: 8, data: new Uint8Array(192).fill(level), channels: 3, depth: 8 });
const OBJ = 'v 0 -1 0\nv 1 -1 0\nv 0 1 0\nv 0 -1 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n';

interface Row {
  file: string;
  state: string;
  path?: string;
  error?: { code: string; message: string };
  reason?: string;
}
interface View {
  manifest: CrateManifest;
  files: { path: string; sha256: string; findings: { code: string }[] }[];
}

const view = async (id: string) => (await t.get(`/api/crates/${id}`)).body as View;
const paths = async (id: string) => (await view(id)).files.map((file) => file.path);
async function done(answer: { status: number; body: unknown }): Promise<Row[]> {
  expect(answer.status).toBe(201);
  const job = await t.ended((answer.body as { jobs: { id: string }[] }).jobs[0]);
  return (job.result?.files ?? []) as Row[];
}
const take = async (id: string, files: Record<string, Uint8Array | string>) => done(await t.upload(`/api/crates/${id}/assets`, files));

describe('importing', () => {
  it('a folder with bad files in it: the rest comes in, the bad ones are named, nothing partial stays', async () => {
    const id = await t.newCrate('folder');
    const rows = await take(id, {
      'moor/props/vase.obj': OBJ,
      'moor/tex/peat.png': png(90),
      'moor/tex/peat_n.png': png(128),
      'moor/tex/broken.png': 'not a picture',
      'moor/cut.glb': 'glTF',
      'moor/extra.lua': 'function extra() end\n',
      'moor/readme.txt': 'hello',
    });
    expect(Object.fromEntries(rows.map((row) => [row.file, row.state]))).toEqual({
      'moor/props/vase.obj': 'done',
      'moor/tex/peat.png': 'done',
      'moor/tex/peat_n.png': 'done',
      'moor/tex/broken.png': 'failed',
      'moor/cut.glb': 'failed',
      'moor/extra.lua': 'done',
      'moor/readme.txt': 'skipped',
    });
    expect(rows.find((row) => row.file === 'moor/cut.glb')?.error).toMatchObject({ code: 'glb-invalid', message: expect.stringContaining('byte 4') });
    expect((await paths(id)).filter((path) => /broken|cut/.test(path))).toEqual([]);
    const { manifest } = await view(id);
    expect(manifest.materials).toMatchObject([{ name: 'peat', texture: 'textures/peat.ktx2', normal: 'textures/peat_n.ktx2' }]);
    // The same again changes nothing and converts nothing.
    const again = await take(id, { 'moor/props/vase.obj': OBJ, 'moor/tex/peat.png': png(90) });
    expect(again.map((row) => row.state)).toEqual(['unchanged', 'unchanged']);
  });

  it('one bad file alone is a failed job; a strange one is refused at once', async () => {
    const id = await t.newCrate('alone');
    const answer = await t.upload(`/api/crates/${id}/assets`, { 'bad.png': 'no' });
    const job = await t.ended((answer.body as { jobs: { id: string }[] }).jobs[0]);
    expect(job).toMatchObject({ state: 'failed', error: { message: expect.stringContaining('bad.png is not a PNG file') } });
    expect((await t.upload(`/api/crates/${id}/assets`, { 'notes.docx': 'x' })).status).toBe(422);
    expect((await t.upload(`/api/crates/${id}/assets`, { '../evil.png': 'x', 'b.png': 'x' })).status).toBe(422);
    expect(await paths(id)).toEqual(['scripts/main.lua']);
  });

  it('a fix converts again; settings for the folder hold from then on', async () => {
    const id = await t.newCrate('fixed');
    await take(id, {
      'props/a.obj': OBJ,
      'props/b.obj': OBJ.replaceAll('1', '2').replaceAll('f 2 3 2', 'f 1 3 2').split('f')[0] + OBJ.slice(OBJ.indexOf('f')),
    });
    const sinks = async () => (await view(id)).files.filter((file) => file.findings.some((f) => f.code === 'model-sinks')).map((file) => file.path);
    expect(await sinks()).toEqual(['models/a.glb', 'models/b.glb']);
    const reconvert = (body: object) => t.send('post', `/api/crates/${id}/assets/reconvert`, body);
    await done(await reconvert({ path: 'models/a.glb', options: { pivot: 'base' } }));
    expect(await sinks()).toEqual(['models/b.glb']);
    await done(await reconvert({ path: 'models/a.glb', options: { pivot: 'base' }, folder: true }));
    expect(await sinks()).toEqual([]);
    await take(id, { 'props/c.obj': OBJ });
    expect((await view(id)).manifest.assets['models/c.glb'].options.pivot).toBe('base');
    expect((await reconvert({ path: 'models/a.glb', options: { pivot: 'middle' } })).body).toMatchObject({
      status: 422,
      detail: expect.stringContaining('pivot'),
    });
    expect((await reconvert({ path: 'models/a.glb', options: { nonsense: 1 } })).status).toBe(422);
    expect((await reconvert({ path: 'models/none.glb', options: {} })).status).toBe(404);
  });

  it('a batch can be cancelled; what was done stays', async () => {
    const id = await t.newCrate('cancelled');
    const many = Object.fromEntries(
      Array.from({ length: 60 }, (_, i) => [
        `many/t${i}.png`,
        encode({ width: 256, height: 256, data: new Uint8Array(196608).fill(i), channels: 3, depth: 8 }),
      ]),
    );
    const answer = await t.upload(`/api/crates/${id}/assets`, many);
    const [job] = (answer.body as { jobs: { id: string }[] }).jobs;
    await t.send('post', `/api/jobs/${job.id}/cancel`);
    expect((await t.ended(job)).state).toBe('cancelled');
    const after = (await paths(id)).length;
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect((await paths(id)).length).toBe(after);
    // The converter goes on with others.
    expect((await take(id, { 'one.png': png(3) })).map((row) => row.state)).toEqual(['done']);
  });
});

describe('the library', () => {
  const place = async (id: string, name: string) => {
    const edit = {
      name: 'place',
      changes: [
        {
          of: 'objects',
          id: 'o9',
          to: { class: 'prop', name: 'vase_1', position: [0, 0, 0], turn: 0, properties: { model: 'models/vase.glb', solid: true } },
        },
      ],
    };
    expect((await t.send('post', `/api/crates/${id}/maps/${name}/edits`, { base: 0, edits: [edit] })).status).toBe(201);
  };

  it('renames through map, files and manifest', async () => {
    const id = await t.newCrate('renamed');
    await take(id, { 'vase.obj': OBJ });
    await place(id, 'renamed');
    const rename = (body: object) => t.send('post', `/api/crates/${id}/assets/rename`, body);
    expect((await rename({ entry: 'models/vase.glb', name: 'Tall Urn' })).status).toBe(422);
    expect((await rename({ entry: 'models/vase.glb', name: 'urn' })).body).toEqual({ entry: 'models/urn.glb' });
    expect(await paths(id)).toEqual(['models/urn.glb', 'previews/models/urn.png', 'scripts/main.lua', 'sources/models/urn.obj']);
    const { map } = (await t.get(`/api/crates/${id}/maps/renamed`)).body as { map: { objects: Record<string, { properties: { model: string } }> } };
    expect(map.objects.o9.properties.model).toBe('models/urn.glb');
    expect((await rename({ entry: 'models/none.glb', name: 'x' })).status).toBe(404);
    // Its source is found under its new name.
    expect(
      (await done(await t.send('post', `/api/crates/${id}/assets/reconvert`, { path: 'models/urn.glb', options: { pivot: 'base' } }))).map(
        (row) => row.state,
      ),
    ).toEqual(['done']);
  });

  it('removes only what nobody uses, unless told to, and puts it back', async () => {
    const id = await t.newCrate('removed');
    await take(id, { 'vase.obj': OBJ, 'peat.png': png(70) });
    await place(id, 'removed');
    const remove = (body: object) => t.send('post', `/api/crates/${id}/assets/remove`, body);
    const before = await view(id);
    const refused = await remove({ entries: ['models/vase.glb'] });
    expect(refused.body).toMatchObject({ status: 409, code: 'asset-used', detail: 'models/vase.glb is used by map removed (object vase_1).' });
    const { undo } = (await remove({ entries: ['models/vase.glb', 'textures/peat.ktx2'], anyway: true })).body as { undo: string };
    expect(await paths(id)).toEqual(['scripts/main.lua']);
    expect((await view(id)).manifest).toMatchObject({ assets: {}, materials: [] });
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${undo}/undo`, {})).status).toBe(200);
    const after = await view(id);
    expect(after.files).toEqual(before.files);
    expect(after.manifest).toEqual(before.manifest);
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${undo}/undo`, {})).status).toBe(404);
  });

  it('materials are checked against the profile and what there is', async () => {
    const id = await t.newCrate('material');
    const put = (name: string, material: object) => t.send('put', `/api/crates/${id}/materials/${name}`, { material });
    const good = {
      name: 'moss',
      type: 'lit',
      colour: '#406030',
      unitsPerRepeat: 32,
      texture: 'textures/brick.ktx2',
      roughness: 0.4,
      surface: 'stone',
    };
    expect((await put('moss', good)).body).toEqual(good);
    for (const wrong of [{ type: 'velvet' }, { surface: 'cheese' }, { texture: 'textures/none.ktx2' }, { roughness: 2 }, { name: 'other' }])
      expect((await put('moss', { ...good, ...wrong })).status).toBe(422);
    expect((await view(id)).manifest.materials).toEqual([good]);
  });

  it('the game’s own files are out of reach of everything', async () => {
    const id = await t.newCrate('stock');
    const base = join(t.config.games, 'brinewick/base');
    const state = () =>
      readdirSync(base, { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile())
        .map((entry) => `${entry.name} ${statSync(join(entry.parentPath, entry.name)).mtimeMs}`)
        .sort();
    const before = state();
    expect((await t.send('post', `/api/crates/${id}/assets/remove`, { entries: ['models/barrel.glb'], anyway: true })).status).toBe(404);
    expect((await t.send('post', `/api/crates/${id}/assets/rename`, { entry: 'textures/brick.ktx2', name: 'x' })).status).toBe(404);
    expect((await t.send('post', `/api/crates/${id}/assets/rename`, { entry: 'material:brick', name: 'x' })).status).toBe(422);
    expect((await t.send('post', `/api/crates/${id}/assets/reconvert`, { path: 'models/barrel.glb', options: {} })).status).toBe(404);
    // Importing under a stock name makes an asset of the crate, which hides the game's there and nowhere else.
    await take(id, { 'brick.png': png(1) });
    expect(state()).toEqual(before);
    expect(readFileSync(join(base, 'pack.json'), 'utf8')).toContain('"brick"');
  });
});

describe('packs', () => {
  const about = { format: 1, title: 'Moor set', author: 'Ilse Brandt', licence: 'CC BY 4.0', instructions: 'Scatter freely.' };
  const pack = () =>
    writeZip(
      new Map<string, Uint8Array>(
        Object.entries({ 'moor/pack.json': JSON.stringify(about), 'moor/vase.obj': OBJ, 'moor/peat.png': png(60), 'moor/notes.txt': 'x' }).map(
          ([path, content]) => [path, typeof content === 'string' ? new TextEncoder().encode(content) : content],
        ),
      ),
    );

  it('are looked into, clash, are taken in part, and credited once', async () => {
    const id = await t.newCrate('packs');
    await take(id, { 'mine/peat.png': png(200) });
    const opened = await t.upload(`/api/crates/${id}/packs`, { 'moor.zip': pack() });
    expect(opened.body).toMatchObject({ about, described: true });
    const at = `/api/crates/${id}/packs/${(opened.body as { id: string }).id}`;
    expect(await paths(id)).not.toContain('models/vase.glb');
    const preview = await t.get(`${at}/preview/vase.obj`);
    expect([preview.status, preview.headers['content-type']]).toEqual([200, 'image/png']);
    expect((await t.get(`${at}/model/vase.obj`)).status).toBe(200);
    expect((await t.get(`${at}/preview/notes.txt`)).status).toBe(404);
    const clashes = await t.send('post', `${at}/clashes`, { paths: ['vase.obj', 'peat.png'] });
    expect(clashes.body).toEqual([{ file: 'peat.png', asset: 'textures/peat.ktx2', renamed: 'peat_2' }]);
    const mine = (await view(id)).files.find((file) => file.path === 'textures/peat.ktx2')!.sha256;
    await done(await t.send('post', `${at}/import`, { paths: ['vase.obj', 'peat.png'], clashes: { 'peat.png': 'keep' } }));
    expect((await view(id)).files.find((file) => file.path === 'textures/peat.ktx2')!.sha256).toBe(mine);
    await done(await t.send('post', `${at}/import`, { paths: ['peat.png'], clashes: { 'peat.png': 'rename' } }));
    expect(await paths(id)).toContain('textures/peat_2.ktx2');
    await done(await t.send('post', `${at}/import`, { paths: ['peat.png'], clashes: {} }));
    const { manifest } = await view(id);
    expect(manifest.credits).toEqual([{ author: 'Ilse Brandt', work: 'Moor set', licence: 'CC BY 4.0' }]);
    expect(manifest.assets['models/vase.glb'].origin).toMatchObject({ path: 'Moor set/vase.obj', pack: 'Moor set' });
    expect((await t.send('delete', at)).status).toBe(204);
    expect((await t.get(`${at}/preview/vase.obj`)).status).toBe(404);
  });

  it('that cannot be read, or hold nothing, are refused', async () => {
    const id = await t.newCrate('badpacks');
    const open = async (bytes: Uint8Array | string) =>
      (await t.upload(`/api/crates/${id}/packs`, { 'x.zip': bytes })).body as { status: number; detail: string };
    expect(await open('PK no')).toMatchObject({ status: 422, detail: expect.stringContaining('not a ZIP archive') });
    expect(await open(writeZip(new Map([['notes.txt', new Uint8Array(1)]])))).toMatchObject({
      status: 422,
      detail: expect.stringContaining('nothing that can be imported'),
    });
    expect(
      await open(
        writeZip(
          new Map([
            ['pack.json', new TextEncoder().encode('{}')],
            ['a.lua', new Uint8Array()],
          ]),
        ),
      ),
    ).toMatchObject({ status: 422 });
  });
});

describe('a watched folder', () => {
  const eventually = async (test: () => Promise<boolean>) => {
    for (let i = 0; i < 100; i++) {
      if (await test()) return;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    throw new Error('It did not happen.');
  };

  it('changed sources are stale, and come in again with their settings: by a click, or at once', async () => {
    const id = await t.newCrate('watching');
    const folder = join(mkdtempSync(join(tmpdir(), 'violet-watch-')), 'moor');
    mkdirSync(folder);
    writeFileSync(join(folder, 'vase.obj'), OBJ);
    const at = `/api/crates/${id}/watch`;
    type State = { watch: { stale: { asset: string }[]; fresh: string[] } };
    const state = async () => ((await t.get(at)).body as State).watch;
    expect((await t.send('put', at, { folder: '/nowhere/at/all', automatic: false })).status).toBe(422);
    expect((await t.send('put', at, { folder: 'relative', automatic: false })).status).toBe(422);
    expect((await t.send('put', at, { folder, automatic: false })).body).toMatchObject({ watch: { fresh: ['moor/vase.obj'], stale: [] } });
    await done(await t.send('post', `${at}/take`, { fresh: true }));
    await done(await t.send('post', `/api/crates/${id}/assets/reconvert`, { path: 'models/vase.glb', options: { pivot: 'base' } }));
    await eventually(async () => (await state()).fresh.length === 0 && (await state()).stale.length === 0);
    writeFileSync(join(folder, 'vase.obj'), OBJ.replaceAll('v 0 1 0', 'v 0 2 0'));
    await eventually(async () => (await state()).stale.length === 1);
    expect((await state()).stale).toEqual([{ asset: 'models/vase.glb', file: 'moor/vase.obj' }]);
    await done(await t.send('post', `${at}/take`, { fresh: false }));
    const record = async () => (await view(id)).manifest.assets['models/vase.glb'];
    expect(await record()).toMatchObject({
      options: { pivot: 'base' },
      bounds: { min: [expect.anything(), expect.anything(), 0], max: [expect.anything(), expect.anything(), 96] },
    });
    await t.send('put', at, { folder, automatic: true });
    writeFileSync(join(folder, 'vase.obj'), OBJ.replaceAll('v 0 1 0', 'v 0 3 0'));
    await eventually(async () => (await record()).bounds!.max[2] === 128);
    expect((await t.send('delete', at)).status).toBe(204);
    expect((await t.get(at)).body).toEqual({ watch: null });
  });
});
