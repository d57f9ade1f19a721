import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Finding } from '@violet-crate/core/finding';
import type { LinkReport } from '@violet-crate/core/link/graph';

export interface ChecksState {
  running: boolean;
  /** How long the last check took, in milliseconds. */
  milliseconds: number;
  findings: Finding[];
  links: LinkReport[];
  /** Findings of the last test run in this session. */
  trial: Finding[];
}

const slice = createSlice({
  name: 'checks',
  initialState: { running: false, milliseconds: 0, findings: [], links: [], trial: [] } as ChecksState,
  reducers: {
    checking(state) {
      state.running = true;
    },
    checked(state, action: PayloadAction<{ findings: Finding[]; links: LinkReport[]; milliseconds: number }>) {
      Object.assign(state, action.payload, { running: false });
    },
    trialFound(state, action: PayloadAction<Finding[]>) {
      state.trial = action.payload;
    },
  },
});

export const { checking, checked, trialFound } = slice.actions;
export const checksReducer = slice.reducer;
