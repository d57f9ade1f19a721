/**
 * The map document being edited. Edits apply at once, go to the server in order, and stay in `unsaved`
 * until it has acknowledged them. Undo and redo are edits like any other.
 */

import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { applyEdit, invertEdit, type MapEdit } from '@violet-crate/core/map/edit';
import type { GameMap } from '@violet-crate/core/map/schema';
import { openCrate } from '../crate/crateSlice.ts';

export type SaveState = 'saved' | 'saving' | 'retrying' | 'conflict';

export interface MapState {
  name: string;
  map: GameMap | null;
  /** Last revision that the server has acknowledged. */
  revision: number;
  unsaved: MapEdit[];
  saveState: SaveState;
  undo: { edit: MapEdit; inverse: MapEdit }[];
  redo: { edit: MapEdit; inverse: MapEdit }[];
}

const initialState: MapState = { name: '', map: null, revision: 0, unsaved: [], saveState: 'saved', undo: [], redo: [] };

const slice = createSlice({
  name: 'map',
  initialState,
  reducers: {
    edited(state, action: PayloadAction<MapEdit>) {
      if (!state.map) return;
      const edit = action.payload;
      const before = state.map as GameMap;
      state.undo.push({ edit, inverse: invertEdit(before, edit) });
      state.redo = [];
      state.map = applyEdit(before, edit);
      state.unsaved.push(edit);
    },
    undone(state) {
      const step = state.undo.pop();
      if (!step || !state.map) return;
      state.redo.push(step);
      state.map = applyEdit(state.map as GameMap, step.inverse as MapEdit);
      state.unsaved.push({ ...(step.inverse as MapEdit), name: `undo ${step.edit.name}` });
    },
    redone(state) {
      const step = state.redo.pop();
      if (!step || !state.map) return;
      state.undo.push(step);
      state.map = applyEdit(state.map as GameMap, step.edit as MapEdit);
      state.unsaved.push(step.edit as MapEdit);
    },
    saving(state) {
      state.saveState = 'saving';
    },
    saved(state, action: PayloadAction<{ count: number; revision: number }>) {
      state.unsaved.splice(0, action.payload.count);
      state.revision = action.payload.revision;
      state.saveState = 'saved';
    },
    saveFailed(state, action: PayloadAction<'retrying' | 'conflict'>) {
      state.saveState = action.payload;
    },
  },
  extraReducers: (builder) =>
    builder.addCase(openCrate.fulfilled, (state, { payload }) => {
      if (state.unsaved.length > 0 && state.saveState !== 'conflict') return;
      Object.assign(state, initialState, { name: payload.mapName, map: payload.map.map, revision: payload.map.revision });
    }),
});

export const { edited, undone, redone, saving, saved, saveFailed } = slice.actions;
export const mapReducer = slice.reducer;
