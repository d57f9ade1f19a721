/** What the map workspace shows and selects. None of it is part of the document. */

import type { Profile } from '@violet-crate/core/profile/schema';
import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { byKind, KINDS, type MemberKind } from '@violet-crate/core/document/members';
import { completeMap, type GameMap, type Overlay } from '@violet-crate/core/document/schema';
import { PLAIN_BRUSH, type BrushKind, type BrushSettings } from '@violet-crate/core/terrain/brush/brush';
import type { DecalStyle, OverlayStyle, SurfacePoint } from '@violet-crate/core/decal/place';
import type { ShapeValues } from '@violet-crate/core/solid/shapes';
import { openCrate } from './crateSlice.ts';

/** Id of a tool of `map/editing/toolList.ts`. */
export type Tool = string;
export type Mode = 'solids' | 'faces' | 'edges' | 'corners';
export type Pane = 'plan' | 'section' | 'perspective';
export type Panel = 'properties' | 'ground' | 'route' | 'people' | 'outline' | 'history' | 'budget';

/** Several kinds may be selected at once; faces and corners belong to selected solids. */
export interface Selection extends Record<MemberKind, string[]> {
  faces: { solid: string; face: number }[];
  corners: { solid: string; corner: number }[];
}

export const emptySelection: Selection = { ...byKind(() => []), faces: [], corners: [] };

/** One kind by its ids, as findings, links and scripts name things; or parts of a whole selection. */
export type Choice = { kind: MemberKind; ids: readonly string[]; face?: number } | Partial<Selection> | null;

export function chosen(choice: Choice): Selection {
  if (!choice) return emptySelection;
  if (!('kind' in choice)) return { ...emptySelection, ...choice };
  const faces = choice.face === undefined ? [] : [{ solid: choice.ids[0], face: choice.face }];
  return { ...emptySelection, [choice.kind]: [...choice.ids], faces };
}

/** The selection without what is no longer in the map: undone, or deleted on another page. The same value where all is there. */
export function presentSelection(map: GameMap, selection: Selection): Selection {
  const gone = KINDS.some((kind) => selection[kind].some((id) => !map[kind][id]));
  const lost = selection.faces.some((f) => !map.solids[f.solid]?.faces[f.face]) || selection.corners.some((c) => !map.solids[c.solid]);
  if (!gone && !lost) return selection;
  const present = Object.fromEntries(KINDS.map((kind) => [kind, selection[kind].filter((id) => map[kind][id])]));
  return {
    ...emptySelection,
    ...present,
    faces: selection.faces.filter((f) => map.solids[f.solid]?.faces[f.face]),
    corners: selection.corners.filter((c) => map.solids[c.solid]),
  };
}

export const isEmpty = (selection: Selection): boolean => KINDS.every((kind) => selection[kind].length === 0);

export interface ViewState {
  tool: Tool;
  mode: Mode;
  /** Shape that the solid tool draws, and the numbers last used for each. */
  shape: string;
  shapeValues: Record<string, ShapeValues>;
  placeClass: string | null;
  /** Model or sound that the next placed object takes. */
  placeAsset: string | null;
  /** Prefab of which the place tool puts copies. */
  placePrefab: string | null;
  /** The library beside the plan is open. */
  shelf: boolean;
  /** What the next decal is like; nothing until its material is chosen. */
  decal: DecalStyle | null;
  /** What the decal tool lays: single decals, or strips and areas by their points, what they are like, and the points so far. */
  laying: 'decal' | Overlay['form'];
  overlay: OverlayStyle | null;
  overlayDraft: SurfacePoint[];
  grid: number;
  snap: boolean;
  /** Snap to corners and edges of solids as well. */
  snapCorners: boolean;
  band: string;
  selection: Selection;
  material: string;
  /** Two points in the plan. */
  section: { from: [number, number]; to: [number, number] };
  /** What the cut tool keeps. */
  keep: 'both' | 'left' | 'right';
  cutAway: boolean;
  showSignals: boolean;
  /** Members that are hidden, as `kind/id`, and layers. */
  hidden: Record<string, true>;
  hiddenLayers: Record<string, true>;
  hideUnseen: boolean;
  /** Working view, or as the game would show it. */
  look: 'work' | 'game';
  lit: boolean;
  /** The perspective shows the map as it was built. */
  builtLight: boolean;
  /** Effects of the map move in the perspective. */
  playEffects: boolean;
  /** The sound beds of the map are heard where the perspective's camera is. */
  listen: boolean;
  /** Name of the mood that the perspective shows; none where it is empty. */
  mood: string;
  /** Hours; for the preview of light only. */
  hour: number;
  fieldOfView: number;
  /** What a newly opened map begins with, as the user prefers. */
  begins: { fieldOfView: number; snap: boolean; grid: GridChoice };
  /** In units; how far the perspective sees. */
  far: number;
  fly: boolean;
  /** The perspective goes along with what is selected. */
  follow: boolean;
  frame169: boolean;
  figure: boolean;
  maximised: Pane | null;
  panel: Panel;
  measure: [number, number, number][];
  pathDraft: [number, number, number][];
  trail: [number, number, number][] | null;
  focus: { point: [number, number, number]; count: number; frame?: number } | null;
  /** An object property that waits for an object to be clicked. */
  picking: { property: string; of?: string[] } | null;
  /** A revision that is compared with the present map. */
  compared: { revision: number; added: string[]; changed: string[]; removed: string[] } | null;
  /** Why the last gesture was refused, shown at its place for a while. */
  refusal: string;
  brush: BrushKind;
  /** What the brush is told; the picture of a stamp is kept beside the store. */
  brushSettings: Omit<BrushSettings, 'picture'>;
  /** Terrain that the brush works on; another where it is not there. */
  terrain: string;
  /** What the plan shows of the ground. */
  groundLook: 'surfaces' | 'slope' | 'none';
  contours: boolean;
  /** Metres a second at which jumps are shown. */
  jumpSpeed: number;
  sheet: 'zones' | 'picture' | null;
  /** Movement sequence that is watched, the second and the side of the player; whose next step a click is. */
  scene: string;
  sceneTime: number;
  sceneSide: number;
  sceneWho: string;
  sceneAdding: boolean;
}

