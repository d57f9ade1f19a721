/** Texts of scripts that the server has not got yet. They outlive the page and the crate that they were typed on. */

import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface UnsavedScript {
  crateId: string;
  path: string;
  source: string;
}

interface ScriptsState {
  /** One per script, in the order in which they were last saved. */
  unsaved: UnsavedScript[];
  /** Why the last one could not be saved. */
  trouble: string;
}

const initialState: ScriptsState = { unsaved: [], trouble: '' };

const same = (a: UnsavedScript, b: Omit<UnsavedScript, 'source'>): boolean => a.crateId === b.crateId && a.path === b.path;

const slice = createSlice({
  name: 'scripts',
  initialState,
  reducers: {
    typed(state, { payload }: PayloadAction<UnsavedScript>) {
      const known = state.unsaved.find((one) => same(one, payload));
      if (known) known.source = payload.source;
      else state.unsaved.push(payload);
    },
    /** What was typed meanwhile stays. */
    saved(state, { payload }: PayloadAction<UnsavedScript>) {
      state.unsaved = state.unsaved.filter((one) => !same(one, payload) || one.source !== payload.source);
      state.trouble = '';
    },
    refused(state, { payload }: PayloadAction<string>) {
      state.trouble = payload;
    },
    /** It is gone, so there is nothing to save. */
    dropped(state, { payload }: PayloadAction<Omit<UnsavedScript, 'source'>>) {
      state.unsaved = state.unsaved.filter((one) => !same(one, payload));
    },
  },
});

export const { typed: scriptTyped, saved: scriptSaved, refused: scriptRefused, dropped: scriptDropped } = slice.actions;
export const scriptsReducer = slice.reducer;
