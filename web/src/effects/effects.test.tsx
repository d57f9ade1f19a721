/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

/** The editor of effects: curves and gradients by keys, fields, costs; the preview itself needs a graphics card. */

import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { effectPath, newEffect, readEffect, writeEffect, type Curve, type Effect, type Gradient } from '@violet-crate/core/effect/document';
import { store } from '../state/store.ts';
import { openWorld, renderIn } from '../testing/render.tsx';
import { CurveEditor } from './CurveEditor.tsx';
import { EffectsPage } from './EffectsPage.tsx';
import { GradientEditor } from './GradientEditor.tsx';

afterEach(cleanup);
beforeEach(() => localStorage.clear());

function Curves({ start, seen }: { start: Curve; seen(curve: Curve): void }) {
  const [curve, setCurve] = useState(start);
  return (
    <CurveEditor
      label="Rate"
      along="round"
      value={curve}
      least={0}
      onDraft={() => {}}
      onCommit={(next) => {
        setCurve(next);
        seen(next);
      }}
    />
  );
}

test('a curve is changed by keys, never beyond its neighbours or below its least', () => {
  const seen = jest.fn<(curve: Curve) => void>();
  renderIn(
    <Curves
      start={[
        [0, 10],
        [0.5, 20],
      ]}
      seen={seen}
    />,
  );
  const key = () => screen.getByRole('button', { name: /key 2 of/ });
  fireEvent.keyDown(key(), { key: 'ArrowLeft', shiftKey: true });
  expect(seen).toHaveBeenLastCalledWith([
    [0, 10],
    [0.4, 20],
  ]);
  for (let n = 0; n < 9; n++) fireEvent.keyDown(key(), { key: 'ArrowLeft', shiftKey: true });
  expect(seen.mock.lastCall![0][1][0]).toBe(0);
  for (let n = 0; n < 20; n++) fireEvent.keyDown(key(), { key: 'ArrowDown', shiftKey: true });
  expect(seen.mock.lastCall![0][1][1]).toBe(0);
  fireEvent.keyDown(key(), { key: 'Insert' });
  expect(seen.mock.lastCall![0]).toHaveLength(3);
  fireEvent.keyDown(key(), { key: 'Delete' });
  expect(seen.mock.lastCall![0]).toHaveLength(2);
});

test('a curve keeps its last key', async () => {
  const seen = jest.fn<(curve: Curve) => void>();
  renderIn(<Curves start={[[0, 10]]} seen={seen} />);
  fireEvent.keyDown(screen.getByRole('button', { name: /key 1 of 1/ }), { key: 'Delete' });
  expect(seen).not.toHaveBeenCalled();
  const much = screen.getByRole('textbox', { name: 'Rate: how much' });
  await userEvent.clear(much);
  await userEvent.type(much, '25{Enter}');
  expect(seen).toHaveBeenLastCalledWith([[0, 25]]);
});

test('a stop that is put between two takes the colour that is there, mixed as light', () => {
  const seen = jest.fn<(gradient: Gradient) => void>();
  const stops: Gradient = [
    { at: 0, colour: '#000000', alpha: 0 },
    { at: 1, colour: '#ffffff', alpha: 1 },
  ];
  renderIn(<GradientEditor label="Colour" value={stops} onDraft={() => {}} onCommit={seen} />);
  fireEvent.keyDown(screen.getByRole('button', { name: /stop 1 of 2/ }), { key: 'Insert' });
  expect(seen).toHaveBeenLastCalledWith([stops[0], { at: 0.5, colour: '#bcbcbc', alpha: 0.5 }, stops[1]]);
  fireEvent.keyDown(screen.getByRole('button', { name: /stop 2 of 2/ }), { key: 'ArrowDown', shiftKey: true });
  expect(seen.mock.lastCall![0][1].alpha).toBe(0.9);
});

const effect = (change: Partial<Effect> = {}): string => writeEffect({ ...newEffect('Mist', 4), ...change });
const now = (): Effect => readEffect(store.getState().crate.data[effectPath('mist')], 'mist');

test('the page lists effects, begins new ones from the game’s templates, and refuses names that are taken', async () => {
  openWorld(({ crate }) => void (crate.data = { [effectPath('mist')]: effect() }));
  renderIn(<EffectsPage />);
  expect(screen.getByRole('button', { name: 'Mist' })).toHaveProperty('ariaCurrent', 'page');
  const name = screen.getByRole('textbox', { name: 'Name of a new effect' });
  await userEvent.type(name, 'mist');
  expect(screen.getByRole('button', { name: 'Add the effect' })).toHaveProperty('disabled', true);
  await userEvent.clear(name);
  await userEvent.selectOptions(screen.getByRole('combobox', { name: 'What a new effect begins as' }), 'Sparks');
  await userEvent.type(name, 'flint{Enter}');
  expect(readEffect(store.getState().crate.data[effectPath('flint')], 'flint').loop).toBe(false);
});

test('fields change the file; a damaged one is shown with why, and nothing is lost', async () => {
  openWorld(({ crate }) => void (crate.data = { [effectPath('mist')]: effect(), [effectPath('torn')]: '{' }));
  renderIn(<EffectsPage />);
  await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Form' }), 'A sphere');
  expect(now().emitters[0].from).toMatchObject({ shape: 'sphere', shell: false });
  await userEvent.click(screen.getByRole('checkbox', { name: 'Turbulence' }));
  expect(now().emitters[0].forces.turbulence).toBeDefined();
  await userEvent.click(screen.getByRole('button', { name: 'Add an emitter' }));
  expect(now().emitters.map(({ name }) => name)).toEqual(['Main', 'Emitter 2']);
  await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Children' }), 'Main');
  await userEvent.click(screen.getByRole('tab', { name: 'Main' }));
  await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Children' }), 'Emitter 2');
  expect(
    screen
      .getAllByRole('alert')
      .map((one) => one.textContent)
      .join(),
  ).toContain('without end');
  expect(now().emitters[0].children).toBeUndefined();
  await userEvent.click(within(screen.getByRole('navigation', { name: 'Effects' })).getByRole('button', { name: 'torn' }));
  expect(screen.getByRole('alert').textContent).toContain('not valid JSON');
  expect(store.getState().crate.data[effectPath('torn')]).toBe('{');
});
