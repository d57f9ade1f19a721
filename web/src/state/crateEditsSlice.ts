import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { CrateEditEntry } from '../api/types.ts';

/** The last change of the crate as a whole, which can be undone from where it was made. */
export interface CrateEditsState {
  last: CrateEditEntry | null;
  /** Orders that came too late or were not allowed, of the last time. */
  leftOut: string[];
}

const slice = createSlice({
  name: 'crateEdits',
  initialState: { last: null, leftOut: [] } as CrateEditsState,
  reducers: {
    crateChanged(_state, { payload }: PayloadAction<{ edit: CrateEditEntry | null; leftOut: string[] }>) {
      return { last: payload.edit, leftOut: payload.leftOut };
    },
    changeTold: () => ({ last: null, leftOut: [] }),
  },
});

export const { crateChanged, changeTold } = slice.actions;
export const crateEditsReducer = slice.reducer;
