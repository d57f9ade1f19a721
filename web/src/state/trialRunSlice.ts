import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface TrialRunState {
  buildId: string | null;
  ended: string | null;
}

const KEY = 'violet-crate-trial';

function stored(): TrialRunState {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '') as TrialRunState;
  } catch {
    return { buildId: null, ended: null };
  }
}

/** Which build was last walked through on this machine, and how that ended. */
const slice = createSlice({
  name: 'trialRun',
  initialState: stored,
  reducers: {
    trialEnded(_state, action: PayloadAction<{ buildId: string; ended: string }>) {
      return action.payload;
    },
  },
});

export const storeTrialRun = (run: TrialRunState): void => localStorage.setItem(KEY, JSON.stringify(run));

export const { trialEnded } = slice.actions;
export const trialRunReducer = slice.reducer;
