import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { MapEdit } from '@violet-crate/core/document/edit';
import { completeMap, type GameMap } from '@violet-crate/core/document/schema';
import { block } from '@violet-crate/core/solid/primitives';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { moveSolid } from '@violet-crate/core/solid/solid';
import { documentOf, edited, followed, mapReducer, prefabOpened, redone, saved, saveFailed, saving, undone, type MapState } from './mapSlice.ts';

const map: GameMap = completeMap({
  format: 1,
  profile: 'brinewick',
  settings: { skyColour: '#ffffff', skyIntensity: 1, trial: [] },
  bands: { b1: { name: 'Ground', bottom: 0, top: 128 } },
  solids: {},
  objects: {},
  signals: {},
});
const start: MapState = { ...mapReducer(undefined, { type: 'start' }), map, name: 'hall', revision: 4 };
const rename = (name: string): MapEdit => ({ name: `rename to ${name}`, changes: [{ of: 'bands', id: 'b1', to: { name, bottom: 0, top: 128 } }] });
const bandName = (state: MapState) => state.map!.bands.b1.name;

describe('the map being edited', () => {
  it('applies edits at once and keeps them until they are acknowledged', () => {
    let state = mapReducer(start, edited(rename('A')));
    state = mapReducer(state, edited(rename('B')));
    expect(bandName(state)).toBe('B');
    expect(state.unsaved).toHaveLength(2);
    state = mapReducer(mapReducer(state, saving()), saved({ count: 1, revision: 5 }));
    expect(state.unsaved.map((e) => e.name)).toEqual(['rename to B']);
    expect([state.revision, state.saveState]).toEqual([5, 'saved']);
    expect(mapReducer(state, saveFailed({ state: 'retrying' })).unsaved).toHaveLength(1);
  });

  it('undo and redo are edits too, and a new edit ends what could be redone', () => {
    let state = mapReducer(mapReducer(start, edited(rename('A'))), edited(rename('B')));
    state = mapReducer(state, undone());
    expect(bandName(state)).toBe('A');
    expect(state.unsaved.at(-1)!.name).toBe('undo rename to B');
    state = mapReducer(state, redone());
    expect(bandName(state)).toBe('B');
    state = mapReducer(mapReducer(state, undone()), edited(rename('C')));
    expect(state.redo).toEqual([]);
    expect(mapReducer(mapReducer(start, undone()), redone())).toEqual(start);
  });

  it('any walk through undo and redo ends where the log of edits leads', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.string({ minLength: 1, maxLength: 3 }), fc.constant('<'), fc.constant('>')), { maxLength: 40 }), (steps) => {
        let state = start;
        for (const step of steps) state = mapReducer(state, step === '<' ? undone() : step === '>' ? redone() : edited(rename(step)));
        // What the server would have: every unsaved edit in order, on the map as it was.
        const replayed = state.unsaved.reduce((s, edit) => mapReducer(s, edited(edit)), start);
        expect(replayed.map).toEqual(state.map);
      }),
    );
  });

  it('takes in what another page did, and keeps what is unsaved here', () => {
    const mine: MapEdit = { name: 'mine', changes: [{ of: 'bands', id: 'b2', to: { name: 'Loft', bottom: 128, top: 200 } }] };
    let state = mapReducer(start, edited(mine));
    state = mapReducer(mapReducer(state, saving()), saved({ count: 1, revision: 6, others: [rename('Theirs')] }));
    expect([bandName(state), state.map!.bands.b2.name, state.revision]).toEqual(['Theirs', 'Loft', 6]);
    state = mapReducer(state, followed({ revision: 7, edits: [rename('Later')] }));
    expect([bandName(state), state.foreign.count]).toEqual(['Later', 2]);
    // While something is unsaved here, or for a revision that is here already, nothing is taken in.
    expect(mapReducer(mapReducer(state, edited(mine)), followed({ revision: 8, edits: [rename('No')] })).revision).toBe(7);
    expect(mapReducer(state, followed({ revision: 7, edits: [rename('No')] }))).toBe(state);
  });

  it('while a prefab is open, edits go into it and all its copies follow', () => {
    const copy = { prefab: 'p1', name: 'post', position: [100, 0, 0] as [number, number, number], turn: 0, values: {} };
    const solid = block({ min: [0, 0, 0], max: [16, 16, 16] }, 'brick');
    const prefab = { name: 'post', parameters: [], solids: { s1: solid }, objects: {}, signals: {}, copies: {} };
    const both = {
      ...map,
      prefabs: { p1: prefab },
      copies: { c1: copy, c2: { ...copy, name: 'post_2', position: [200, 0, 0] as [number, number, number] } },
    };
    let state = mapReducer({ ...start, map: both }, prefabOpened('c1'));
    const shown = documentOf(state.map!, state.opened);
    expect(shapeOf(shown.solids.s1).box.min[0]).toBe(100);
    state = mapReducer(state, edited({ name: 'lift', changes: [{ of: 'solids', id: 's1', to: moveSolid(shown.solids.s1, [0, 0, 8]) }] }));
    expect(shapeOf(state.map!.prefabs.p1.solids.s1).box.min).toEqual([0, 0, 8]);
    expect(state.map!.solids).toEqual({});
    const inside = { ...copy, name: 'again' };
    const refused = mapReducer(state, edited({ name: 'put it into itself', changes: [{ of: 'copies', id: 'c9', to: inside }] }));
    expect(refused.refused).toContain('would hold itself');
    expect(refused.map).toBe(state.map);
    expect(mapReducer(state, undone()).map).toEqual(both);
  });
});
