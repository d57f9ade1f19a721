/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

/** Moods and sound beds in the inspector of the map. */

import { afterEach, expect, test } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { MapSchema, type GameMap } from '@violet-crate/core/document/schema';
import { object, withChanges } from '@violet-crate/core/testing/maps';
import { store } from '../../state/store.ts';
import { selected } from '../../state/viewSlice.ts';
import { openWorld, renderIn } from '../../testing/render.tsx';
import { Inspector } from '../Inspector.tsx';

afterEach(cleanup);
const shown = (): GameMap => store.getState().map.map!;
const valid = () => readDocument(JSON.stringify(shown()), MapSchema, 'map');

test('moods are added, named, put first and taken away; the map stays one that can be read', async () => {
  openWorld();
  renderIn(<Inspector />);
  const moods = within(screen.getByRole('region', { name: 'Moods' }));
  await userEvent.click(moods.getByRole('button', { name: 'Add' }));
  await userEvent.click(moods.getByRole('button', { name: 'Add' }));
  const name = moods.getByRole('textbox', { name: 'Name' });
  await userEvent.clear(name);
  await userEvent.type(name, 'Mood 1');
  expect(moods.getByRole('alert').textContent).toBe('Another mood has this name.');
  await userEvent.clear(name);
  await userEvent.type(name, 'Storm{Enter}');
  await userEvent.selectOptions(moods.getByRole('combobox', { name: 'Falls' }), 'rain');
  expect(shown().settings.moods!.map((mood) => [mood.name, mood.falling])).toEqual([
    ['Mood 1', 'none'],
    ['Storm', 'rain'],
  ]);
  await userEvent.click(moods.getByRole('button', { name: 'Show Storm in the perspective' }));
  expect(store.getState().view.mood).toBe('Storm');
  await userEvent.click(moods.getByRole('button', { name: 'Make Storm the first' }));
  expect(shown().settings.moods![0].name).toBe('Storm');
  const day = moods.getByRole('textbox', { name: 'Day' });
  await userEvent.clear(day);
  await userEvent.type(day, '2025-02-30');
  expect(moods.getByRole('alert').textContent).toContain('2024-06-21');
  valid();
  await userEvent.click(moods.getByRole('button', { name: 'Remove Storm' }));
  await userEvent.click(moods.getByRole('button', { name: 'Remove Mood 1' }));
  expect(shown().settings.moods).toBeUndefined();
});

test('beds get loops and sounds now and then; their bounds follow each other', async () => {
  openWorld();
  renderIn(<Inspector />);
  const beds = within(screen.getByRole('region', { name: 'Sound beds' }));
  await userEvent.click(beds.getByRole('button', { name: 'Add' }));
  await userEvent.click(beds.getByRole('button', { name: 'Add one now and then' }));
  const least = beds.getByRole('textbox', { name: 'Sound 1: at least' });
  await userEvent.clear(least);
  await userEvent.type(least, '40{Enter}');
  expect(shown().settings.beds![0].shots[0].every).toEqual([40, 40]);
  await userEvent.selectOptions(beds.getByRole('combobox', { name: 'By' }), 'night');
  expect(shown().settings.beds![0].shots[0].when).toBe('night');
  valid();
  await userEvent.click(beds.getByRole('button', { name: 'Remove sound 1' }));
  expect(shown().settings.beds![0].shots).toEqual([]);
});

test('a sound area says what Sabine’s formula gives for its room, and offers the map’s beds', async () => {
  openWorld(({ crate }) => {
    const [name] = Object.keys(crate.maps);
    crate.maps[name] = withChanges(crate.maps[name], object('area', 'sound_area', 'hum', [0, 0, 0], { size: [40, 40, 40] }));
    crate.maps[name].settings = { ...crate.maps[name].settings, beds: [{ name: 'Engine', fade: 1, loops: [], shots: [] }] };
  });
  store.dispatch(selected({ kind: 'objects', ids: ['area'] }));
  renderIn(<Inspector />);
  expect(screen.getByText(/s by Sabine: \d+\.\d m from wall to wall, which take \d+ %/)).toBeTruthy();
  await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Bed' }), 'Engine');
  expect(shown().objects.area.properties.bed).toBe('Engine');
});
