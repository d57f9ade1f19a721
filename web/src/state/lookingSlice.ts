/** What one looks into while maps run: watched expressions, log points, and what runs have come by. It outlives a run and a page. */

import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { LogPoint } from '@violet-crate/core/script/run';
import type { CoverageData } from '@violet-crate/core/trial/coverage';

interface LookingState {
  watches: string[];
  logPoints: LogPoint[];
  /** Of the walks or the explorer that ran last, with the crate and map that it is of. */
  coverage: { crateId: string; map: string; data: CoverageData } | null;
  /** Whether it is drawn into the plan. */
  onPlan: boolean;
}

/** Expressions that are watched, and log points. */
const MOST = 20;

const samePlace = (a: LogPoint, b: Pick<LogPoint, 'file' | 'line'>): boolean => a.file === b.file && a.line === b.line;

const slice = createSlice({
  name: 'looking',
  initialState: { watches: [], logPoints: [], coverage: null, onPlan: false } as LookingState,
  reducers: {
    watched(state, { payload }: PayloadAction<string>) {
      const expression = payload.trim();
      if (expression !== '' && !state.watches.includes(expression) && state.watches.length < MOST) state.watches.push(expression);
    },
    unwatched(state, { payload }: PayloadAction<string>) {
      state.watches = state.watches.filter((expression) => expression !== payload);
    },
    /** Sets a log point; an empty expression takes it away. */
    logPointSet(state, { payload }: PayloadAction<LogPoint>) {
      state.logPoints = state.logPoints.filter((point) => !samePlace(point, payload));
      const expression = payload.expression.trim();
      if (expression !== '' && state.logPoints.length < MOST) state.logPoints.push({ ...payload, expression });
    },
    cameBy(state, { payload }: PayloadAction<LookingState['coverage']>) {
      state.coverage = payload;
    },
    shownOnPlan(state, { payload }: PayloadAction<boolean>) {
      state.onPlan = payload;
    },
  },
});

export const { watched, unwatched, logPointSet, cameBy, shownOnPlan } = slice.actions;
export const lookingReducer = slice.reducer;
