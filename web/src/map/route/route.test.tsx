/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { expandMap } from '@violet-crate/core/map/prefab';
import type { GameMap } from '@violet-crate/core/document/schema';
import { newObject } from '@violet-crate/core/profile/newObject';
import { testProfile } from '@violet-crate/core/testing/world';
import { store } from '../../state/store.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { openWorld, renderIn } from '../../testing/render.tsx';
import { RoutePanel } from './RoutePanel.tsx';
import { ZoneSheet } from './ZoneSheet.tsx';

const profile = testProfile('skarrow');
const race = Object.values(newCrateContents(profile, { name: 'hall', title: 'Hall', template: 'ridge-race' }).maps)[0];
const map = (): GameMap => store.getState().map.map!;
const user = () => userEvent.setup();
const zone = (name: string, x: number, properties: Record<string, string> = {}) => {
  const made = newObject(profile, 'zone', name, [x, 0, 0]);
  return { ...made, properties: { ...made.properties, ...properties } };
};
const open = (change: (map: GameMap) => GameMap = (same) => same) =>
  openWorld((world) => {
    Object.assign(world, { profile });
    world.crate.maps.hall = change(race);
  });

// Charts measure their words by a canvas, where there is one.
beforeAll(() => void (HTMLCanvasElement.prototype.getContext = () => null));
afterEach(cleanup);

describe('the panel of routes', () => {
  beforeEach(() => void open());
  const route = () => map().routes.r1;

  it('says how long it is, and reorders its stops by buttons and by dragging', async () => {
    renderIn(<RoutePanel />);
    expect(screen.getByText(/^\d+ m, climbs \d+ m, falls \d+ m\.$/)).toBeTruthy();
    const before = route().stops;
    await user().click(screen.getByRole('button', { name: 'gate_1_gate later' }));
    expect(route().stops).toEqual([before[1], before[0], before[2]]);
    const rows = screen.getAllByTitle('Show it; drag to reorder').map((button) => button.closest('li')!);
    fireEvent.dragStart(rows[2]);
    fireEvent.dragOver(rows[0]);
    fireEvent.drop(rows[0]);
    expect(route().stops).toEqual([before[2], before[1], before[0]]);
    await user().click(screen.getByRole('button', { name: 'By the ribbon' }));
    expect(route().stops).toEqual(before);
  });

  it('takes a stop out and in again; a branch leads past it meanwhile', async () => {
    const own = user();
    renderIn(<RoutePanel />);
    const [first, second, third] = route().stops;
    expect(screen.getByTitle(/Place another checkpoint first/)).toBeTruthy();
    await own.click(screen.getByRole('button', { name: 'Take gate_2_gate out of the route' }));
    expect(route().stops).toEqual([first, third]);
    await own.click(screen.getByTitle('Another way, past a checkpoint of its own'));
    expect(route().branches).toMatchObject([{ name: 'Branch 1', after: 0, until: 1, stops: [second] }]);
    expect(route().branches[0].points).toHaveLength(3);
    await own.selectOptions(screen.getByLabelText('Leaves after'), 'gate_1_gate');
    expect(route().branches[0]).toMatchObject({ after: 1, until: 2 });
    const places = expandMap(map(), profile).objects;
    expect(route().branches[0].points).toEqual([first, second, third].map((id) => places[id].position));
    await own.click(screen.getByRole('button', { name: 'Take gate_2_gate out of Branch 1' }));
    await own.selectOptions(screen.getByLabelText('Add a checkpoint to Branch 1'), 'gate_2_gate');
    expect(route().branches[0].stops).toEqual([second]);
    await own.click(within(screen.getByText('Branch 1').closest('details')!).getByRole('button', { name: 'Remove' }));
    expect(route().branches).toEqual([]);
    await own.selectOptions(screen.getByLabelText('Add a checkpoint'), 'gate_2_gate');
    expect(route().stops).toEqual([first, third, second]);
  });

  it('lays another route over the same ground, and either can be chosen', async () => {
    const own = user();
    renderIn(<RoutePanel />);
    await own.click(screen.getByRole('button', { name: 'Another route' }));
    expect(Object.keys(map().routes)).toHaveLength(2);
    const other = Object.keys(map().routes).find((id) => id !== 'r1')!;
    expect(screen.getByLabelText<HTMLSelectElement>('Which').value).toBe(other);
    expect(map().routes[other].stops).toEqual(route().stops);
    await own.selectOptions(screen.getByLabelText('Which'), 'Ridge race');
    await own.click(screen.getByTitle('Select a path first'));
    expect(route().points).not.toEqual(map().routes[other].points);
  });

  it('says what is missing before a route can be laid', () => {
    open((whole) => ({ ...whole, routes: {}, copies: {} }));
    renderIn(<RoutePanel />);
    expect(screen.getByText('Place a start and a finish first.')).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Lay a route' }).disabled).toBe(true);
  });

  it('takes the line of a selected path', async () => {
    open((whole) => ({ ...whole, routes: {}, paths: { w1: { name: 'way', points: [[0, 0, 0], [9, 9, 9]], loop: false } } })); // prettier-ignore
    store.dispatch(selected({ kind: 'paths', ids: ['w1'] }));
    renderIn(<RoutePanel />);
    await user().click(screen.getByRole('button', { name: 'Lay a route' }));
    expect(Object.values(map().routes)[0]).toMatchObject({ points: [[0, 0, 0], [9, 9, 9]], stops: race.routes.r1.stops }); // prettier-ignore
  });
});

