/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { beforeEach, describe, expect, it } from '@jest/globals';
import type { MemberKind } from '@violet-crate/core/document/members';
import { readDocument } from '@violet-crate/core/document/readDocument';
import { MapSchema, type GameMap, type Solid } from '@violet-crate/core/document/schema';
import { membersBox } from '@violet-crate/core/map/member/members';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import { solidVolume } from '@violet-crate/core/solid/solid';
import { cube, object, profile, solid, withChanges } from '@violet-crate/core/testing/maps';
import { edited, undone } from '../../state/mapSlice.ts';
import { store } from '../../state/store.ts';
import { emptySelection, selected, viewChanged, type Choice } from '../../state/viewSlice.ts';
import { openWorld } from '../../testing/render.tsx';
import { keyName, MAP_COMMANDS, mapContext, runMapCommand } from './mapCommands.ts';

const map = (): GameMap => store.getState().map.map!;
const view = () => store.getState().view;
const selection = () => view().selection;
const context = () => mapContext(store.getState(), store.dispatch)!;
const select = (choice: Choice) => store.dispatch(selected(choice));
/** Runs a command with its own defaults, changed by what is given; answers why it was refused. */
function run(id: string, answers: Record<string, number | string> = {}): string | null {
  const command = MAP_COMMANDS.find((one) => one.id === id)!;
  const asked = command.blocked?.(context()) ? [] : (command.asks?.(context()) ?? []);
  return runMapCommand(id, context(), { ...Object.fromEntries(asked.map((ask) => [ask.id, ask.value])), ...answers });
}
const boxOf = (kind: MemberKind, ...ids: string[]) => membersBox(map(), profile, { ...emptySelection, [kind]: ids })!;
const volumes = (ids: readonly string[]) => ids.reduce((sum, id) => sum + solidVolume(map().solids[id]), 0);

/** The hall with two cubes that overlap, one apart, a crank, three lamps and a series of two. */
beforeEach(() => {
  openWorld((world) => {
    world.crate.maps.hall = withChanges(
      world.crate.maps.hall,
      solid('s901', cube([1000, 0, 0], 64)),
      solid('s902', cube([1032, 0, 0], 64)),
      solid('s903', cube([2000, 0, 8], 64)),
      object('o901', 'crank', 'crank', [1200, 0, 100]),
      object('o902', 'lamp', 'lamp', [1000, 200, 100]),
      object('o903', 'lamp', 'lamp_2', [1030, 260, 100]),
      object('o904', 'lamp', 'lamp_3', [1200, 320, 100]),
      object('o905', 'beacon', 'beacon_0', [1400, 0, 0], { ordinal: 0 }),
      object('o906', 'beacon', 'beacon_5', [1464, 0, 0], { ordinal: 5 }),
    );
  });
  store.dispatch(viewChanged({ grid: 16, snap: true, material: 'slate', hidden: {}, hiddenLayers: {}, mode: 'solids' }));
});

const CHOICES: Record<string, Choice> = {
  nothing: null,
  'one solid': { kind: 'solids', ids: ['s901'] },
  'solids that overlap': { kind: 'solids', ids: ['s901', 's902'] },
  'solids apart': { kind: 'solids', ids: ['s901', 's903'] },
  'a face': { solids: ['s901'], faces: [{ solid: 's901', face: 0 }] },
  'an object': { kind: 'objects', ids: ['o901'] },
  'one of a series': { kind: 'objects', ids: ['o905'] },
  'solids and objects': { solids: ['s901', 's903'], objects: ['o901', 'o902', 'o903'] },
};

