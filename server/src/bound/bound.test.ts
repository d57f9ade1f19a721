/** A crate and its folder: every way in which one of them changes. */

import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { equalPlan } from '@violet-crate/core/crate/keepEqual';
import { BlobStore } from '@violet-crate/host/blobStore';
import { CratesService } from '../crates/crates.service.ts';
import { DATABASE, type Database } from '../database/database.ts';
import { CrateSide } from './crateSide.ts';
import { startApplication, type TestApplication } from '../testing.ts';
import type { FolderView } from './folderView.ts';

let server: TestApplication;
let folder: string;
let id: string;
let name = 'bound0';

beforeAll(async () => (server = await startApplication()));
afterAll(() => server.close());
beforeEach(async () => {
  folder = join(realpathSync(mkdtempSync(join(tmpdir(), 'violet-bound-'))), 'crate');
  name = `bound${Number(name.slice(5)) + 1}`;
  id = await server.newCrate(name);
});

const view = async (): Promise<FolderView> => ((await server.get(`/api/crates/${id}/folder`)).body as { folder: FolderView }).folder;
const bind = async (to = folder) => server.send('put', `/api/crates/${id}/folder`, { folder: to });
/** Waits until something holds, as a page does that is told of it. */
async function until(what: () => boolean | Promise<boolean>): Promise<void> {
  for (let i = 0; i < 100; i++) {
    if (await what()) return;
    await new Promise((done) => setTimeout(done, 50));
  }
  throw new Error(`It did not come to pass: ${what.toString()}; ${JSON.stringify(await view())}`);
}
const look = async () => (await server.send('post', `/api/crates/${id}/folder/look`, {})).body as { folder: FolderView };
const map = async () => (await server.get(`/api/crates/${id}/maps/${name}`)).body as { map: GameMap; revision: number };
const mapFile = () => join(folder, `maps/${name}.map.json`);
const inFile = () => JSON.parse(readFileSync(mapFile(), 'utf8')) as GameMap;
const script = (text: string) => server.send('put', `/api/crates/${id}/scripts/main.lua`, { source: text });
const edit = async (edits: MapEdit[]) => server.send('post', `/api/crates/${id}/maps/${name}/edits`, { base: (await map()).revision, edits });
const moved = (from: GameMap, object: string, x: number): MapEdit => ({
  name: 'move',
  changes: [{ of: 'objects', id: object, to: { ...from.objects[object], position: [x, 0, 8] } }],
});

