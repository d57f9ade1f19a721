import { createAsyncThunk, createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { defaultPreferences, type PreferenceId, type Preferences, type PreferenceValue } from '@violet-crate/core/preferences/preferences';
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
    preferred(state, { payload: { id, value } }: PayloadAction<{ id: PreferenceId; value: PreferenceValue }>) {
      state.values[id] = value;
    },
    keySet(state, { payload: { command, key } }: PayloadAction<{ command: string; key: string | null }>) {
      if (key === null) delete state.keys[command];
      else state.keys[command] = key;
    },
  },
  extraReducers: (builder) => {
    for (const thunk of [loadPreferences, savePreferences])
      builder.addCase(thunk.fulfilled, (_, { payload: { values, keys } }: { payload: Preferences }) => ({ values, keys }));
  },
});

export const { preferred, keySet } = slice.actions;
export const preferencesReducer = slice.reducer;

/** Goes over from dark to light, or back, from how the page looks now, and keeps that. */
export const switchTheme = () => (dispatch: AppDispatch, getState: () => RootState) => {
  const value = storedTheme() === 'light' ? 'dark' : 'light';
  // Preferences may say so already, where the browser remembered another one.
  applyTheme(value);
  dispatch(preferred({ id: 'theme', value }));
  // A server that is away keeps nothing; the page has changed all the same.
  void dispatch(savePreferences(getState().preferences)).catch(() => {});
};