describe('every command, on whatever is selected', () => {
  // What goes out, and what loads a file first.
  const apart = new Set(['undo', 'redo', 'export-glb', 'export-obj', 'parts-to-solids']);

  it.each(Object.entries(CHOICES))('%s: refuses with a sentence, or makes a valid map that undo takes back exactly', (_, choice) => {
    for (const { id, label } of MAP_COMMANDS.filter((one) => !apart.has(one.id))) {
      select(choice);
      const [before, steps] = [map(), store.getState().map.undo.length];
      const refusal = run(id);
      if (refusal !== null) {
        expect([label, refusal]).toEqual([label, expect.stringMatching(/[.…)]$/)]);
        expect(map()).toBe(before);
      }
      if (map() === before) continue;
      expect(() => readDocument(JSON.stringify(map()), MapSchema, 'hall.map.json')).not.toThrow();
      const done = store.getState().map.undo.length - steps;
      expect([label, done]).toEqual([label, 1]);
      expect(store.getState().map.undo.at(-1)!.edit.name).not.toBe('');
      store.dispatch(undone());
      expect([label, map()]).toEqual([label, before]);
    }
  });

  it('has an id, keys and a label of its own', () => {
    const twice = (list: (string | undefined)[]) => list.filter((one, i) => one !== undefined && list.indexOf(one) !== i);
    expect(twice(MAP_COMMANDS.map(({ id }) => id))).toEqual([]);
    expect(twice(MAP_COMMANDS.map(({ keys }) => keys))).toEqual([]);
    expect(twice(MAP_COMMANDS.map(({ label }) => label))).toEqual([]);
  });

  it('comma and full stop turn what is selected, and the grid has keys of its own', () => {
    const of = (keys: string) => MAP_COMMANDS.find((command) => command.keys === keys)!.id;
    expect([of(','), of('.'), of('Alt+,'), of('Alt+.')]).toEqual(['turn15', 'turn-15', 'grid-finer', 'grid-coarser']);
    const { grid } = store.getState().view;
    run('grid-coarser');
    expect(store.getState().view.grid).toBe(grid * 2);
    run('grid-finer');
    expect(store.getState().view.grid).toBe(grid);
  });

  it('an unknown one, or one without a map, does nothing', () => {
    expect(runMapCommand('no-such', context())).toBeNull();
    expect(runMapCommand('delete', null)).toBeNull();
  });
});

describe('keys', () => {
  const key = (init: KeyboardEventInit) => keyName(new KeyboardEvent('keydown', init));

  it('are named alike whatever the layout makes of Shift', () => {
    expect(key({ key: 'd', code: 'KeyD' })).toBe('d');
    expect(key({ key: 'D', code: 'KeyD', shiftKey: true })).toBe('Shift+D');
    expect(key({ key: 'z', code: 'KeyZ', ctrlKey: true })).toBe('Ctrl+Z');
    expect(key({ key: 'z', code: 'KeyZ', metaKey: true, shiftKey: true })).toBe('Ctrl+Shift+Z');
    expect(key({ key: '!', code: 'Digit1', shiftKey: true })).toBe('Shift+1');
    expect(key({ key: ';', code: 'Comma', shiftKey: true })).toBe('Shift+,');
    expect(key({ key: 'Enter', code: 'Enter', altKey: true })).toBe('Alt+Enter');
  });
});

