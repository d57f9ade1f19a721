/** The command that waits for answers, if any. */

import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

const slice = createSlice({
  name: 'asking',
  initialState: { id: null as string | null },
  reducers: {
    asked(state, action: PayloadAction<string | null>) {
      state.id = action.payload;
    },
  },
});

export const { asked } = slice.actions;
export const askingReducer = slice.reducer;
