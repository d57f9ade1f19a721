/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { MapSchema, type GameMap } from '@violet-crate/core/document/schema';
import { newObject } from '@violet-crate/core/profile/newObject';
import { useState } from 'react';
import { openCrate } from '../../state/crateSlice.ts';
import { LuxelFactor } from '../../common/LuxelFactor.tsx';
import { store } from '../../state/store.ts';
import { openWorld, renderIn } from '../../testing/render.tsx';
import { CheckField, ChoiceField, NumberField, TextField, VectorField } from '../../common/fields.tsx';
import { Inspector } from '../Inspector.tsx';
import { edited, saved, undone } from '../../state/mapSlice.ts';
import { selected } from '../../state/viewSlice.ts';

afterEach(cleanup);
const user = () => userEvent.setup();
const shownMap = (): GameMap => store.getState().map.map!;

describe('fields of the inspector', () => {
  it('a number is told on Enter or on leaving, and a wrong one or Escape puts the old back', async () => {
    const told: number[] = [];
    renderIn(<NumberField label="Reach" unit="notches" value={64} min={0} max={100} onCommit={(v) => told.push(v)} />);
    const field = screen.getByLabelText<HTMLInputElement>('Reach (notches)');
    await user().clear(field);
    await user().type(field, '32{Enter}');
    expect(told).toEqual([32]);
    await user().clear(field);
    await user().type(field, '101');
    expect(field.getAttribute('aria-invalid')).toBe('true');
    expect(field.title).toBe('Reach: a number from 0 to 100');
    await user().tab();
    expect(field.value).toBe('64');
    await user().clear(field);
    await user().type(field, '7{Escape}');
    expect(field.value).toBe('64');
    expect(told).toEqual([32]);
  });

  it('a text that must not be is explained while it is typed, and not told', async () => {
    const told: string[] = [];
    const problem = (text: string) => (text.includes(' ') ? 'A name has no spaces.' : null);
    renderIn(<TextField label="Name" value="lamp" problem={problem} onCommit={(v) => told.push(v)} />);
    const field = screen.getByLabelText('Name');
    await user().type(field, ' two');
    expect(screen.getByRole('alert').textContent).toBe('A name has no spaces.');
    await user().tab();
    expect(told).toEqual([]);
    await user().type(screen.getByLabelText('Name'), '_2{Enter}');
    expect(told).toEqual(['lamp_2']);
  });

  it('one axis of a vector changes that axis alone', async () => {
    const told: number[][] = [];
    renderIn(<VectorField label="Position" value={[1, 2, 3]} onCommit={(v) => told.push(v)} />);
    const y = screen.getByLabelText('Position y');
    await user().clear(y);
    await user().type(y, '-8{Enter}');
    expect(told).toEqual([[1, -8, 3]]);
  });

  it('a choice that is gone is shown as missing; a box is ticked', async () => {
    const told: (string | boolean)[] = [];
    renderIn(
      <>
        <ChoiceField label="Model" value="models/gone.glb" choices={[['models/pump.glb', 'pump']]} onCommit={(v) => told.push(v)} />
        <CheckField label="Lit" value={false} onCommit={(v) => told.push(v)} />
      </>,
    );
    expect(screen.getByRole('option', { name: 'models/gone.glb – missing' })).toBeTruthy();
    await user().selectOptions(screen.getByLabelText('Model'), 'pump');
    await user().click(screen.getByLabelText('Lit'));
    expect(told).toEqual(['models/pump.glb', true]);
  });

  it('the fineness of light is a factor, keeps one that is not offered, and can be left to others', async () => {
    const told: (number | undefined)[] = [];
    function Held() {
      const [value, setValue] = useState<number | undefined>(0.3);
      return (
        <LuxelFactor
          id="luxel"
          value={value}
          otherwise="as its material says"
          onChange={(next) => {
            told.push(next);
            setValue(next);
          }}
        />
      );
    }
    renderIn(<Held />);
    const field = screen.getByRole<HTMLSelectElement>('combobox');
    expect(field.value).toBe('0.3');
    await user().selectOptions(field, 'twice as fine');
    await user().selectOptions(field, 'as its material says');
    expect(told).toEqual([0.5, undefined]);
  });
});

