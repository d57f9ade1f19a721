/** A crate's folder under the system's git: commits with drafted messages, branches that merge by member, and the way back. */

import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { GameMap } from '@violet-crate/core/document/schema';
import { startApplication, type TestApplication } from '../testing.ts';
import type { Commit, VersionsView } from './versions.service.ts';

let server: TestApplication;
let id: string;
let folder: string;
const at = (path = '') => `/api/crates/${id}/versions${path}`;
const post = async (path: string, body: object) => {
  const answer = await server.send('post', at(path), body);
  if (answer.status >= 300) throw new Error(JSON.stringify(answer.body));
  return answer.body as VersionsView;
};
const file = () => join(folder, 'maps/versioned.map.json');
const read = () => JSON.parse(readFileSync(file(), 'utf8')) as GameMap;
const edit = (change: (map: GameMap) => void) => {
  const map = read();
  change(map);
  writeFileSync(file(), JSON.stringify(map));
};
const ids = () => Object.keys(read().objects);

beforeAll(async () => {
  server = await startApplication();
  id = await server.newCrate('versioned');
});
afterAll(() => server.close());

describe('version control', () => {
  it('is told where there is none, and begun with a merge driver for maps', async () => {
    expect(((await server.get(at())).body as VersionsView).problem).toMatch(/lives in no folder/);
    expect((await server.send('post', at(), {})).body).toMatchObject({ status: 409, code: 'folder-none' });
    folder = join(realpathSync(mkdtempSync(join(tmpdir(), 'violet-versions-'))), 'crate');
    await server.send('put', `/api/crates/${id}/folder`, { folder });
    expect(((await server.get(at())).body as VersionsView).repository).toBe(false);
    const view = await post('', {});
    expect(view).toMatchObject({ repository: true, driver: true, problem: null });
    expect(view.changes.map(({ path, how }) => [path, how])).toEqual(
      expect.arrayContaining([
        ['crate.json', 'added'],
        ['maps/versioned.map.json', 'added'],
      ]),
    );
    expect(readFileSync(join(folder, '.gitattributes'), 'utf8')).toContain('*.map.json merge=crate-map');
    expect(execFileSync('git', ['config', 'merge.crate-map.driver'], { cwd: folder, encoding: 'utf8' })).toContain('merge-map %O %A %B --path %P');
  });

  it('commits with a message drafted from what changed', async () => {
    expect((await post('/commits', { message: 'As it began' })).changes).toEqual([]);
    const [a] = ids();
    edit((map) => (map.objects[a].position = [8, 8, 8]));
    const view = (await server.get(at())).body as VersionsView;
    const { name } = read().objects[a];
    expect(view.changes).toEqual([
      { path: 'maps/versioned.map.json', how: 'changed', difference: { words: [`1 object moved: ${name}`], touched: { objects: [a] } } },
    ]);
    expect(view.draft).toBe(`1 object moved: ${name}`);
    await post('/commits', { message: view.draft });
    const log = (await server.get(at('/commits'))).body as Commit[];
    expect(log.map(({ message }) => message)).toEqual([view.draft, 'As it began']);
    expect((await server.get(at(`/commits/${log[0].hash}`))).body).toEqual([
      expect.objectContaining({ how: 'changed', difference: expect.objectContaining({ words: [view.draft] }) }),
    ]);
    expect((await server.send('post', at('/commits'), { message: 'again' })).body).toMatchObject({ code: 'git-nothing' });
  });

  it('merges a branch member by member, by the command line that git runs', async () => {
    const [a, b] = ids();
    const { branch } = (await server.get(at())).body as VersionsView;
    await post('/branch', { branch: 'night', fresh: true });
    edit((map) => (map.objects[a].position = [16, 0, 8]));
    await post('/commits', { message: 'night' });
    await post('/branch', { branch, fresh: false });
    edit((map) => (map.objects[b].position = [32, 0, 8]));
    await post('/commits', { message: 'day' });
    await post('/merge', { branch: 'night' });
    expect([read().objects[a].position[0], read().objects[b].position[0]]).toEqual([16, 32]);
    const { map } = (await server.get(`/api/crates/${id}/maps/versioned`)).body as { map: GameMap };
    expect([map.objects[a].position[0], map.objects[b].position[0]]).toEqual([16, 32]);
  });

  it('leaves what both branches changed in conflict, and says so', async () => {
    const [a] = ids();
    const { branch } = (await server.get(at())).body as VersionsView;
    await post('/branch', { branch: 'dusk', fresh: true });
    edit((map) => (map.objects[a].position = [1, 0, 8]));
    await post('/commits', { message: 'dusk' });
    await post('/branch', { branch, fresh: false });
    edit((map) => (map.objects[a].position = [2, 0, 8]));
    await post('/commits', { message: 'dawn' });
    const view = await post('/merge', { branch: 'dusk' });
    expect(view.changes).toEqual(expect.arrayContaining([expect.objectContaining({ path: 'maps/versioned.map.json', how: 'in conflict' })]));
    const told = JSON.parse(readFileSync(join(folder, 'maps/versioned.conflicts.json'), 'utf8')) as { conflicts: { key: string }[] };
    expect(told.conflicts.map(({ key }) => key)).toEqual([`objects/${a}`]);
    expect((await server.send('post', at('/commits'), { message: 'no' })).body).toMatchObject({ code: 'git-conflict' });
  });

  it('a merge is settled member by member; what was drawn meanwhile stays', async () => {
    const [a, b] = ids();
    const before = (await server.get(at())).body as VersionsView;
    expect(before).toMatchObject({ merging: true, conflicts: [{ path: 'maps/versioned.map.json', members: [{ key: `objects/${a}` }] }] });
    // What could not be merged is told beside the map, and is no file of the crate.
    expect(((await server.get(`/api/crates/${id}`)).body as { files: { path: string }[] }).files.some(({ path }) => path.includes('conflicts'))).toBe(
      false,
    );
    expect(before.conflicts[0].members[0].label).toBe(read().objects[a].name);
    edit((map) => (map.objects[b].position = [77, 0, 8]));
    const refused = await server.send('post', at('/settle'), { path: 'crate.json', side: 'ours' });
    expect(refused.body).toMatchObject({ status: 409, code: 'git-settled' });
    const view = await post('/settle', { path: 'maps/versioned.map.json', side: 'ours', members: { [`objects/${a}`]: 'theirs' } });
    expect(view).toMatchObject({ merging: true, conflicts: [] });
    const { map } = (await server.get(`/api/crates/${id}/maps/versioned`)).body as { map: GameMap };
    expect([map.objects[a].position[0], map.objects[b].position[0]]).toEqual([1, 77]);
    expect(existsSync(join(folder, 'maps/versioned.conflicts.json'))).toBe(false);
    expect(await post('/commits', { message: 'dusk and dawn' })).toMatchObject({ merging: false, changes: [] });
    expect(execFileSync('git', ['log', '-1', '--format=%P'], { cwd: folder, encoding: 'utf8' }).trim().split(' ')).toHaveLength(2);
  });

  it('a merge is given up, and a file that one side removed is taken or goes', async () => {
    const { branch } = (await server.get(at())).body as VersionsView;
    const note = join(folder, 'sources', 'note.txt');
    mkdirSync(join(folder, 'sources'), { recursive: true });
    writeFileSync(note, 'first\n');
    await post('/commits', { message: 'note' });
    await post('/branch', { branch: 'without', fresh: true });
    rmSync(note);
    await post('/commits', { message: 'no note' });
    await post('/branch', { branch, fresh: false });
    writeFileSync(note, 'second\n');
    await post('/commits', { message: 'other note' });
    expect((await post('/merge', { branch: 'without' })).conflicts).toEqual([{ path: 'sources/note.txt', members: [] }]);
    const given = await server.send('delete', at('/merge'));
    expect(given.body).toMatchObject({ merging: false, conflicts: [], changes: [] });
    expect(readFileSync(note, 'utf8')).toBe('second\n');
    expect((await server.send('delete', at('/merge'))).body).toMatchObject({ code: 'git-no-merge' });
    await post('/merge', { branch: 'without' });
    expect(await post('/settle', { path: 'sources/note.txt', side: 'theirs' })).toMatchObject({ conflicts: [] });
    expect(existsSync(note)).toBe(false);
    await post('/commits', { message: 'without a note' });
  });

  it('puts a map back as it was, and refuses what is no commit and no path', async () => {
    const log = (await server.get(at('/commits?path=maps/versioned.map.json'))).body as Commit[];
    await post('/restore', { hash: log.at(-1)!.hash, path: 'maps/versioned.map.json' });
    const [a] = ids();
    const { map } = (await server.get(`/api/crates/${id}/maps/versioned`)).body as { map: GameMap };
    expect(map.objects[a].position).toEqual(read().objects[a].position);
    expect(map.objects[a].position[0]).not.toBe(2);
    const then = (await server.get(at(`/commits/${log.at(-1)!.hash}/map?path=maps/versioned.map.json`))).body as GameMap;
    expect(then.objects[a].position).toEqual(map.objects[a].position);
    expect((await server.get(at(`/commits/${log.at(-1)!.hash}/map?path=maps/none.map.json`))).status).toBe(404);
    for (const [path, body] of [
      ['/restore', { hash: '--help', path: 'x' }],
      ['/restore', { hash: log[0].hash, path: '../x' }],
      ['/branch', { branch: '--orphan', fresh: false }],
    ] as const)
      expect((await server.send('post', at(path), body)).status).toBe(422);
    expect((await server.send('post', at('/branch'), { branch: 'nowhere', fresh: false })).body).toMatchObject({ status: 409, code: 'git' });
  });
});
