import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { encode } from 'fast-png';
import type { CrateManifest } from '@violet-crate/core/crate/manifest';
import type { GameMap } from '@violet-crate/core/document/schema';
import { startApplication, type TestApplication } from '../testing.ts';

let t: TestApplication;
beforeAll(async () => {
  t = await startApplication();
});
afterAll(() => t.close());

const png = (level: number) => encode({ width: 8, height: 8, data: new Uint8Array(192).fill(level), channels: 3, depth: 8 });

interface View {
  manifest: CrateManifest;
  files: { path: string; sha256: string; findings: unknown[] }[];
}
const view = async (id: string) => (await t.get(`/api/crates/${id}`)).body as View;
const map = async (id: string) => ((await t.get(`/api/crates/${id}/maps/${(await view(id)).manifest.mainMap}`)).body as { map: GameMap }).map;

/** A crate whose floor wears a picture of its own, and another picture that nothing wears. */
async function crate(name: string): Promise<string> {
  const id = await t.newCrate(name);
  const answer = await t.upload(`/api/crates/${id}/assets`, { 'moss.png': png(90), 'moss_too.png': png(91) });
  await t.ended((answer.body as { jobs: { id: string }[] }).jobs[0]);
  const { solids } = await map(id);
  const [first, solid] = Object.entries(solids)[0];
  const to = { ...solid, faces: solid.faces.map((face) => ({ ...face, material: 'moss' })) };
  await t.send('post', `/api/crates/${id}/maps/${name}/edits`, {
    base: 0,
    edits: [{ name: 'wear', changes: [{ of: 'solids', id: first, to }] }],
    tab: 'x',
  });
  return id;
}
const change = (id: string, ...changes: object[]) => t.send('post', `/api/crates/${id}/links/change`, { changes });

describe('changes of a crate as a whole', () => {
  it('are told before they are done, done in one go, undone and done again; what others do meanwhile stays', async () => {
    const id = await crate('whole');
    const before = await view(id);
    const order = { do: 'merge', into: 'textures/moss_too.ktx2', from: ['textures/moss.ktx2'] };
    const planned = (await t.send('post', `/api/crates/${id}/links/plan`, { changes: [order] })).body as { places: string[] };
    expect(planned.places).toEqual(expect.arrayContaining(['material moss', 'textures/moss.ktx2 goes', 'sources/textures/moss.png goes']));
    expect(await view(id)).toEqual(before);

    const { edit } = (await change(id, order)).body as { edit: { id: string; name: string; places: string[] } };
    const after = await view(id);
    expect(after.files.map(({ path }) => path)).not.toContain('textures/moss.ktx2');
    expect(after.manifest.materials.find(({ name }) => name === 'moss')!.texture).toBe('textures/moss_too.ktx2');
    expect(((await t.get(`/api/crates/${id}/crate-edits`)).body as object[])[0]).toMatchObject({ id: edit.id, undoneAt: null });

    await t.send('patch', `/api/crates/${id}`, { title: 'Another title' });
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${edit.id}/undo`, {})).status).toBe(200);
    const back = await view(id);
    expect(back.files).toEqual(before.files);
    expect(back.manifest).toEqual({ ...before.manifest, title: 'Another title' });
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${edit.id}/undo`, {})).status).toBe(404);
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${edit.id}/redo`, {})).status).toBe(200);
    expect((await view(id)).files).toEqual(after.files);
  });

  it('an undo that would lose what was done since is refused with what that is, and can be had anyway', async () => {
    const id = await crate('since');
    const { edit } = (await change(id, { do: 'rename', entry: 'material:moss', name: 'lichen' })).body as { edit: { id: string } };
    const [first, solid] = Object.entries((await map(id)).solids).find(([, { faces }]) => faces[0].material === 'lichen')!;
    const { revision } = (await t.get(`/api/crates/${id}/maps/since`)).body as { revision: number };
    const to = { ...solid, label: 'the floor' };
    await t.send('post', `/api/crates/${id}/maps/since/edits`, {
      base: revision,
      edits: [{ name: 'call', changes: [{ of: 'solids', id: first, to }] }],
      tab: 'x',
    });
    const refused = await t.send('post', `/api/crates/${id}/crate-edits/${edit.id}/undo`, {});
    expect([refused.status, refused.body]).toMatchObject([409, { code: 'changed-since', changed: ['map since'] }]);
    expect((await t.send('post', `/api/crates/${id}/crate-edits/${edit.id}/undo`, { anyway: true })).status).toBe(200);
    expect((await map(id)).solids[first].faces[0].material).toBe('moss');
  });

  it('several at once are one, and tell what was left out', async () => {
    const id = await crate('several');
    const answer = await change(
      id,
      { do: 'remove', entries: ['textures/moss_too.ktx2', 'material:moss_too'] },
      { do: 'rename', entry: 'material:moss_too', name: 'other' },
      { do: 'split', material: 'moss', name: 'wet_moss', map: 'several', solids: Object.keys((await map(id)).solids) },
    );
    const { edit, leftOut } = answer.body as { edit: { name: string }; leftOut: string[] };
    expect(edit.name).toBe('3 changes of links');
    expect(leftOut).toEqual(['rename material:moss_too to other: The crate has no material:moss_too.']);
    expect((await view(id)).manifest.materials.map(({ name }) => name)).toEqual(expect.arrayContaining(['moss', 'wet_moss']));
  });

  it('orders that are none, and those that the crate does not allow, change nothing', async () => {
    const id = await crate('refused');
    const before = await view(id);
    for (const [order, status] of [
      [{ do: 'explode' }, 422],
      [{ do: 'rename', entry: 'textures/moss.ktx2' }, 422],
      [{ do: 'remove', entries: ['models/none.glb'] }, 422],
      [{ do: 'rename', entry: 'material:moss', name: 'Two Words' }, 422],
    ] as const)
      expect([order, (await change(id, order)).status]).toEqual([order, status]);
    expect((await t.send('post', `/api/crates/${id}/links/change`, { changes: [] })).status).toBe(400);
    expect(await view(id)).toEqual(before);
  });
});