const STORED_SHAPES = 'violet-crate-shapes';

function storedShapes(): Record<string, ShapeValues> {
  try {
    return JSON.parse(localStorage.getItem(STORED_SHAPES) ?? '{}') as Record<string, ShapeValues>;
  } catch {
    return {};
  }
}

const { picture: _picture, ...plainBrush } = PLAIN_BRUSH;

const initialState: ViewState = {
  tool: 'select',
  mode: 'solids',
  shape: 'block',
  shapeValues: {},
  placeClass: null,
  placeAsset: null,
  placePrefab: null,
  shelf: false,
  decal: null,
  laying: 'decal',
  overlay: null,
  overlayDraft: [],
  grid: 16,
  snap: true,
  snapCorners: false,
  band: 'b1',
  selection: emptySelection,
  material: '',
  section: { from: [-256, 0], to: [256, 0] },
  keep: 'both',
  cutAway: true,
  showSignals: true,
  hidden: {},
  hiddenLayers: {},
  hideUnseen: false,
  look: 'work',
  lit: false,
  builtLight: false,
  playEffects: false,
  listen: false,
  mood: '',
  hour: 12,
  fieldOfView: 60,
  begins: { fieldOfView: 60, snap: true, grid: 'game' },
  far: 16384,
  fly: false,
  follow: false,
  frame169: false,
  figure: false,
  maximised: null,
  panel: 'properties',
  measure: [],
  pathDraft: [],
  trail: null,
  focus: null,
  picking: null,
  compared: null,
  refusal: '',
  brush: 'raise',
  brushSettings: plainBrush,
  terrain: '',
  groundLook: 'surfaces',
  contours: true,
  jumpSpeed: 18,
  sheet: null,
  scene: '',
  sceneTime: 0,
  sceneSide: 0,
  sceneWho: '',
  sceneAdding: false,
};

export type GridChoice = 'game' | 'finer' | 'coarser';

/** The step of the grid that a newly opened map has, in units. */
export function gridAtFirst({ grid }: Profile, choice: GridChoice): number {
  const step = grid.default * { game: 1, finer: 0.5, coarser: 2 }[choice];
  return Math.max(grid.min, Math.min(grid.max, step));
}

const slice = createSlice({
  name: 'view',
  initialState,
  reducers: {
    changed(state, action: PayloadAction<Partial<ViewState>>) {
      Object.assign(state, action.payload);
    },
    selected(state, action: PayloadAction<Choice>) {
      state.selection = chosen(action.payload);
    },
    shapeChanged(state, action: PayloadAction<{ shape: string; values: ShapeValues }>) {
      state.shapeValues[action.payload.shape] = action.payload.values;
      localStorage.setItem(STORED_SHAPES, JSON.stringify(state.shapeValues));
    },
    shown(state, action: PayloadAction<{ point?: [number, number, number]; trail?: [number, number, number][] | null; frame?: number }>) {
      const { point, trail, frame } = action.payload;
      if (trail !== undefined) state.trail = trail;
      if (point) state.focus = { point, frame, count: (state.focus?.count ?? 0) + 1 };
    },
  },
  extraReducers: (builder) =>
    builder.addCase(openCrate.fulfilled, (state, { payload }) => {
      const { profile } = payload.game;
      const map = completeMap(payload.map.map);
      let [minX, maxX, y, n] = [Infinity, -Infinity, 0, 0];
      for (const object of Object.values(map.objects)) {
        minX = Math.min(minX, object.position[0]);
        maxX = Math.max(maxX, object.position[0]);
        y += object.position[1];
        n++;
      }
      const pad = profile.grid.default * 8;
      const { begins } = state;
      Object.assign(state, initialState, {
        begins,
        fieldOfView: begins.fieldOfView,
        snap: begins.snap,
        shapeValues: storedShapes(),
        grid: gridAtFirst(profile, begins.grid),
        band: Object.keys(map.bands)[0] ?? '',
        material: profile.defaultMaterial,
        // Land rises above any band.
        cutAway: Object.keys(map.terrains).length === 0,
        section: n > 0 ? { from: [minX - pad, Math.round(y / n)], to: [maxX + pad, Math.round(y / n)] } : { from: [-pad * 2, 0], to: [pad * 2, 0] },
      });
    }),
});

export const viewChanged = slice.actions.changed;
export const { selected, shown, shapeChanged } = slice.actions;
export const viewReducer = slice.reducer;

/** Whether a member is shown: neither hidden itself nor in a hidden layer. */
export const isShown = (view: Pick<ViewState, 'hidden' | 'hiddenLayers'>, kind: MemberKind, id: string, layer?: string): boolean =>
  !view.hidden[`${kind}/${id}`] && !(layer && view.hiddenLayers[layer]);

/** Changes when other members are selected: they are drawn over the base instead of in it. */
export const selectionKey = (selection: Selection): string => (isEmpty(selection) ? '' : KINDS.map((kind) => selection[kind].join()).join('|'));
