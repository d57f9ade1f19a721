/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { GameMap } from '@violet-crate/core/document/schema';
import { newObject } from '@violet-crate/core/profile/newObject';
import { BRUSHES } from '@violet-crate/core/terrain/brush/brush';
import { groundOf } from '@violet-crate/core/terrain/ground';
import { shaped, terrain } from '@violet-crate/core/testing/terrains';
import { testProfile } from '@violet-crate/core/testing/world';
import { edited, undone } from '../../state/mapSlice.ts';
import { store } from '../../state/store.ts';
import { selected, viewChanged } from '../../state/viewSlice.ts';
import { openWorld, renderIn } from '../../testing/render.tsx';
import { ObjectInspector } from '../inspector/ObjectInspector.tsx';
import { BrushOptions } from './BrushOptions.tsx';
import { beginStroke, strokeEdit } from './strokes.ts';
import { GroundPanel } from './GroundPanel.tsx';
import { fallsTo, slopeWordAt, slopeWords } from './slopeWords.ts';

const profile = testProfile('skarrow');
const map = (): GameMap => store.getState().map.map!;
const view = () => store.getState().view;
const user = () => userEvent.setup();
const open = (change: (map: GameMap) => GameMap) =>
  openWorld((world) => {
    Object.assign(world, { profile });
    world.crate.maps.hall = change({ ...world.crate.maps.hall, solids: {}, objects: {}, signals: {}, copies: {} });
  });
const hill = (more: Partial<GameMap> = {}) =>
  open((empty) => {
    const { map: made } = shaped(terrain([65, 65]), (i) => Math.max(0, i - 20) * 0.5);
    return { ...empty, terrains: made.terrains, tiles: made.tiles, ...more };
  });

afterEach(cleanup);

describe('the panel of ground', () => {
  it('makes ground where there is none, in the number of samples and at the height that are wanted', async () => {
    open((empty) => empty);
    const own = user();
    renderIn(<GroundPanel />);
    expect(screen.getByText('No ground yet')).toBeTruthy();
    await own.selectOptions(screen.getByLabelText('Samples'), '129 along a side');
    await own.clear(screen.getByLabelText('Height (metres)'));
    await own.type(screen.getByLabelText('Height (metres)'), '12{Enter}');
    await own.click(screen.getByRole('button', { name: 'Make ground' }));
    const [id] = Object.keys(map().terrains);
    expect(map().terrains[id]).toMatchObject({ samples: [129, 129], base: 12 });
    expect(view()).toMatchObject({ terrain: id, tool: 'ground' });
    expect(screen.getByText(/heights from 12\.0 to 12\.0/)).toBeTruthy();
  });

  it('adds surfaces up to eight, and takes one away again', async () => {
    hill();
    const own = user();
    renderIn(<GroundPanel />);
    const add = () => screen.getAllByRole<HTMLButtonElement>('button', { name: 'Add' })[0];
    while (!add().disabled) await own.click(add());
    expect(map().terrains.e1.surfaces).toHaveLength(8);
    expect(add().title).toBe('A ground has eight at most');
    await own.click(screen.getByRole('button', { name: 'Remove the surface Surface 8' }));
    expect(map().terrains.e1.surfaces).toHaveLength(7);
  });

  it('keeps rules, each with its own seed', async () => {
    hill();
    const own = user();
    renderIn(<GroundPanel />);
    await own.click(screen.getByRole('button', { name: 'Cover' }));
    await own.click(screen.getByRole('button', { name: 'Grow' }));
    const { paint, scatter } = map().terrains.e1;
    expect([Object.values(paint)[0].seed, Object.values(scatter)[0].seed]).toEqual([1, 2]);
    await own.click(screen.getByRole('button', { name: /Remove.*Cover 1|Cover 1.*Remove/ }));
    expect(map().terrains.e1.paint).toEqual({});
  });

  it('lays a road along a path: the path knows its width, the ground is shaped, one undo takes both back', async () => {
    hill({ paths: { w1: { name: 'lane', points: [[5, 30, 1], [60, 30, 8]], loop: false } } }); // prettier-ignore
    store.dispatch(selected({ kind: 'paths', ids: ['w1'] }));
    const own = user();
    const before = map();
    renderIn(<GroundPanel />);
    await own.clear(screen.getByLabelText('Width'));
    await own.type(screen.getByLabelText('Width'), '6{Enter}');
    await own.click(screen.getByRole('button', { name: 'Lay the road' }));
    expect(screen.getByText(/^Road laid: .* m³ cut, .* m³ filled/)).toBeTruthy();
    expect(map().paths.w1.road).toBe(6);
    expect(map().tiles).not.toBe(before.tiles);
    act(() => void store.dispatch(undone()));
    expect(map().paths).toEqual(before.paths);
    expect(map().tiles).toEqual(before.tiles);
  });

  it('levels the ground under what is selected', async () => {
    hill({ objects: { o1: newObject(profile, 'prop', 'block', [40, 30, 4]) } });
    store.dispatch(selected({ kind: 'objects', ids: ['o1'] }));
    renderIn(<GroundPanel />);
    await user().click(screen.getByRole('button', { name: 'Level under what is selected' }));
    expect(groundOf(map(), 'e1')!.heightAt(40, 30)).toBeCloseTo(4, 2);
    expect(screen.getByText(/^Levelled: /)).toBeTruthy();
  });
});

