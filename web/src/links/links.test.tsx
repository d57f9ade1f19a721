/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeAll, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { checkCrate } from '@violet-crate/core/check/checkCrate';
import { LinkGraph } from '@violet-crate/core/link/graph';
import { thingId } from '@violet-crate/core/link/thing';
import { newObject } from '@violet-crate/core/profile/newObject';
import { testWorld } from '@violet-crate/core/testing/world';
import { LastChange } from '../shell/LastChange.tsx';
import { checked } from '../state/checksSlice.ts';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { Refusal, serve } from '../testing/server.ts';
import { drawLinks } from './layoutLinks.ts';
import { LinksPage } from './LinksPage.tsx';

beforeAll(() => {
  // Elements have no size here, and a list of no height shows no rows.
  Object.defineProperty(HTMLElement.prototype, 'offsetHeight', { value: 2000 });
  Object.defineProperty(HTMLElement.prototype, 'offsetWidth', { value: 1000 });
});
afterEach(cleanup);

/** A room with a model that is there, one that is not, and one that nothing needs. */
function open(address = '/') {
  const world = openWorld(({ crate, profile }) => {
    const prop = (name: string, model: string) => ({ ...newObject(profile, 'prop', name, [0, 0, 0]), properties: { model, solid: true } });
    crate.files.push(
      { path: 'models/vase.glb', bytes: 2048, sha256: '0'.repeat(64) },
      { path: 'models/idle.glb', bytes: 99, sha256: '1'.repeat(64) },
    );
    crate.maps.hall.objects.o8 = prop('vase', 'models/vase.glb');
    crate.maps.hall.objects.o9 = prop('ghost', 'models/ghost.glb');
  });
  const { findings } = checkCrate(world);
  act(() => void store.dispatch(checked({ findings, milliseconds: 1 })));
  renderIn(
    <>
      <LinksPage />
      <LastChange />
    </>,
    address,
  );
  return store.getState().crate.view!.id;
}
const rows = () =>
  within(screen.getByRole('table'))
    .getAllByRole('row')
    .slice(1)
    .map((row) => row.textContent!);
const row = (name: string) => rows().find((text) => text.includes(name));

describe('the list of links', () => {
  it('says for each where it comes from and who needs it; what is missing or unused stands out', () => {
    open();
    expect(row('models/ghost.glb')).toMatch(/missing.*ghost/);
    expect(row('models/vase.glb')).toMatch(/crate.*2.0 KiB.*vase/);
    expect(row('models/idle.glb')).toMatch(/unused.*nothing/);
  });

  it('is filtered by origin, searched by name, sorted and shown with other columns', async () => {
    open();
    const all = rows().length;
    await userEvent.click(screen.getByRole('button', { name: 'missing 1' }));
    expect(rows()).toHaveLength(1);
    await userEvent.click(screen.getByRole('button', { name: `All ${all}` }));
    await userEvent.type(screen.getByLabelText('Search links'), 'VASE');
    expect(rows()).toHaveLength(1);
    await userEvent.clear(screen.getByLabelText('Search links'));
    await userEvent.click(screen.getByRole('button', { name: 'Name' }));
    const names = within(screen.getByRole('table'))
      .getAllByRole('button', { pressed: false })
      .map((button) => button.textContent!);
    expect(names).toEqual([...names].sort((a, b) => a.localeCompare(b)));
    expect(screen.getByRole('columnheader', { name: /Name/ }).getAttribute('aria-sort')).toBe('ascending');
    await userEvent.click(screen.getByRole('button', { name: 'Columns' }));
    await userEvent.click(screen.getByLabelText('Hash'));
    expect(row('models/vase.glb')).toContain('0'.repeat(12));
  });
});