describe('the sheet of zones', () => {
  let closed = false;
  const rows = () => screen.getAllByRole('row').slice(1);
  const properties = (id: string) => map().objects[id].properties;
  beforeEach(() => {
    closed = false;
    open((whole) => ({
      ...whole,
      objects: {
        o1: zone('shed_in', 0, { code: 's.in' }),
        o2: zone('shed_out', 9, { use: 'exit' }),
        o3: zone('view', 20, { use: 'photo', label: 'Far view' }),
      },
    }));
    renderIn(<ZoneSheet close={() => (closed = true)} />);
  });

  it('filters by every column and sorts by each', async () => {
    const own = user();
    await own.type(screen.getByLabelText('Filter zones'), 'far');
    expect(rows()).toHaveLength(1);
    expect(screen.getByText('1 of 3')).toBeTruthy();
    await own.clear(screen.getByLabelText('Filter zones'));
    await own.click(screen.getByRole('button', { name: 'Name' }));
    expect(rows().map((row) => within(row).getByTitle('Show it in the map').textContent.trim())).toEqual(['view', 'shed_out', 'shed_in']);
    expect(screen.getByRole('columnheader', { name: 'Name' }).getAttribute('aria-sort')).toBe('descending');
  });

  it('edits one, or all that are ticked; an id stays one’s own', async () => {
    const own = user();
    await own.click(screen.getByLabelText('Tick all'));
    await own.selectOptions(screen.getByLabelText('Map icon of view'), 'symbols/camera');
    expect(['o1', 'o2', 'o3'].map((id) => properties(id).icon)).toEqual(['symbols/camera', 'symbols/camera', 'symbols/camera']);
    await own.clear(screen.getByLabelText('Id of view'));
    await own.type(screen.getByLabelText('Id of view'), 'v.1');
    await own.tab();
    expect(['o1', 'o2', 'o3'].map((id) => properties(id).code)).toEqual(['s.in', properties('o2').code, 'v.1']);
    expect(properties('o2').code).not.toBe('v.1');
  });

  it('makes a pair name each other', async () => {
    await user().selectOptions(screen.getByLabelText('Partner of shed_in'), 'shed_out');
    expect([properties('o1').partner, properties('o2').partner]).toEqual(['o2', 'o1']);
  });

  it('shows the place of one in the map', async () => {
    act(() => void store.dispatch(viewChanged({ panel: 'ground' })));
    await user().click(screen.getByRole('button', { name: /^view$/ }));
    const { selection, focus, panel } = store.getState().view;
    expect([selection.objects, focus?.point, panel, closed]).toEqual([['o3'], [20, 0, 0], 'properties', true]);
  });
});
