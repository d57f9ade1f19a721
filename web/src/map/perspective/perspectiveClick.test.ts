import { describe, expect, it } from '@jest/globals';
import { hall, object, withChanges } from '@violet-crate/core/testing/maps';
import { applyEdit } from '@violet-crate/core/document/edit';
import { chosen, type Choice } from '../../state/viewSlice.ts';
import { chosenByClick, HitCycle, pickedProperty } from './perspectiveClick.ts';
import type { Hit } from './perspectivePick.ts';

const face = (solid: string, index: number): Hit => ({ t: 0, point: [0, 0, 0], solid, face: index });
const thing = (id: string): Hit => ({ t: 0, point: [0, 0, 0], object: id });
const view = (choice: Choice) => ({ selection: chosen(choice) });
const map = { ...hall(), copies: { c1: {} } } as unknown as ReturnType<typeof hall>;

describe('clicks at one place', () => {
  it('go from front to back and begin again; another place begins at its front', () => {
    const cycle = new HitCycle();
    const hits = [face('s1', 0), face('s2', 1), thing('o1')];
    expect(Array.from({ length: 4 }, () => cycle.next(hits, false))).toEqual([hits[0], hits[1], hits[2], hits[0]]);
    expect(cycle.next([face('s9', 0), face('s2', 1)], false).solid).toBe('s9');
    cycle.next(hits, false);
    expect(cycle.next(hits, true)).toBe(hits[0]);
  });
});

describe('a click selects', () => {
  it('a face with its solid, an object, or the copy that it belongs to', () => {
    expect(chosenByClick(map, view(null), face('s1', 2), false)).toMatchObject({ solids: ['s1'], faces: [{ solid: 's1', face: 2 }] });
    expect(chosenByClick(map, view(null), thing('o3'), false)).toEqual({ kind: 'objects', ids: ['o3'] });
    expect(chosenByClick(map, view(null), face('c1_s4', 0), false)).toEqual({ kind: 'copies', ids: ['c1'] });
  });

  it('with Shift what is selected stays, and nothing twice', () => {
    const faces = { solids: ['s1'], faces: [{ solid: 's1', face: 2 }] };
    expect(chosenByClick(map, view(faces), face('s1', 3), true)).toMatchObject({ solids: ['s1'], faces: [faces.faces[0], { solid: 's1', face: 3 }] });
    expect(chosenByClick(map, view(faces), face('s1', 2), true)).toMatchObject({ faces: faces.faces });
    expect(chosenByClick(map, view({ objects: ['o1'], solids: ['s1'] }), thing('o1'), true)).toMatchObject({ objects: ['o1'], solids: ['s1'] });
    expect(chosenByClick(map, view({ copies: ['c2'] }), thing('c1_o4'), true)).toMatchObject({ copies: ['c2', 'c1'] });
  });
});

describe('picking an object for a property', () => {
  const doc = withChanges(hall(), object('o8', 'crank', 'crank', [0, 0, 0]), object('o9', 'lamp', 'lamp', [64, 0, 0]));
  const picking = { property: 'target', of: ['lamp'] };

  it('takes the nearest of a fitting class', () => {
    const edit = pickedProperty(doc, { ...view({ objects: ['o8'] }), picking }, [face('s1', 0), thing('o8'), thing('o9')])!;
    expect(edit.name).toBe('set target');
    expect(applyEdit(doc, edit).objects.o8.properties.target).toBe('o9');
  });

  it('waits on where none fits or nothing is selected', () => {
    expect(pickedProperty(doc, { ...view({ objects: ['o8'] }), picking }, [thing('o8'), face('s1', 0)])).toBe(null);
    expect(pickedProperty(doc, { ...view(null), picking }, [thing('o9')])).toBe(null);
    expect(pickedProperty(doc, { ...view({ objects: ['o8'] }), picking: { property: 'target' } }, [thing('o9')])?.changes).toHaveLength(1);
  });
});