describe('solids', () => {
  it('hollow makes walls of the given thickness, to the inside or the outside', () => {
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('hollow', { thickness: 8 })).toBeNull();
    expect(volumes(selection().solids)).toBeCloseTo(64 ** 3 - 48 ** 3);
    store.dispatch(undone());
    select({ kind: 'solids', ids: ['s903'] });
    run('hollow', { thickness: -8 });
    expect(volumes(selection().solids)).toBeCloseTo(80 ** 3 - 64 ** 3);
  });

  it('subtract takes out of everything shown, and says where nothing is', () => {
    select({ kind: 'solids', ids: ['s901'] });
    expect(run('subtract')).toBeNull();
    expect(map().solids.s901).toBeUndefined();
    const left = Object.keys(map().solids).filter((id) => boxOf('solids', id).min[0] >= 1000 && boxOf('solids', id).max[0] <= 1100);
    expect(volumes(left)).toBeCloseTo(32 * 64 * 64);
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('subtract')).toBe('It overlaps no other solid.');
  });

  it('what is hidden is left whole', () => {
    store.dispatch(viewChanged({ hidden: { 'solids/s902': true } }));
    select({ kind: 'solids', ids: ['s901'] });
    expect(run('subtract')).toBe('It overlaps no other solid.');
  });

  it('intersect keeps what is common, merge what is convex together', () => {
    select({ kind: 'solids', ids: ['s901', 's902'] });
    expect(run('intersect')).toBeNull();
    expect(boxOf('solids', ...selection().solids)).toEqual({ min: [1032, 0, 0], max: [1064, 64, 64] });
    store.dispatch(undone());
    select({ kind: 'solids', ids: ['s901', 's902'] });
    expect(run('merge')).toBeNull();
    expect(volumes(selection().solids)).toBeCloseTo(96 * 64 * 64);
    store.dispatch(undone());
    select({ kind: 'solids', ids: ['s901', 's903'] });
    expect(run('intersect')).toBe('They have nothing in common.');
    expect(run('merge')).toMatch(/concave|convex|touch|apart/i);
  });

  it('ring cut gives equal parts', () => {
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('ring-cut', { axis: 'y', parts: 4 })).toBeNull();
    expect(selection().solids).toHaveLength(4);
    for (const id of selection().solids) expect(boxSize(boxOf('solids', id))).toEqual([64, 16, 64]);
    expect(run('ring-cut', { axis: 'y', parts: 65 })).toBe('Between 2 and 64 parts.');
  });

  it('detail is set for all, and taken back where all have it', () => {
    select({ kind: 'solids', ids: ['s901', 's903'] });
    run('detail');
    expect([map().solids.s901.detail, map().solids.s903.detail]).toEqual([true, true]);
    run('detail');
    expect(map().solids.s901.detail).toBeUndefined();
  });

  it('a trigger volume takes the form of its solid', () => {
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('trigger-from-solid')).toBeNull();
    const made = map().objects[selection().objects[0]];
    expect(made).toMatchObject({ class: 'trigger', position: [2032, 32, 8], properties: { size: [64, 64, 64] } });
    expect(made.shape!.faces).toHaveLength(6);
    expect(map().solids.s903).toBeUndefined();
  });
});

describe('faces', () => {
  const top = (id: string) => map().solids[id].faces.findIndex((face) => face.normal[2] > 0.99);

  it('are pushed out and pulled in by a grid step, or grow a solid', () => {
    select({ solids: ['s903'], faces: [{ solid: 's903', face: top('s903') }] });
    run('push-out');
    expect(boxOf('solids', 's903').max[2]).toBe(88);
    run('push-in');
    run('push-in');
    expect(boxOf('solids', 's903').max[2]).toBe(56);
    expect(run('extrude', { depth: 24 })).toBeNull();
    expect(boxOf('solids', ...selection().solids)).toEqual({ min: [2000, 0, 56], max: [2064, 64, 80] });
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('push-out')).toMatch(/^Select a face first/);
  });

  it('painting takes the current material, whole solids or faces, and says where it is there already', () => {
    select({ solids: ['s903'], faces: [{ solid: 's903', face: top('s903') }] });
    run('paint');
    const materials = (one: Solid) => one.faces.filter((face) => face.material === 'slate').length;
    expect(materials(map().solids.s903)).toBe(1);
    select({ kind: 'solids', ids: ['s903'] });
    run('paint');
    expect(materials(map().solids.s903)).toBe(6);
    expect(run('paint')).toBe('It has slate already.');
  });

  it('textures are projected along the face, and from the world again', () => {
    select({ kind: 'solids', ids: ['s903'] });
    run('project-face');
    expect(map().solids.s903.faces.every((face) => face.axes)).toBe(true);
    run('project-world');
    expect(map().solids.s903.faces.some((face) => face.axes)).toBe(false);
  });

  it('a material is replaced everywhere', () => {
    expect(run('replace-material', { from: 'brick', to: 'brass' })).toBeNull();
    expect(Object.values(map().solids).some((one) => one.faces.some((face) => face.material === 'brick'))).toBe(false);
    expect(run('replace-material', { from: 'brick', to: 'brass' })).toBe('No face has brick.');
  });
});

