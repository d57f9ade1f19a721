import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** Which build was last walked through in this session, and how that ended. */
const slice = createSlice({
  name: 'trialRun',
  initialState: { buildId: null as string | null, ended: null as string | null },
  reducers: {
    trialEnded(_state, action: PayloadAction<{ buildId: string; ended: string }>) {
      return action.payload;
    },
  },
});

export const { trialEnded } = slice.actions;
export const trialRunReducer = slice.reducer;
