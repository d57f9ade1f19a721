/**
 * Everything that can be done to a map by name: menus, keys and the command palette all run these. A command
 * that needs numbers says which; the screen asks for them before it runs.
 */

import { membersBox } from '@violet-crate/core/map/member/members';
import { countMembers, KINDS, type Members } from '@violet-crate/core/document/members';
import type { Change, MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap, Solid } from '@violet-crate/core/document/schema';
import { boxCentre } from '@violet-crate/core/math/box3';
import { snap, type Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import type { AppDispatch, RootState } from '../../state/store.ts';
import { replaceSolids, type Made } from '../editing/edits.ts';
import { documentOf, edited } from '../../state/mapSlice.ts';
import { presentSelection, isEmpty, selected, viewChanged, type Selection, type ViewState } from '../../state/viewSlice.ts';

export interface Ask {
  id: string;
  label: string;
  value: number | string;
  choices?: readonly string[];
  unit?: string;
}

export interface MapCommand {
  id: string;
  label: string;
  group: 'Tools' | 'Select' | 'Move' | 'Solids' | 'Faces' | 'Objects' | 'Prefabs' | 'View' | 'Edit';
  keys?: string;
  icon?: string;
  /** Why it cannot be run now, or null. */
  blocked?(context: MapContext): string | null;
  asks?(context: MapContext): Ask[];
  run(context: MapContext, answers: Record<string, number | string>): void | string;
}

/** The keys of a command: those that the user chose, else its own. */
export const commandKeys = ({ id, keys }: Pick<MapCommand, 'id' | 'keys'>, chosen: Readonly<Record<string, string>>): string | undefined =>
  (Object.hasOwn(chosen, id) ? chosen[id] : keys) || undefined;

export interface MapContext {
  map: GameMap;
  profile: Profile;
  view: ViewState;
  selection: Selection;
  state: RootState;
  dispatch: AppDispatch;
}

export function mapContext(state: RootState, dispatch: AppDispatch): MapContext | null {
  const { map: slice, crate, view } = state;
  if (!slice.map || !crate.profile) return null;
  const map = documentOf(slice.map, slice.opened);
  return { map, profile: crate.profile, view, selection: presentSelection(map, view.selection), state, dispatch };
}

export const needSolids =
  (least: number) =>
  ({ selection }: MapContext): string | null =>
    selection.solids.length >= least ? null : least === 1 ? 'Select a solid first.' : `Select at least ${least} solids first.`;

export const needAny = ({ selection }: MapContext): string | null => (isEmpty(selection) ? 'Select something first.' : null);

export const needFaces = ({ selection }: MapContext): string | null =>
  selection.faces.length > 0 ? null : 'Select a face first: choose Faces, or click one in the perspective view.';

export const needMany = ({ selection }: MapContext): string | null => (countMembers(selection) > 1 ? null : 'Select at least two things first.');

export function apply({ dispatch }: MapContext, edit: MapEdit | null, otherwise = 'Nothing would change.'): void | string {
  if (!edit) return otherwise;
  dispatch(edited(edit));
}

export function applyMade({ dispatch }: MapContext, made: Made | null): void | string {
  if (!made) return 'Nothing would change.';
  dispatch(edited(made.edit));
  dispatch(selected(made.selection));
}

export function pivot({ map, profile, selection, view }: MapContext): Vec3 {
  const box = membersBox(map, profile, selection);
  return box ? snap(boxCentre(box), view.snap ? view.grid / 2 : profile.grid.min / 4) : [0, 0, 0];
}

export const AXES = ['x', 'y', 'z'] as const;

export const axisIndex = (answer: number | string): 0 | 1 | 2 => Math.max(0, AXES.indexOf(String(answer) as 'x')) as 0 | 1 | 2;

export const toggle = (id: string, key: keyof ViewState, label: string, keys?: string): MapCommand => ({
  id,
  label,
  group: 'View',
  keys,
  run: ({ dispatch, view }) => void dispatch(viewChanged({ [key]: !view[key] })),
});

export const keysOf = (members: Members): string[] => KINDS.flatMap((kind) => members[kind].map((id) => `${kind}/${id}`));

export function reshape(c: MapContext, name: string, make: (solids: Solid[]) => Solid[] | string): void | string {
  const made = make(c.selection.solids.map((id) => c.map.solids[id]));
  return typeof made === 'string' ? made : applyMade(c, replaceSolids(c.map, c.selection.solids, made, name));
}

export function eachFace(c: MapContext, name: string, change: (solid: Solid, face: number) => Solid | string): void | string {
  const changes: Change[] = [];
  for (const { solid, face } of c.selection.faces) {
    const next = change(c.map.solids[solid], face);
    if (typeof next === 'string') return next;
    changes.push({ of: 'solids', id: solid, to: next });
  }
  return apply(c, changes.length > 0 ? { name, changes } : null);
}