describe('moving and arranging', () => {
  it('turning keeps the middle, mirroring and scaling the pivot', () => {
    select({ kind: 'objects', ids: ['o901'] });
    run('turn15');
    expect(map().objects.o901).toMatchObject({ turn: 15, position: [1200, 0, 100] });
    run('turn-90');
    expect(map().objects.o901.turn).toBe(285);
    select({ kind: 'solids', ids: ['s901'] });
    run('scale', { x: 2, y: 1, z: 0.5 });
    expect(boxSize(boxOf('solids', 's901'))).toEqual([128, 64, 32]);
    expect(boxCentre(boxOf('solids', 's901'))).toEqual([1032, 32, 32]);
    expect(run('scale', { x: 0, y: 1, z: 1 })).toBe('Factors lie between 0.01 and 100.');
    expect(run('shear', { axis: 'x', along: 'x', amount: 1 })).toBe('Choose two different axes.');
    run('move-by', { x: 1, y: 2, z: 3 });
    expect(boxCentre(boxOf('solids', 's901'))).toEqual([1033, 34, 35]);
  });

  it('lands on the grid, and says where it lies there', () => {
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('to-grid')).toBeNull();
    expect(boxOf('solids', 's903').min[2] % 16).toBe(0);
    expect(run('to-grid')).toBe('It lies on the grid.');
  });

  it('aligning and distributing', () => {
    select({ kind: 'solids', ids: ['s901', 's903'] });
    run('align-z-min');
    expect(boxOf('solids', 's903').min[2]).toBe(boxOf('solids', 's901').min[2]);
    select({ kind: 'objects', ids: ['o902', 'o903', 'o904'] });
    run('distribute-x');
    expect(map().objects.o903.position[0]).toBeCloseTo(1100);
    expect(run('distribute-x')).toBe('They are spread evenly.');
    select({ kind: 'objects', ids: ['o902', 'o903'] });
    expect(run('distribute-x')).toBe('Select at least three things first.');
  });

  it('rows and rings of copies', () => {
    select({ kind: 'solids', ids: ['s903'] });
    run('array', { count: 3, x: 80, y: 0, z: 0 });
    expect(selection().solids).toHaveLength(3);
    expect(boxOf('solids', ...selection().solids).max[0]).toBe(2064 + 240);
    select({ kind: 'solids', ids: ['s903'] });
    expect(run('array', { count: 501, x: 1, y: 0, z: 0 })).toBe('Between 1 and 500 copies.');
    run('ring', { count: 4, x: 2032, y: 532 });
    expect(boxOf('solids', 's903', ...selection().solids)).toMatchObject({ min: [1500, 0, 8], max: [2564, 1064, 72] });
    expect(run('ring', { count: 1, x: 0, y: 0 })).toBe('Between 2 and 360.');
  });
});

