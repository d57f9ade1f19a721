/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { GameMap } from '@violet-crate/core/document/schema';
import { cube, object, solid, withChanges } from '@violet-crate/core/testing/maps';
import { edited } from '../../state/mapSlice.ts';
import { store } from '../../state/store.ts';
import { viewChanged } from '../../state/viewSlice.ts';
import { openWorld, renderIn } from '../../testing/render.tsx';
import { Refusal, serve } from '../../testing/server.ts';
import { BudgetPanel } from './BudgetPanel.tsx';
import { HistoryPanel } from './HistoryPanel.tsx';
import { OutlinePanel } from './OutlinePanel.tsx';

afterEach(cleanup);
const user = () => userEvent.setup();
const map = (): GameMap => store.getState().map.map!;
const view = () => store.getState().view;
const move = (x: number) => ({ name: `move to ${x}`, changes: [object('o901', 'crank', 'crank', [x, 0, 0])] });

beforeEach(() => {
  openWorld((world) => {
    world.crate.maps.hall = withChanges(
      world.crate.maps.hall,
      object('o901', 'crank', 'crank', [0, 0, 0]),
      object('o902', 'lamp', 'lamp_north', [64, 0, 0]),
      solid('s901', { ...cube([0, 0, 0]), label: 'old wall' }),
    );
  });
});

describe('the outline', () => {
  const rows = () => screen.getAllByRole('treeitem').map((row) => row.textContent.trim());

  it('lists members under their headings, solids folded away, and unfolds them', async () => {
    renderIn(<OutlinePanel />);
    expect(rows().some((row) => row.startsWith('crank'))).toBe(true);
    expect(rows().some((row) => row.startsWith('old wall'))).toBe(false);
    const heading = screen.getByRole('treeitem', { name: /^Solids/ });
    expect(heading.getAttribute('aria-expanded')).toBe('false');
    await user().click(heading);
    expect(rows().some((row) => row.startsWith('old wall'))).toBe(true);
  });

  it('finds by name, class and material, and Enter goes to the first', async () => {
    renderIn(<OutlinePanel />);
    const field = screen.getByRole('searchbox', { name: 'Find in the map' });
    await user().type(field, 'class:lamp north');
    expect(rows()).toHaveLength(1);
    await user().type(field, '{Enter}');
    expect(view().selection.objects).toEqual(['o902']);
    expect(view().focus?.point).toBeDefined();
    await user().clear(field);
    await user().type(field, 'no such thing');
    expect(screen.getByText('Nothing in the map has these words.')).toBeTruthy();
  });

  it('chooses, adds with Shift, hides and shows', async () => {
    renderIn(<OutlinePanel />);
    const own = user();
    await own.click(screen.getByRole('treeitem', { name: /^lamp_north/ }));
    await own.keyboard('{Shift>}');
    await own.click(screen.getByRole('treeitem', { name: /^crank/ }));
    await own.keyboard('{/Shift}');
    expect(view().selection.objects).toEqual(['o902', 'o901']);
    expect(screen.getByRole('treeitem', { name: /^crank/ }).getAttribute('aria-selected')).toBe('true');
    await own.click(screen.getByRole('button', { name: 'Hide crank' }));
    expect(view().hidden).toEqual({ 'objects/o901': true });
    await own.click(screen.getByRole('button', { name: 'Show crank' }));
    expect(view().hidden).toEqual({});
  });
});

describe('the history', () => {
  const steps = () => within(screen.getByRole('list', { name: 'Steps of this session' })).getAllByRole('button');

  it('goes back to a step and forward again', async () => {
    serve({});
    renderIn(<HistoryPanel />);
    expect(screen.getByText(/Nothing was done in this session yet/)).toBeTruthy();
    cleanup();
    for (const x of [8, 16, 24]) store.dispatch(edited(move(x)));
    renderIn(<HistoryPanel />);
    expect(steps().map((step) => step.textContent)).toEqual(['move to 8', 'move to 16', 'move to 24']);
    await user().click(steps()[0]);
    expect(map().objects.o901.position[0]).toBe(8);
    expect(steps()[0].getAttribute('aria-current')).toBe('step');
    await user().click(steps()[2]);
    expect(map().objects.o901.position[0]).toBe(24);
  });

  it('compares with a kept revision, and restores it as one edit that can be undone', async () => {
    const { crateId } = store.getState().map;
    const then = withChanges(
      map(),
      { of: 'objects', id: 'o902', to: null },
      object('o901', 'crank', 'crank', [500, 0, 0]),
      solid('s902', cube([64, 0, 0])),
    );
    const at = `GET /api/crates/${crateId}/maps/hall/revisions`;
    serve({ [at]: [{ revision: 4, name: 'draw wall', at: '2026-01-02T03:04:05.000Z', changes: 1 }], [`${at}/4`]: { map: then } });
    renderIn(<HistoryPanel />);
    await user().click(await screen.findByRole('button', { name: 'Compare' }));
    expect(view().compared).toEqual({ revision: 4, added: ['objects/o902'], changed: ['objects/o901'], removed: ['solids/s902'] });
    expect((await screen.findByRole('status')).textContent).toMatch(/Since revision 4: 1 added, 1 changed, 1 removed/);
    await user().click(screen.getByRole('button', { name: 'Restore' }));
    expect(map().objects.o901.position[0]).toBe(500);
    expect(map().objects.o902).toBeUndefined();
    expect(view().compared).toBeNull();
    expect(store.getState().map.undo.at(-1)!.edit.name).toBe('restore revision 4');
  });

  it('a revision that cannot be fetched is said, and changes nothing', async () => {
    const { crateId } = store.getState().map;
    const at = `GET /api/crates/${crateId}/maps/hall/revisions`;
    serve({
      [at]: [{ revision: 4, name: 'draw wall', at: '2026-01-02T03:04:05.000Z', changes: 1 }],
      [`${at}/4`]: new Refusal(404, 'Revision 4 is no longer kept.'),
    });
    const before = map();
    store.dispatch(viewChanged({ compared: { revision: 3, added: [], changed: [], removed: [] } }));
    renderIn(<HistoryPanel />);
    await user().click(await screen.findByRole('button', { name: 'Restore' }));
    expect((await screen.findByRole('alert')).textContent).toBe('Revision 4 is no longer kept.');
    expect(map()).toBe(before);
    expect(view().compared).not.toBeNull();
  });
});

describe('the budget', () => {
  it('shows what is used of what, and what is over', () => {
    openWorld((world) => {
      world.profile = { ...world.profile, budgets: { solids: 1, triangles: 1e6, textures: 8, lights: 4, objects: 100, packageBytes: 2 ** 30 } };
    });
    renderIn(<BudgetPanel />);
    const meter = screen.getByRole<HTMLMeterElement>('meter', { name: 'Solids' });
    expect(meter.value).toBe(meter.max);
    expect(meter.closest('div')!.textContent).toMatch(/Solids\d+ of 1 over/);
    expect(screen.getByRole('meter', { name: 'Triangles' }).closest('div')!.textContent).not.toContain('over');
    expect(screen.getByText(/1,024\.0 MiB|1024\.0 MiB/)).toBeTruthy();
  });
});
