import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Finding } from '@violet-crate/core/finding';

export interface ChecksState {
  running: boolean;
  /** How long the last check took, in milliseconds. */
  milliseconds: number;
  /** Those of all checks, the sealing's at the end. */
  findings: Finding[];
  /** Those of the sealing alone; the last ones stand until it has looked again. */
  leaks: Finding[];
  /** Findings of the last test run in this session. */
  trial: Finding[];
  /** What could not be looked at, since its worker died of it twice. */
  died: string[];
}

const slice = createSlice({
  name: 'checks',
  initialState: { running: false, milliseconds: 0, findings: [], leaks: [], trial: [], died: [] } as ChecksState,
  reducers: {
    checking(state) {
      state.running = true;
    },
    checked(state, action: PayloadAction<{ findings: Finding[]; milliseconds: number }>) {
      Object.assign(state, action.payload, { running: false, findings: [...action.payload.findings, ...state.leaks] });
    },
    sealed(state, action: PayloadAction<Finding[]>) {
      const others = state.findings.slice(0, state.findings.length - state.leaks.length);
      Object.assign(state, { leaks: action.payload, findings: [...others, ...action.payload] });
    },
    checksDied(state, { payload: { what, died } }: PayloadAction<{ what: string; died: boolean }>) {
      if (died === state.died.includes(what)) return;
      state.died = died ? [...state.died, what] : state.died.filter((one) => one !== what);
      if (died && what === 'checks') state.running = false;
    },
    trialFound(state, action: PayloadAction<Finding[]>) {
      state.trial = action.payload;
    },
  },
});

export const { checking, checked, checksDied, sealed, trialFound } = slice.actions;
export const checksReducer = slice.reducer;