describe('one thing', () => {
  it('says why it is here, each step leading on, and what would go without it', async () => {
    open();
    await userEvent.click(screen.getByRole('button', { name: 'models/vase.glb' }));
    const panel = screen.getByRole('complementary', { name: /models\/vase/ });
    expect(within(panel).getByRole('list').textContent).toMatch(/hall.*vase.*\(model\).*models\/vase\.glb/);
    expect(panel.textContent).toMatch(/2\.0 KiB would go.*Left without it: vase/);
    await userEvent.click(within(panel).getByRole('button', { name: 'vase' }));
    expect(store.getState().view.selection.objects).toEqual(['o8']);
  });

  it('is renamed after every place was shown; the change can be undone where it is told', async () => {
    const id = open(`/?thing=${encodeURIComponent('model:models/vase.glb')}`);
    const edit = { id: 'e1', name: 'rename models/vase.glb to urn', places: ['map hall: 1 object', 'x'], at: '', undoneAt: null };
    const sent = serve({
      [`POST /api/crates/${id}/links/plan`]: { ...edit, leftOut: [] },
      [`POST /api/crates/${id}/links/change`]: { edit, leftOut: [] },
      [`POST /api/crates/${id}/crate-edits/e1/undo`]: new Refusal(409, 'Since then map hall was changed.'),
      [`GET /api/crates/${id}`]: store.getState().crate.view as object,
      'GET /': [],
    });
    await userEvent.type(screen.getByLabelText('New name'), 'urn{Enter}');
    expect((await screen.findByRole('dialog')).textContent).toMatch(/2 places would change.*map hall: 1 object/);
    await userEvent.click(screen.getByRole('button', { name: 'Change it' }));
    expect((await screen.findByText(/Done: rename models\/vase.glb to urn, in 2 places/)).textContent).toBeTruthy();
    expect(sent.find(({ path }) => path.endsWith('/links/change'))!.body).toEqual({
      changes: [{ do: 'rename', entry: 'models/vase.glb', name: 'urn' }],
    });
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }));
    expect(await screen.findByText(/Since then map hall was changed/)).toBeTruthy();
    await userEvent.click(screen.getByRole('button', { name: 'Undo anyway' }));
    expect(sent.filter(({ path }) => path.endsWith('/undo')).map(({ body }) => body)).toEqual([{ anyway: false }, { anyway: true }]);
  });

  it('what the crate does not allow is told in the dialog', async () => {
    const id = open(`/?thing=${encodeURIComponent('model:models/vase.glb')}`);
    serve({ [`POST /api/crates/${id}/links/plan`]: new Refusal(422, 'No spaces: the game cannot load names with them.') });
    await userEvent.type(screen.getByLabelText('New name'), 'an urn{Enter}');
    expect((await screen.findByRole('alert')).textContent).toContain('No spaces');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Change it' }).disabled).toBe(true);
  });

  it('picked ones are removed or merged together', async () => {
    const id = open();
    const sent = serve({ [`POST /api/crates/${id}/links/plan`]: { name: 'merge', places: ['x'], leftOut: [] } });
    await userEvent.click(screen.getByLabelText('Pick models/vase.glb'));
    await userEvent.click(screen.getByLabelText('Pick models/idle.glb'));
    await userEvent.click(screen.getByRole('button', { name: /Merge into models\/vase/ }));
    await screen.findByRole('dialog');
    expect(sent[0].body).toEqual({ changes: [{ do: 'merge', into: 'models/vase.glb', from: ['models/idle.glb'] }] });
  });
});

describe('the drawing', () => {
  it('stands from left to right in the direction of need, two thousand things without any on another', () => {
    const world = testWorld('blank');
    const { crate, profile } = world;
    for (let i = 0; i < 1000; i++) {
      const path = `models/m${i}.glb`;
      crate.files.push(
        { path, bytes: 1, sha256: String(i).padStart(64, '0') },
        { path: `textures/t${i}.ktx2`, bytes: 1, sha256: String(i).padStart(64, '1') },
      );
      crate.manifest.materials.push({ name: `t${i}`, type: 'lit', colour: '#808080', unitsPerRepeat: 64, texture: `textures/t${i}.ktx2` });
      crate.manifest.assets[path] = { source: 'x', options: {}, slots: [{ slot: 'a', material: `t${i}`, by: 'hand' }] };
      crate.maps.hall.objects[`o${i}`] = { ...newObject(profile, 'prop', `m${i}`, [0, 0, 0]), properties: { model: path } };
    }
    const graph = new LinkGraph(world);
    const ids = new Set([...graph.reach([thingId('map', 'hall')])].filter((id) => !id.startsWith('game:')));
    const { things, ties } = drawLinks(graph, { ids, folded: new Set() });
    expect(things.length).toBeGreaterThan(3000);
    const at = new Map(things.map((thing) => [thing.id, thing]));
    for (const { from, to } of ties) expect(at.get(from)!.x).toBeLessThan(at.get(to)!.x);
    expect(new Set(things.map(({ x, y }) => `${x} ${y}`)).size).toBe(things.length);
    const folded = drawLinks(graph, { ids, folded: new Set(['model', 'material', 'texture']) });
    expect(folded.things.map(({ label }) => label)).toEqual(expect.arrayContaining(['1000 × model', '1000 × material', '1000 × texture']));
  });
});