describe('contact with the ground', () => {
  it('is chosen for all that are selected, and what follows goes up with a stroke', async () => {
    hill({ objects: { o1: newObject(profile, 'prop', 'first', [40, 30, 10]), o2: newObject(profile, 'prop', 'second', [42, 30, 11]) } });
    store.dispatch(selected({ kind: 'objects', ids: ['o1', 'o2'] }));
    renderIn(<ObjectInspector ids={['o1', 'o2']} />);
    await user().selectOptions(screen.getByLabelText('When the ground changes'), 'follow it up and down');
    expect([map().objects.o1.contact, map().objects.o2.contact]).toEqual(['follow', 'follow']);
    act(() => void store.dispatch(viewChanged({ brush: 'level', brushSettings: { ...view().brushSettings, radius: 12, strength: 1, height: 30 } })));
    const stroke = beginStroke(map(), view(), [40, 30]);
    if (typeof stroke === 'string') throw new Error(stroke);
    const { edit } = strokeEdit(stroke, 'To height');
    act(() => void store.dispatch(edited(edit!)));
    const raised = groundOf(map(), 'e1')!.heightAt(40, 30)! - 10;
    expect(raised).toBeGreaterThan(5);
    expect(map().objects.o1.position[2]).toBeCloseTo(10 + raised, 3);
    await user().selectOptions(screen.getByLabelText('When the ground changes'), 'ask: what floats or sinks is found');
    expect(map().objects.o1.contact).toBeUndefined();
  });
});

describe('the brush', () => {
  it('asks what its kind needs, and no more', async () => {
    hill();
    renderIn(<BrushOptions />);
    const options = within(screen.getByRole('group', { name: 'Brush options' }));
    for (const [id, { label, asks }] of Object.entries(BRUSHES)) {
      await user().selectOptions(options.getByLabelText('Brush'), label);
      expect([id, view().brush]).toEqual([id, id]);
      expect(options.queryByLabelText('Step') !== null).toBe((asks as readonly string[]).includes('step'));
      expect(options.queryByLabelText('Surface') !== null).toBe((asks as readonly string[]).includes('surface'));
    }
  });

  it('says why it cannot begin', () => {
    open((empty) => empty);
    expect(beginStroke(map(), view(), [0, 0])).toMatch(/no ground yet/);
    hill({ terrains: { e1: terrain([65, 65], { things: [] }) } });
    store.dispatch(viewChanged({ brush: 'scatter', terrain: 'e1' }));
    expect(beginStroke(map(), view(), [10, 10])).toMatch(/nothing to scatter/);
    store.dispatch(viewChanged({ brush: 'stamp' }));
    expect(beginStroke(map(), view(), [10, 10])).toMatch(/Choose a picture/);
  });
});

describe('words for slopes', () => {
  it('follow what players and vehicles of the game can do', () => {
    const words = slopeWords(profile);
    expect([0, 8, 15.5, 20, 60].map((slope) => slopeWordAt(words, slope))).toEqual([
      'level',
      'gentle',
      'steep',
      'too steep to ride up',
      'too steep to walk',
    ]);
    // Ground that rises to the east falls to the west; one that rises to the south-west falls to the north-east.
    expect([fallsTo([-0.6, 0, 0.8]), fallsTo([0.4, 0.4, 0.8]), fallsTo([0, 0, 1])]).toEqual(['W', 'NE', '']);
    expect(slopeWords(testProfile()).some(({ word }) => word.includes('ride'))).toBe(false);
  });
});
