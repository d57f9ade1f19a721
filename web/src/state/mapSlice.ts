/**
 * The map document being edited. Edits apply at once, go to the server in order, and stay in `unsaved`
 * until it has acknowledged them. Undo and redo are edits like any other. While a prefab is open, edits are
 * made to what stands in its place and carried into the prefab, so that all its copies follow at once.
 */

import { createSlice, original, type PayloadAction } from '@reduxjs/toolkit';
import { withFollowers } from '@violet-crate/core/terrain/follow';
import { withCarried } from '@violet-crate/core/map/member/carried';
import { applyEdit, invertEdit, type MapEdit } from '@violet-crate/core/document/edit';
import { openPrefab, savePrefab } from '@violet-crate/core/map/prefab';
import { completeMap, type GameMap } from '@violet-crate/core/document/schema';
import { openCrate } from './crateSlice.ts';

export type SaveState = 'saved' | 'saving' | 'retrying' | 'conflict';

export interface MapState {
  /** Crate that the map and all that is unsaved of it belong to. */
  crateId: string;
  name: string;
  map: GameMap | null;
  /** Copy whose prefab is being edited in its place. */
  opened: string | null;
  /** Last revision that the server has acknowledged. */
  revision: number;
  unsaved: MapEdit[];
  saveState: SaveState;
  /** What was changed elsewhere too, as `collection/id`. */
  conflicts: string[];
  undo: { edit: MapEdit; inverse: MapEdit }[];
  redo: { edit: MapEdit; inverse: MapEdit }[];
  /** What another page did last, for a word about it. */
  foreign: { name: string; count: number };
  /** Why the last edit was refused. */
  refused: string;
  /** Steps that can be undone here, as the user prefers; the server keeps all of them. */
  undoDepth: number;
}

const initialState: MapState = {
  crateId: '',
  name: '',
  map: null,
  opened: null,
  revision: 0,
  unsaved: [],
  saveState: 'saved',
  conflicts: [],
  undo: [],
  redo: [],
  foreign: { name: '', count: 0 },
  refused: '',
  undoDepth: 1000,
};

const openedMaps = new WeakMap<GameMap, { copy: string; map: GameMap }>();

/** The document that the screens show and edit: the map, or an opened prefab in its place. */
export function documentOf(map: GameMap, opened: string | null): GameMap {
  if (!opened) return map;
  const known = openedMaps.get(map);
  if (known?.copy === opened) return known.map;
  const inside = openPrefab(map, opened) ?? map;
  openedMaps.set(map, { copy: opened, map: inside });
  return inside;
}

/** The edit of the map that an edit of the shown document comes to; a sentence where it cannot be. */
function realEdit(map: GameMap, opened: string | null, edit: MapEdit): MapEdit | string {
  if (!opened || !map.copies[opened]) return edit;
  const inside = new Set(['solids', 'objects', 'signals', 'copies']);
  const own = edit.changes.filter((change) => inside.has(change.of));
  const rest = edit.changes.filter((change) => !inside.has(change.of));
  if (own.length === 0) return edit;
  const saved = savePrefab(map, opened, applyEdit(documentOf(map, opened), { ...edit, changes: own }));
  return typeof saved === 'string' ? saved : { name: edit.name, changes: [...saved.changes, ...rest] };
}

const slice = createSlice({
  name: 'map',
  initialState,
  reducers: {
    edited(state, action: PayloadAction<MapEdit>) {
      // The plain document: reading it through a draft would make a draft of every member.
      const before = original(state)!.map;
      if (!before) return;
      const real = realEdit(before, state.opened, action.payload);
      if (typeof real === 'string') {
        state.refused = real;
        return;
      }
      const edit = withCarried(before, withFollowers(before, real));
      state.refused = '';
      state.undo.push({ edit, inverse: invertEdit(before, edit) });
      if (state.undo.length > state.undoDepth) state.undo.splice(0, state.undo.length - state.undoDepth);
      state.redo = [];
      state.map = applyEdit(before, edit);
      state.unsaved.push(edit);
    },
    undone(state) {
      const { map, undo } = original(state)!;
      const step = undo[undo.length - 1];
      if (!step || !map) return;
      state.undo.pop();
      state.redo.push(step);
      state.map = applyEdit(map, step.inverse);
      state.unsaved.push({ ...step.inverse, name: `undo ${step.edit.name}`.slice(0, 120) });
      if (state.opened && !state.map.copies[state.opened]) state.opened = null;
    },
    redone(state) {
      const { map, redo } = original(state)!;
      const step = redo[redo.length - 1];
      if (!step || !map) return;
      state.redo.pop();
      state.undo.push(step);
      state.map = applyEdit(map, step.edit);
      state.unsaved.push(step.edit);
    },
    prefabOpened(state, action: PayloadAction<string | null>) {
      state.opened = action.payload;
      state.refused = '';
    },
    saving(state) {
      state.saveState = 'saving';
    },
    /** `others` are edits of other pages that the server has merged; they touch nothing of what is unsaved here. */
    saved(state, action: PayloadAction<{ count: number; revision: number; others?: MapEdit[] }>) {
      const { count, revision, others = [] } = action.payload;
      state.unsaved.splice(0, count);
      state.revision = revision;
      state.saveState = 'saved';
      takeForeign(state, others);
    },
    /** Edits of another page, or of the crate's folder, while nothing here is unsaved. Those of the folder can be undone here. */
    followed(state, action: PayloadAction<{ revision: number; edits: MapEdit[]; undoable?: boolean }>) {
      const { revision, edits, undoable } = action.payload;
      if (state.unsaved.length > 0 || revision <= state.revision) return;
      state.revision = revision;
      if (undoable)
        for (let map = original(state)!.map, i = 0; map && i < edits.length; map = applyEdit(map, edits[i++])) {
          state.undo.push({ edit: edits[i], inverse: invertEdit(map, edits[i]) });
          state.redo = [];
        }
      takeForeign(state, edits);
    },
    saveFailed(state, action: PayloadAction<{ state: 'retrying' | 'conflict'; conflicts?: string[] }>) {
      state.saveState = action.payload.state;
      state.conflicts = action.payload.conflicts ?? [];
    },
    /** The map as the server has it, after a conflict was settled; what was unsaved here is in it or given up. */
    reloaded(state, action: PayloadAction<{ map: GameMap; revision: number }>) {
      Object.assign(state, {
        ...initialState,
        crateId: state.crateId,
        name: state.name,
        map: completeMap(action.payload.map),
        revision: action.payload.revision,
        undoDepth: state.undoDepth,
      });
    },
    undoDepthSet(state, action: PayloadAction<number>) {
      state.undoDepth = action.payload;
    },
  },
  extraReducers: (builder) =>
    builder.addCase(openCrate.fulfilled, (state, { payload }) => {
      const crateId = payload.view.id;
      if (state.crateId === crateId && state.unsaved.length > 0 && state.saveState !== 'conflict') return;
      const { undoDepth } = state;
      Object.assign(state, initialState, {
        crateId,
        name: payload.mapName,
        map: completeMap(payload.map.map),
        revision: payload.map.revision,
        undoDepth,
      });
    }),
});

function takeForeign(state: MapState, edits: readonly MapEdit[]): void {
  if (edits.length === 0) return;
  const before = original(state)!.map;
  if (!before) return;
  state.map = edits.reduce(applyEdit, before);
  state.foreign = { name: edits[edits.length - 1].name, count: state.foreign.count + 1 };
}

export const { edited, undone, redone, prefabOpened, saving, saved, followed, saveFailed, reloaded, undoDepthSet } = slice.actions;
export const mapReducer = slice.reducer;