describe('selecting', () => {
  it('everything that is shown, and the rest', () => {
    store.dispatch(viewChanged({ hidden: { 'solids/s901': true } }));
    run('select-all');
    expect(selection().solids).not.toContain('s901');
    expect(selection().objects).toContain('o906');
    run('select-invert');
    expect(selection().solids).toEqual([]);
    run('select-invert');
    expect(selection().solids).toContain('s903');
    run('select-none');
    expect(selection()).toEqual(emptySelection);
  });

  it('by material, class and layer', () => {
    expect(run('select-material')).toBe('No solid has slate.');
    store.dispatch(viewChanged({ material: 'brick' }));
    run('select-material');
    expect(selection().solids).toContain('s903');
    select({ kind: 'objects', ids: ['o902'] });
    run('select-class');
    expect(selection().objects).toEqual(expect.arrayContaining(['o902', 'o903', 'o904']));
    expect(selection().objects).not.toContain('o901');
    expect(run('select-layer')).toBe('What is selected is in no layer.');
    select({ solids: ['s903'], objects: ['o901'] });
    run('to-layer', { name: 'upper floor' });
    select({ kind: 'objects', ids: ['o901'] });
    run('select-layer');
    expect(selection()).toMatchObject({ solids: ['s903'], objects: ['o901'] });
    const layers = Object.keys(map().layers).length;
    select({ kind: 'solids', ids: ['s901'] });
    run('to-layer', { name: 'upper floor' });
    expect(Object.keys(map().layers)).toHaveLength(layers);
  });

  it('faces and corners go with the mode that chose them', () => {
    select({ solids: ['s903'], faces: [{ solid: 's903', face: 0 }], corners: [{ solid: 's903', corner: 0 }] });
    run('mode-faces');
    expect(selection()).toMatchObject({ faces: [{ solid: 's903', face: 0 }], corners: [] });
    run('mode-solids');
    expect(selection()).toMatchObject({ solids: ['s903'], faces: [], corners: [] });
    expect(view().mode).toBe('solids');
  });

  it('a set is kept by name; what is deleted leaves the selection and comes back by undo', () => {
    select({ solids: ['s903'], objects: ['o901'] });
    run('save-set', { name: 'mine' });
    expect(Object.values(map().sets).at(-1)).toEqual({ name: 'mine', solids: ['s903'], objects: ['o901'] });
    run('delete');
    expect([map().solids.s903, map().objects.o901]).toEqual([undefined, undefined]);
    expect(selection()).toEqual(emptySelection);
    run('undo');
    expect(map().solids.s903).toBeDefined();
    run('redo');
    expect(map().solids.s903).toBeUndefined();
  });

  it('duplicates lie a grid step aside and are selected', () => {
    select({ solids: ['s903'], objects: ['o901'] });
    run('duplicate');
    const [made] = selection().objects;
    expect(map().objects[made]).toMatchObject({ class: 'crank', position: [1216, 16, 100] });
    expect(map().objects[made].name).not.toBe('crank');
    expect(boxOf('solids', ...selection().solids).min).toEqual([2016, 16, 8]);
  });
});

describe('objects', () => {
  it('drop onto what lies under them, and say where they stand', () => {
    store.dispatch(edited({ name: 'over the cube', changes: [object('o901', 'crank', 'crank', [2032, 32, 100])] }));
    select({ kind: 'objects', ids: ['o901'] });
    run('drop');
    expect(map().objects.o901.position[2]).toBe(72);
    expect(run('drop')).toBe('They stand on their surface.');
  });

  it('a series goes on, and is numbered from 0', () => {
    select({ kind: 'objects', ids: ['o905'] });
    run('series-next');
    expect(map().objects[selection().objects[0]].properties.ordinal).toBe(6);
    run('series-renumber');
    const ordinals = Object.values(map().objects).flatMap((one) => (one.class === 'beacon' ? [one.properties.ordinal] : []));
    expect(ordinals).toEqual([0, 1, 2]);
    expect(run('series-renumber')).toBe('Its numbers run from 0 without gaps.');
    select({ kind: 'objects', ids: ['o901'] });
    expect(run('series-next')).toBe('Select an object of a numbered series first.');
  });

  it('a tag is a word, and none twice', () => {
    select({ solids: ['s903'], objects: ['o901'] });
    expect(run('tag', { tag: '  ' })).toBe('A tag needs a word.');
    run('tag', { tag: ' quay ' });
    run('tag', { tag: 'quay' });
    expect([map().solids.s903.tags, map().objects.o901.tags]).toEqual([['quay'], ['quay']]);
  });
});

