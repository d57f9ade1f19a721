import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { newCrateContents } from '@violet-crate/core/crate/template';
import { applyEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { deleteMembers } from '@violet-crate/core/document/members';
import { loadProfile } from '@violet-crate/core/profile/load';
import { solidBox, solidVolume } from '@violet-crate/core/solid/solid';
import { shapeById } from '@violet-crate/core/solid/shapes';
import { chosen, presentSelection, type Choice } from '../../state/viewSlice.ts';
import { changeObject, connectSignal, drawShape, duplicate, moveSelection, paint, placeObject, resize, surfaceUnder } from './edits.ts';

const profile = loadProfile(readFileSync(new URL('../../../../core/profiles/brinewick.json', import.meta.url), 'utf8'), 'brinewick.json');
const room = (): GameMap => newCrateContents(profile, { name: 'hall', title: 'Hall', template: 'sealed-room' }).maps.hall;
const only = (choice: Choice) => chosen(choice);
const BAND = { bottom: 0, top: 128 };

describe('drawing', () => {
  it('a solid gets a fresh id and is selected', () => {
    const map = room();
    const { edit, selection } = drawShape(map, 'block', {}, { min: [0, 0, 0], max: [16, 16, 32] }, 'brick');
    expect(selection).toEqual(only({ kind: 'solids', ids: ['s7'] }));
    expect(solidVolume(applyEdit(map, edit).solids.s7)).toBeCloseTo(16 * 16 * 32, 4);
  });

  it('a room is six slabs around its inside', () => {
    const map = room();
    const { edit, selection } = drawShape(map, 'room', shapeById('room').defaults(profile), { min: [400, 0, 0], max: [500, 80, 96] }, 'slate');
    const after = applyEdit(map, edit);
    expect(selection.solids).toHaveLength(6);
    const volume = selection.solids.reduce((sum, id) => sum + solidVolume(after.solids[id]), 0);
    expect(volume).toBeCloseTo(132 * 112 * 128 - 100 * 80 * 96, 2);
  });
});

describe('changing', () => {
  it('moves solids and objects, and makes no edit of nothing', () => {
    const map = room();
    expect(moveSelection(map, only({ kind: 'solids', ids: ['s1'] }), [0, 0, 0])).toBeNull();
    expect(moveSelection(map, only({ kind: 'solids', ids: ['gone'] }), [1, 0, 0])).toBeNull();
    const moved = applyEdit(map, moveSelection(map, only({ kind: 'objects', ids: ['o1'] }), [16, -16, 8])!);
    expect(moved.objects.o1.position).toEqual([16, -96, 10]);
    const slab = applyEdit(map, moveSelection(map, only({ kind: 'solids', ids: ['s1'] }), [0, 0, -32])!);
    expect(solidBox(slab.solids.s1).max[2]).toBe(-32);
  });

  it('resizes to a box', () => {
    const map = room();
    const to = { min: [0, 0, 0] as [number, number, number], max: [8, 24, 40] as [number, number, number] };
    expect(solidBox(applyEdit(map, resize(map, 's1', to)).solids.s1)).toEqual(to);
  });

  it('duplicates with names of their own', () => {
    const map = room();
    const { edit, selection } = duplicate(map, profile, only({ kind: 'objects', ids: ['o1', 'o2'] }), [16, 16, 0])!;
    const after = applyEdit(map, edit);
    expect(selection.objects.map((id) => after.objects[id].name)).toEqual(['start_2', 'lamp_2']);
    expect(duplicate(map, profile, only({ kind: 'objects', ids: ['gone'] }), [1, 1, 1])).toBeNull();
  });

  it('paints one face or all', () => {
    const map = room();
    const one = applyEdit(map, paint(map, { solids: [], faces: [{ solid: 's1', face: 2 }] }, 'brass')!);
    expect(one.solids.s1.faces.filter((f) => f.material === 'brass')).toHaveLength(1);
    const all = applyEdit(map, paint(map, { solids: ['s1', 's2'] }, 'brass')!);
    expect([...all.solids.s1.faces, ...all.solids.s2.faces].every((f) => f.material === 'brass')).toBe(true);
  });

  it('deleting an object takes its signals along, both ways', () => {
    let map = room();
    const crank = placeObject(map, profile, 'crank', [64, 0], BAND);
    map = applyEdit(map, crank.edit);
    const gate = placeObject(map, profile, 'sluice', [-64, 0], BAND);
    map = applyEdit(map, gate.edit);
    const [from] = crank.selection.objects;
    const [to] = gate.selection.objects;
    map = applyEdit(map, connectSignal(map, { from, event: 'turned', to: { object: to, action: 'raise' }, delay: 0 }));
    map = applyEdit(map, connectSignal(map, { from, event: 'turned', to: { script: 'x' }, delay: 0 }));
    expect(Object.keys(map.signals)).toEqual(['g1', 'g2']);
    expect(Object.keys(applyEdit(map, deleteMembers(map, only({ kind: 'objects', ids: [to] }))).signals)).toEqual(['g2']);
    expect(Object.keys(applyEdit(map, deleteMembers(map, only({ kind: 'objects', ids: [from] }))).signals)).toEqual([]);
  });
});

describe('placing', () => {
  it('stands on the surface below, hangs lights, and lifts starts', () => {
    const map = applyEdit(room(), drawShape(room(), 'block', {}, { min: [0, 0, 0], max: [32, 32, 24] }, 'brick').edit);
    expect(surfaceUnder(map, 16, 16, 112, -5)).toBe(24);
    expect(surfaceUnder(map, 5000, 5000, 112, -5)).toBe(-5);
    const z = (classId: string) => {
      const { edit, selection } = placeObject(map, profile, classId, [16, 16], BAND);
      return applyEdit(map, edit).objects[selection.objects[0]].position[2];
    };
    expect(z('crank')).toBe(24);
    expect(z('lamp')).toBe(96);
    expect(z('start')).toBe(26);
  });

  it('names are free, and a model of one’s own is taken', () => {
    const map = room();
    const { edit, selection } = placeObject(map, profile, 'prop', [0, 0], BAND, { kind: 'model', path: 'models/own.glb' });
    const after = applyEdit(map, edit);
    expect(after.objects[selection.objects[0]].properties.model).toBe('models/own.glb');
    const again = placeObject(after, profile, 'prop', [0, 0], BAND);
    expect(applyEdit(after, again.edit).objects[again.selection.objects[0]].name).toBe('prop_2');
    expect(applyEdit(after, changeObject(after, selection.objects[0], { turn: 90 }, 'turn')).objects[selection.objects[0]].turn).toBe(90);
  });
});

describe('the selection', () => {
  it('loses what is gone from the map, and is the same value where all is there', () => {
    const map = room();
    const all = chosen({ solids: ['s1', 's2'], objects: ['o1'], faces: [{ solid: 's2', face: 0 }], corners: [{ solid: 's2', corner: 3 }] });
    expect(presentSelection(map, all)).toBe(all);
    const after = applyEdit(map, {
      name: 'undo',
      changes: [
        { of: 'solids', id: 's2', to: null },
        { of: 'objects', id: 'o1', to: null },
      ],
    });
    expect(presentSelection(after, all)).toEqual(chosen({ solids: ['s1'] }));
  });
});
