import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Download } from '../api/types.ts';

/** What is being fetched from the depot, as the server last told. */
const slice = createSlice({
  name: 'downloads',
  initialState: { list: [] as Download[] },
  reducers: {
    downloadsChanged(state, action: PayloadAction<Download[]>) {
      state.list = action.payload;
    },
  },
});

export const { downloadsChanged } = slice.actions;
export const downloadsReducer = slice.reducer;
