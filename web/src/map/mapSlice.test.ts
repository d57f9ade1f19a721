import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { MapEdit } from '@violet-crate/core/map/edit';
import type { GameMap } from '@violet-crate/core/map/schema';
import { edited, mapReducer, redone, saved, saveFailed, saving, undone, type MapState } from './mapSlice.ts';

const map: GameMap = {
  format: 1,
  profile: 'brinewick',
  settings: { skyColour: '#ffffff', skyIntensity: 1, trial: [] },
  bands: { b1: { name: 'Ground', bottom: 0, top: 128 } },
  solids: {},
  objects: {},
  signals: {},
};
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
    expect(mapReducer(state, saveFailed('retrying')).unsaved).toHaveLength(1);
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
});
