import { createAsyncThunk, createSelector, createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { defaultPreferences, valuesIn, type PreferenceId, type Preferences, type PreferenceValue } from '@violet-crate/core/preferences/preferences';
import { getJson, sendJson } from '../api/http.ts';
import { applyTheme, storedTheme } from '../theme/theme.ts';
import type { AppDispatch, RootState } from './store.ts';

/** What the user prefers, as the server keeps it. */
export const loadPreferences = createAsyncThunk('preferences/load', () => getJson<Preferences>('/api/preferences'));

/** Sends all of them; answers what could not be taken. */
export const savePreferences = createAsyncThunk('preferences/save', async (preferences: Preferences) =>
  sendJson<Preferences & { left: string[] }>('PUT', '/api/preferences', preferences),
);

const slice = createSlice({
  name: 'preferences',
  initialState: defaultPreferences,
  reducers: {
    /** Of all crates or of one; a value of null is the crate's no longer. */
    preferred(state, { payload: { id, value, crate } }: PayloadAction<{ id: PreferenceId; value: PreferenceValue | null; crate?: string }>) {
      if (crate === undefined) state.values[id] = value ?? defaultPreferences().values[id];
      else if (value !== null) state.crates[crate] = { ...state.crates[crate], [id]: value };
      else {
        delete state.crates[crate]?.[id];
        if (Object.keys(state.crates[crate] ?? {}).length === 0) delete state.crates[crate];
      }
    },
    keySet(state, { payload: { command, key } }: PayloadAction<{ command: string; key: string | null }>) {
      if (key === null) delete state.keys[command];
      else state.keys[command] = key;
    },
  },
  extraReducers: (builder) => {
    for (const thunk of [loadPreferences, savePreferences])
      builder.addCase(thunk.fulfilled, (_, { payload: { values, crates, keys } }: { payload: Preferences }) => ({ values, crates, keys }));
  },
});

export const { preferred, keySet } = slice.actions;
export const preferencesReducer = slice.reducer;

/** What the user prefers in the crate that is open. */
export const preferredHere = createSelector([(s: RootState) => s.preferences, (s: RootState) => s.crate.view?.id], valuesIn);

/** Goes over from dark to light, or back, from how the page looks now, and keeps that. */
export const switchTheme = () => (dispatch: AppDispatch, getState: () => RootState) => {
  const value = storedTheme() === 'light' ? 'dark' : 'light';
  // Preferences may say so already, where the browser remembered another one.
  applyTheme(value);
  dispatch(preferred({ id: 'theme', value }));
  // A server that is away keeps nothing; the page has changed all the same.
  void dispatch(savePreferences(getState().preferences)).catch(() => {});
};
