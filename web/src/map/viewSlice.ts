/** What the map workspace shows and selects. None of it is part of the document. */

import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { openCrate } from '../crate/crateSlice.ts';

export type Tool = 'select' | 'room' | 'solid' | 'place' | 'section';

export interface Selection {
  kind: 'solids' | 'objects';
  ids: string[];
  /** Face of the one selected solid, if a face is meant. */
  face?: number;
}

export interface ViewState {
  tool: Tool;
  placeClass: string | null;
  /** Model or sound that the next placed object takes. */
  placeAsset: string | null;
  /** The library beside the plan is open. */
  shelf: boolean;
  grid: number;
  snap: boolean;
  band: string;
  selection: Selection | null;
  material: string;
  /** Two points in the plan. */
  section: { from: [number, number]; to: [number, number] };
  cutAway: boolean;
  showSignals: boolean;
  trail: [number, number, number][] | null;
  focus: { point: [number, number, number]; count: number } | null;
}

const initialState: ViewState = {
  tool: 'select',
  placeClass: null,
  placeAsset: null,
  shelf: false,
  grid: 16,
  snap: true,
  band: 'b1',
  selection: null,
  material: '',
  section: { from: [-256, 0], to: [256, 0] },
  cutAway: true,
  showSignals: true,
  trail: null,
  focus: null,
};

const slice = createSlice({
  name: 'view',
  initialState,
  reducers: {
    changed(state, action: PayloadAction<Partial<ViewState>>) {
      Object.assign(state, action.payload);
    },
    selected(state, action: PayloadAction<Selection | null>) {
      state.selection = action.payload && action.payload.ids.length > 0 ? action.payload : null;
    },
    shown(state, action: PayloadAction<{ point?: [number, number, number]; trail?: [number, number, number][] | null }>) {
      if (action.payload.trail !== undefined) state.trail = action.payload.trail;
      if (action.payload.point) state.focus = { point: action.payload.point, count: (state.focus?.count ?? 0) + 1 };
    },
  },
  extraReducers: (builder) =>
    builder.addCase(openCrate.fulfilled, (state, { payload }) => {
      const { profile } = payload.game;
      const { map } = payload.map;
      let [minX, maxX, y, n] = [Infinity, -Infinity, 0, 0];
      for (const object of Object.values(map.objects)) {
        minX = Math.min(minX, object.position[0]);
        maxX = Math.max(maxX, object.position[0]);
        y += object.position[1];
        n++;
      }
      const pad = profile.grid.default * 8;
      Object.assign(state, initialState, {
        grid: profile.grid.default,
        band: Object.keys(map.bands)[0] ?? '',
        material: profile.defaultMaterial,
        section: n > 0 ? { from: [minX - pad, Math.round(y / n)], to: [maxX + pad, Math.round(y / n)] } : { from: [-pad * 2, 0], to: [pad * 2, 0] },
      });
    }),
});

export const viewChanged = slice.actions.changed;
export const { selected, shown } = slice.actions;
export const viewReducer = slice.reducer;
