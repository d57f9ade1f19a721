/** A stored content that is damaged on the disk: told, never delivered as something else, and nobody else's trouble. */

import { truncateSync, rmSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { readZip } from '@violet-crate/core/asset/archive/zip';
import type { Finding } from '@violet-crate/core/finding';
import { BlobStore } from '@violet-crate/host/blobStore';
import { startApplication, type TestApplication } from '../testing.ts';

let server: TestApplication;
beforeAll(async () => (server = await startApplication()));
afterAll(() => server.close());

interface View {
  files: { path: string; sha256: string; findings: Finding[] }[];
}
const view = async (id: string) => (await server.get(`/api/crates/${id}`)).body as View;
const blob = async (id: string, path: string) => server.app.get(BlobStore).pathOf((await view(id)).files.find((file) => file.path === path)!.sha256);

describe('a damaged script', () => {
  it('is a finding, is not delivered as an empty one, and is mended by being saved again', async () => {
    const id = await server.newCrate('harmed');
    await server.build(id, 'harmed');
    await server.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- precious\n' });
    await server.send('put', `/api/crates/${id}/scripts/more.lua`, { source: '-- whole\n' });
    truncateSync(await blob(id, 'scripts/main.lua'), 0);
    const script = (await view(id)).files.find(({ path }) => path === 'scripts/main.lua')!;
    expect(script.findings).toMatchObject([{ code: 'file-damaged', severity: 'blocker', place: { file: 'scripts/main.lua' } }]);
    expect(script.findings[0].hint).toMatch(/history/);
    for (const path of ['files/scripts/main.lua', 'export']) {
      const { status, body } = await server.get(`/api/crates/${id}/${path}`);
      expect([path, status >= 400, (body as { code: string }).code]).toEqual([path, true, 'file-damaged']);
    }
    expect((await server.send('post', `/api/crates/${id}/builds`, { map: 'harmed', quality: 'draft' })).body).toMatchObject({
      status: 409,
      code: 'file-damaged',
    });
    // What is whole can be saved.
    const { body } = await server.get(`/api/crates/${id}/export?damaged=without`).buffer(true).responseType('blob');
    const tree = readZip(new Uint8Array(body as Buffer), 'export.zip');
    expect([tree.has('scripts/more.lua'), tree.has('scripts/main.lua'), tree.has('crate.json')]).toEqual([true, false, true]);
    // The list shows it as damaged, and the others as they are.
    const other = await server.newCrate('fine');
    const listed = (await server.get('/api/crates')).body as { id: string; damaged: number }[];
    expect([listed.find((one) => one.id === id)!.damaged, listed.find((one) => one.id === other)!.damaged]).toEqual([1, 0]);
    await server.send('put', `/api/crates/${id}/scripts/main.lua`, { source: '-- precious\n' });
    expect((await view(id)).files.flatMap(({ findings }) => findings)).toEqual([]);
  });

  it('that is missing empties no list', async () => {
    const id = await server.newCrate('missing');
    await server.build(id, 'missing');
    rmSync(await blob(id, 'scripts/main.lua'));
    const { status, body } = await server.get('/api/crates');
    expect([status, (body as { id: string }[]).some((one) => one.id === id)]).toEqual([200, true]);
    expect((await server.get(`/api/crates/${id}/builds`)).status).toBe(200);
  });
});