describe('a crate in a folder', () => {
  it('fills an empty folder, and follows what is saved in the application', async () => {
    expect((await bind()).status).toBe(200);
    expect(readdirSync(folder).sort()).toEqual(['.violet-crate', 'crate.json', 'maps', 'scripts']);
    await script('-- saved in the application\n');
    await until(() => readFileSync(join(folder, 'scripts/main.lua'), 'utf8').startsWith('-- saved'));
    const { map: now } = await map();
    const [object] = Object.keys(now.objects);
    await edit([moved(now, object, 24)]);
    await until(() => inFile().objects[object].position[0] === 24);
    expect(await view()).toMatchObject({ problem: null, conflicts: [], refused: [] });
  });

  it('takes in what other programs change: scripts, new files, and maps as edits by name', async () => {
    await bind();
    writeFileSync(join(folder, 'scripts/main.lua'), '-- typed elsewhere\n');
    mkdirSync(join(folder, 'sources'));
    writeFileSync(join(folder, 'sources/notes.txt'), 'hello');
    const changed = inFile();
    const [object] = Object.keys(changed.objects);
    changed.objects[object].position = [40, 0, 8];
    // Written by another program: its own order and spaces.
    writeFileSync(mapFile(), JSON.stringify(changed));
    await until(async () => (await map()).map.objects[object].position[0] === 40);
    await until(async () => (await server.get(`/api/crates/${id}/files/sources/notes.txt`)).status === 200);
    expect((await server.get(`/api/crates/${id}/files/scripts/main.lua`)).text).toBe('-- typed elsewhere\n');
    const [last] = (await server.get(`/api/crates/${id}/maps/${name}/revisions`)).body as { name: string; changes: number }[];
    expect(last).toMatchObject({ name: 'changed in the folder', changes: 1 });
    rmSync(join(folder, 'sources/notes.txt'));
    await until(async () => (await server.get(`/api/crates/${id}/files/sources/notes.txt`)).status === 404);
  });

  it('merges a map that was changed on both sides, and asks only where the same member was', async () => {
    await bind();
    const { map: now } = await map();
    const [a, b] = Object.keys(now.objects);
    const theirs = inFile();
    theirs.objects[a].position = [1, 0, 8];
    theirs.objects[b].position = [2, 0, 8];
    writeFileSync(mapFile(), JSON.stringify(theirs));
    // At the same moment, before the folder was looked at.
    await edit([moved(now, b, 99)]);
    await until(async () => (await view()).conflicts.length === 1);
    expect((await view()).conflicts[0]).toMatchObject({ path: `maps/${name}.map.json`, members: [`objects/${b}`] });
    const merged = (await map()).map;
    expect([merged.objects[a].position[0], merged.objects[b].position[0]]).toEqual([1, 99]);
    expect(inFile().objects[b].position[0]).toBe(2);
    const settled = await server.send('post', `/api/crates/${id}/folder/settle`, { path: `maps/${name}.map.json`, side: 'folder' });
    expect((settled.body as { folder: FolderView }).folder.conflicts).toEqual([]);
    expect((await map()).map.objects[b].position[0]).toBe(2);
    expect(inFile().objects[a].position[0]).toBe(1);
  });

  it('asks about a file that was changed on both sides, and keeps both until it is told', async () => {
    await bind();
    writeFileSync(join(folder, 'scripts/main.lua'), '-- theirs\n');
    await script('-- ours\n');
    await until(async () => (await view()).conflicts.length === 1);
    expect(readFileSync(join(folder, 'scripts/main.lua'), 'utf8')).toBe('-- theirs\n');
    expect((await server.get(`/api/crates/${id}/files/scripts/main.lua`)).text).toBe('-- ours\n');
    await server.send('post', `/api/crates/${id}/folder/settle`, { path: 'scripts/main.lua', side: 'crate' });
    expect(readFileSync(join(folder, 'scripts/main.lua'), 'utf8')).toBe('-- ours\n');
    expect((await view()).conflicts).toEqual([]);
    expect((await server.send('post', `/api/crates/${id}/folder/settle`, { path: 'scripts/main.lua', side: 'crate' })).status).toBe(404);
  });

  it('reads a half-written map only when it is whole, and says what is wrong with one that stays damaged', async () => {
    await bind();
    const whole = readFileSync(mapFile(), 'utf8');
    const before = (await map()).revision;
    writeFileSync(mapFile(), whole.slice(0, 200));
    await until(async () => (await view()).refused.length === 1);
    expect((await view()).refused[0].reason).toMatch(new RegExp(`maps/${name}\\.map\\.json`));
    expect((await map()).revision).toBe(before);
    writeFileSync(mapFile(), whole);
    await until(async () => (await view()).refused.length === 0);
    expect((await map()).revision).toBe(before);
  });

  it('asks about a map that is gone from the folder; one that goes stays among the sources', async () => {
    await bind();
    const attic = join(folder, 'maps/attic.map.json');
    copyFileSync(mapFile(), attic);
    const maps = async () => ((await server.get(`/api/crates/${id}`)).body as { maps: string[] }).maps;
    await until(async () => (await maps()).includes('attic'));
    const text = readFileSync(attic, 'utf8');
    rmSync(attic);
    await until(async () => (await view()).conflicts.length === 1);
    expect(await maps()).toContain('attic');
    await server.send('post', `/api/crates/${id}/folder/settle`, { path: 'maps/attic.map.json', side: 'folder' });
    expect(await maps()).not.toContain('attic');
    const kept = ((await server.get(`/api/crates/${id}`)).body as { files: { path: string; bytes: number }[] }).files;
    expect(kept.find(({ path }) => path === 'sources/maps/attic.map.json')).toMatchObject({ bytes: Buffer.byteLength(text) });
    await until(() => existsSync(join(folder, 'sources/maps/attic.map.json')));
    expect(readFileSync(join(folder, 'sources/maps/attic.map.json'), 'utf8')).toBe(text);
    // Asked the other way, the file comes back.
    await until(async () => (await view()).conflicts.length === 0);
    writeFileSync(attic, text);
    await until(async () => (await maps()).includes('attic'));
    rmSync(attic);
    await until(async () => (await view()).conflicts.length === 1);
    await server.send('post', `/api/crates/${id}/folder/settle`, { path: 'maps/attic.map.json', side: 'crate' });
    expect(readFileSync(attic, 'utf8')).toBe(text);
  });

  it('loses nothing when the folder is gone or emptied', async () => {
    await bind();
    for (let i = 0; i < 15; i++) writeFileSync(join(folder, `scripts/s${i}.lua`), `-- ${i}\n`);
    await until(async () => ((await server.get(`/api/crates/${id}`)).body as { files: object[] }).files.length >= 16);
    const aside = `${folder}-moved`;
    renameSync(folder, aside);
    await look();
    expect((await view()).problem).toMatch(/is gone. Nothing was removed from the crate/);
    renameSync(aside, folder);
    expect((await look()).folder.problem).toBeNull();
    rmSync(join(folder, 'scripts'), { recursive: true });
    await until(async () => /16 of \d+ files vanished/.test((await view()).problem ?? ''));
    expect(await view()).toMatchObject({ vanished: true });
    expect(((await server.get(`/api/crates/${id}`)).body as { files: object[] }).files.length).toBeGreaterThanOrEqual(16);
    await server.send('post', `/api/crates/${id}/folder/vanished`, {});
    expect(((await server.get(`/api/crates/${id}`)).body as { files: object[] }).files.length).toBe(0);
  });

  it('a thousand files at once come in together', async () => {
    await bind();
    mkdirSync(join(folder, 'sources/many'), { recursive: true });
    for (let i = 0; i < 1000; i++) writeFileSync(join(folder, `sources/many/f${i}.txt`), `${i}`);
    await until(async () => ((await server.get(`/api/crates/${id}`)).body as { files: object[] }).files.length >= 1001);
    expect((await look()).folder).toMatchObject({ problem: null, refused: [], conflicts: [] });
  });

  it('names that differ in capital letters only are told, and none of them is written over', async () => {
    await bind();
    writeFileSync(join(folder, 'scripts/Main.lua'), '-- other\n');
    await until(async () => (await view()).refused.length > 0);
    expect((await view()).refused[0].reason).toMatch(/capital letters only/);
  });

  it('is refused where something else lies, or another crate lives', async () => {
    mkdirSync(folder);
    writeFileSync(join(folder, 'letter.txt'), 'x');
    expect((await bind()).body).toMatchObject({ status: 409, code: 'folder-other' });
    rmSync(join(folder, 'letter.txt'));
    // A home of somebody looks empty but for what is hidden in it.
    writeFileSync(join(folder, '.profile'), 'x');
    expect((await bind()).body).toMatchObject({ status: 409, code: 'folder-other' });
    expect(readdirSync(folder)).toEqual(['.profile']);
    rmSync(join(folder, '.profile'));
    await bind();
    id = await server.newCrate(`other_${name}`);
    expect((await bind()).body).toMatchObject({ status: 409, code: 'folder-taken' });
    expect((await bind(join(folder, 'below'))).body).toMatchObject({ code: 'folder-taken' });
    expect((await bind('relative')).status).toBe(422);
    expect((await server.send('post', `/api/crates/${id}/folder/look`, {})).status).toBe(409);
  });

  it('what changed while nobody looked comes in when it is bound again, and a second server is kept out', async () => {
    await bind();
    expect((await server.send('delete', `/api/crates/${id}/folder`)).status).toBe(204);
    writeFileSync(join(folder, 'scripts/extra.lua'), '-- extra\n');
    await bind();
    expect((await server.get(`/api/crates/${id}/files/scripts/extra.lua`)).text).toBe('-- extra\n');
    const { lockData } = await import('@violet-crate/host/dataLock');
    expect(() => lockData(join(folder, '.violet-crate'), 'folder')).toThrow(/is in use by/);
  });

  it('a crate that lies in a folder is taken as it is, once, and kept equal', async () => {
    await bind();
    const ours = (await server.get(`/api/crates/${id}`)).body as { files: { path: string }[] };
    expect((await server.send('post', '/api/crates/from-folder', { folder })).body).toMatchObject({ status: 409, code: 'folder-taken' });
    await server.send('delete', `/api/crates/${id}/folder`);
    await server.send('delete', `/api/crates/${id}`);
    const answer = await server.send('post', '/api/crates/from-folder', { folder });
    const opened = answer.body as { id: string; files: { path: string }[] };
    expect([answer.status, opened.files]).toEqual([201, ours.files]);
    id = opened.id;
    writeFileSync(join(folder, 'scripts/main.lua'), '-- kept equal\n');
    await until(async () => (await server.get(`/api/crates/${id}/files/scripts/main.lua`)).text === '-- kept equal\n');
    expect((await server.send('post', '/api/crates/from-folder', { folder: '/' })).body).toMatchObject({ status: 422, code: 'folder-no-crate' });
  });

  it('crate.json of another crate is refused; its title is taken', async () => {
    await bind();
    const file = join(folder, 'crate.json');
    const manifest = JSON.parse(readFileSync(file, 'utf8')) as Record<string, unknown>;
    writeFileSync(file, JSON.stringify({ ...manifest, name: 'somebody' }));
    await until(async () => /says that this is "somebody"/.test((await view()).refused[0]?.reason ?? ''));
    writeFileSync(file, JSON.stringify({ ...manifest, title: 'From outside' }));
    await until(async () => ((await server.get(`/api/crates/${id}`)).body as { manifest: { title: string } }).manifest.title === 'From outside');
    expect(existsSync(file)).toBe(true);
  });

  it('takes what it was giving when it was killed for its own, and nobody else’s', () => {
    const crates = server.app.get(CratesService);
    const side = new CrateSide(server.app.get<Database>(DATABASE), server.app.get(BlobStore), crates);
    const path = 'scripts/main.lua';
    const base = () => new Map([[path, 'before']]);
    const plan = (folder: string) => {
      const was = base();
      side.takeGiven(id, was, new Map([[path, folder]]));
      return equalPlan(was, new Map([[path, 'later']]), new Map([[path, folder]]));
    };
    expect(plan('given').clash).toEqual([path]);
    side.giving(id, [[path, 'given']]);
    // It lay in the folder already, and the crate went on: what is there is its own.
    expect(plan('given')).toMatchObject({ give: [path], clash: [] });
    expect(plan('somebody').clash).toEqual([path]);
    side.remember(id, [[path, 'given']]);
    expect(plan('given').clash).toEqual([path]);
  });

  it('takes files in together with the knowledge of it, or neither', () => {
    const crates = server.app.get(CratesService);
    const side = new CrateSide(server.app.get<Database>(DATABASE), server.app.get(BlobStore), crates);
    const [path, bytes] = ['sources/half.txt', new TextEncoder().encode('half')];
    expect(() =>
      side.together(() => {
        crates.writeFiles(id, [{ path, bytes }]);
        side.remember(id, [[path, 'x']]);
        throw new Error('killed');
      }),
    ).toThrow('killed');
    expect([side.hash(id, path), side.wasEqual(id).get(path)]).toEqual([undefined, undefined]);
  });
});