describe('the inspector', () => {
  it('of a map takes a sky’s picture and how finely it is lit, as edits that can be undone and read back', async () => {
    openWorld((world) => {
      world.base = {
        ...world.base,
        materials: [...world.base.materials, { name: 'dusk', type: 'sky', colour: '#445566', unitsPerRepeat: 64, texture: 'textures/dusk.ktx2' }],
      };
    });
    renderIn(<Inspector />);
    expect(screen.getByText(/solids, .* objects/)).toBeTruthy();
    await user().selectOptions(screen.getByLabelText('Picture'), 'dusk');
    expect(shownMap().settings.skyMaterial).toBe('dusk');
    await user().selectOptions(screen.getByLabelText('Light'), 'twice as fine');
    expect(shownMap().settings.luxel).toBe(0.5);
    expect(readDocument(JSON.stringify(shownMap()), MapSchema, 'hall.map.json').settings).toMatchObject({ skyMaterial: 'dusk', luxel: 0.5 });
    // Set back to nothing, it is left out again.
    await user().selectOptions(screen.getByLabelText('Light'), 'as the build says');
    await user().selectOptions(screen.getByLabelText('Picture'), 'none: the colour alone');
    expect(Object.keys(shownMap().settings)).not.toContain('skyMaterial');
    act(() => void store.dispatch(undone()));
    expect(shownMap().settings.skyMaterial).toBe('dusk');
  });

  it('without a sky in crate or game says how to come by one', () => {
    openWorld();
    renderIn(<Inspector />);
    const field = screen.getByLabelText<HTMLSelectElement>('Picture');
    expect(field.disabled).toBe(true);
    expect(field.title).toContain('Import a picture as a sky first');
  });

  it('of a face sets how finely it is lit, and leaves the others', async () => {
    openWorld();
    act(() => void store.dispatch(selected({ kind: 'solids', ids: ['s1'], face: 0 })));
    renderIn(<Inspector />);
    await user().selectOptions(screen.getByLabelText('Light'), 'four times as fine');
    expect(shownMap().solids.s1.faces.map((face) => face.luxel)).toEqual([
      0.25,
      ...shownMap()
        .solids.s1.faces.slice(1)
        .map(() => undefined),
    ]);
    await user().selectOptions(screen.getByLabelText('Light'), 'as its material says');
    expect(Object.keys(shownMap().solids.s1.faces[0])).not.toContain('luxel');
  });

  it('of a lamp has its size, within its bounds', async () => {
    openWorld(({ profile, crate }) => {
      crate.maps.hall.objects.o9 = newObject(profile, 'lamp', 'lamp_9', [0, 0, 64]);
    });
    act(() => void store.dispatch(selected({ kind: 'objects', ids: ['o9'] })));
    renderIn(<Inspector />);
    const field = screen.getByLabelText<HTMLInputElement>('Size (notches)');
    expect(field.value).toBe('0');
    await user().clear(field);
    await user().type(field, '4{Enter}');
    expect(shownMap().objects.o9.properties.radius).toBe(4);
    await user().clear(field);
    await user().type(field, '400{Enter}');
    expect(shownMap().objects.o9.properties.radius).toBe(4);
  });

  it('of several kinds says what is selected', () => {
    openWorld();
    act(() => void store.dispatch(selected({ solids: ['s1', 's2'], objects: ['o1'] })));
    renderIn(<Inspector />);
    expect(screen.getByRole('heading', { name: '3 things' })).toBeTruthy();
    expect(screen.getByText(/2 solids, 1 object\./)).toBeTruthy();
  });
});

describe('another crate', () => {
  it('does not take over what is unsaved of the one before, and its own map comes', () => {
    openWorld();
    act(() => void store.dispatch(edited({ name: 'remove a wall', changes: [{ of: 'solids', id: 's1', to: null }] })));
    const before = store.getState().map;
    expect(before.unsaved).toHaveLength(1);
    openWorld();
    const { crateId, map, unsaved } = store.getState().map;
    expect(crateId).not.toBe(before.crateId);
    expect(map!.solids.s1).toBeDefined();
    expect(unsaved).toEqual([]);
  });

  it('is opened only when nothing of the one before is unsaved', async () => {
    openWorld();
    act(() => void store.dispatch(edited({ name: 'remove a wall', changes: [{ of: 'solids', id: 's1', to: null }] })));
    const asked: string[] = [];
    globalThis.fetch = ((url: string) => {
      asked.push(url);
      return Promise.reject(new Error('away'));
    }) as typeof fetch;
    const opening = store.dispatch(openCrate('other'));
    await new Promise((done) => setTimeout(done, 200));
    expect(asked).toEqual([]);
    act(() => void store.dispatch(saved({ count: 1, revision: 2 })));
    await opening;
    expect(asked[0]).toContain('/api/crates/other');
  });
});