describe('prefabs', () => {
  const make = (name: string) => {
    select({ solids: ['s903'], objects: ['o901'] });
    return run('make-prefab', { name });
  };

  it('are made of what is selected, which becomes their first copy', () => {
    expect(make('7 gates')).toMatch(/begins with a letter/);
    expect(make('Quay Gate!')).toBeNull();
    const [copy] = selection().copies;
    const prefab = map().prefabs[map().copies[copy].prefab];
    expect(prefab.name).toBe('quay_gate');
    expect(map().solids.s903).toBeUndefined();
    run('independent');
    expect(map().copies[copy]).toBeUndefined();
    expect(boxOf('solids', ...selection().solids)).toEqual({ min: [2000, 0, 8], max: [2064, 64, 72] });
  });

  it('are opened in their place and closed; what is changed inside is the prefab’s', () => {
    make('gate');
    const [copy] = selection().copies;
    expect(run('close-prefab')).toBe('No prefab is open.');
    run('open-prefab');
    expect(store.getState().map.opened).toBe(copy);
    run('select-all');
    run('move-by', { x: 0, y: 0, z: 32 });
    run('close-prefab');
    expect(store.getState().map.opened).toBeNull();
    expect(selection().copies).toEqual([copy]);
    run('independent');
    expect(boxOf('solids', ...selection().solids).min[2]).toBe(40);
  });

  it('are renamed and deleted with their copies', () => {
    expect(run('rename-prefab')).toMatch(/^The map has no prefabs of its own/);
    make('gate');
    expect(run('rename-prefab', { which: 'gate', name: 'gate' })).toBe('That is its name already.');
    run('rename-prefab', { which: 'gate', name: 'Lock' });
    expect(Object.values(map().prefabs).map((one) => one.name)).toEqual(['lock']);
    run('delete-prefab', { which: 'lock' });
    expect([map().prefabs, map().copies]).toEqual([{}, {}]);
  });
});

describe('what is shown', () => {
  it('hiding, isolating, and everything again', () => {
    select({ kind: 'solids', ids: ['s903'] });
    run('hide');
    expect(view().hidden).toEqual({ 'solids/s903': true });
    expect(selection()).toEqual(emptySelection);
    run('show-all');
    select({ kind: 'solids', ids: ['s903'] });
    run('isolate');
    expect(view().hidden['solids/s903']).toBeUndefined();
    expect(view().hidden['objects/o901']).toBe(true);
    run('show-all');
    expect(view().hidden).toEqual({});
  });

  it('a filter by kind hides all of it, and shows it where all is hidden', () => {
    run('hide-lights');
    expect(view().hidden).toMatchObject({ 'objects/o902': true, 'objects/o905': true });
    expect(view().hidden['objects/o901']).toBeUndefined();
    run('hide-lights');
    expect(view().hidden).toEqual({});
    expect(run('hide-volumes')).toBe('The map has no volumes.');
  });

  it('switches turn about, and views stand alone or together', () => {
    run('snap');
    expect(view().snap).toBe(false);
    run('look');
    expect(view().look).toBe('game');
    run('look');
    run('maximise-section');
    expect(view().maximised).toBe('section');
    run('maximise-section');
    expect(view().maximised).toBeNull();
    const { swapped } = store.getState().layout;
    run('swap-perspective');
    expect(store.getState().layout.swapped).toBe(!swapped);
    run('fold-inspector');
    run('panel-history');
    expect(store.getState().layout.folded).toBe(false);
    expect(view().panel).toBe('history');
    select({ kind: 'solids', ids: ['s903'] });
    run('frame');
    expect(view().focus).toMatchObject({ point: [2032, 32, 40], frame: 64 });
  });

  it('nothing goes out that is not saved yet', () => {
    run('select-all');
    run('delete');
    expect(run('export-glb')).toBe('It is being saved; try again in a moment.');
  });
});
