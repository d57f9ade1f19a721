/** How the drafting table is divided, remembered per user in the browser. */

import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

export interface TableLayout {
  /** Share of the sheet's height that the section takes. */
  section: number;
  /** The inset: distances of its right and upper edges from those of the sheet, and its width, in pixels. */
  inset: { right: number; top: number; width: number };
  /** The perspective is the sheet, and the plan its inset. */
  swapped: boolean;
  folded: boolean;
}

const KEY = 'violet-crate-table';
export const DEFAULT_LAYOUT: TableLayout = { section: 0.3, inset: { right: 10, top: 10, width: 340 }, swapped: false, folded: false };

export const SECTION_LIMITS = [0.12, 0.75] as const;
/** Pixels. */
export const INSET_LIMITS = [180, 900] as const;

const between = (value: unknown, [low, high]: readonly [number, number], otherwise: number): number =>
  typeof value === 'number' && Number.isFinite(value) ? Math.min(high, Math.max(low, value)) : otherwise;

/** A layout from whatever is stored; what is missing or not as it should be takes its default. */
export function readLayout(text: string | null): TableLayout {
  let stored: Partial<TableLayout> | null = null;
  try {
    stored = JSON.parse(text ?? 'null') as Partial<TableLayout> | null;
  } catch {
    // Something else lies under this key: the defaults stand.
  }
  const { inset: wanted } = stored ?? {};
  const { inset } = DEFAULT_LAYOUT;
  return {
    section: between(stored?.section, SECTION_LIMITS, DEFAULT_LAYOUT.section),
    inset: {
      right: between(wanted?.right, [0, 4000], inset.right),
      top: between(wanted?.top, [0, 4000], inset.top),
      width: between(wanted?.width, INSET_LIMITS, inset.width),
    },
    swapped: stored?.swapped === true,
    folded: stored?.folded === true,
  };
}

/** Null where the browser keeps nothing for pages, and in tests without one. */
const stored = (): string | null => (typeof localStorage === 'undefined' ? null : localStorage.getItem(KEY));

const slice = createSlice({
  name: 'layout',
  initialState: (): TableLayout => readLayout(stored()),
  reducers: {
    layoutChanged(state, action: PayloadAction<Partial<TableLayout>>) {
      const next = readLayout(JSON.stringify({ ...state, ...action.payload }));
      localStorage.setItem(KEY, JSON.stringify(next));
      return next;
    },
  },
});

export const { layoutChanged } = slice.actions;
export const layoutReducer = slice.reducer;
