/**
 * Everything that can be done to a map by name: menus, keys and the command palette all run these. A command
 * that needs numbers says which; the screen asks for them before it runs.
 */

import { findUnseenFaces } from '@violet-crate/core/build/unseenFaces';
import {
  alignMembers,
  arrayAlong,
  arrayAround,
  countMembers,
  distributeMembers,
  KINDS,
  membersBox,
  transformMembers,
  type Members,
} from '@violet-crate/core/map/arrange';
import type { Change, MapEdit } from '@violet-crate/core/map/edit';
import { freshId } from '@violet-crate/core/map/edit';
import { inLayer, replacedMaterial, solidsWithMaterial } from '@violet-crate/core/map/find';
import { makeIndependent, makePrefab } from '@violet-crate/core/map/prefab';
import { faceAxes } from '@violet-crate/core/map/projection';
import type { GameMap, Solid } from '@violet-crate/core/map/schema';
import { addNext, renumber, seriesOf } from '@violet-crate/core/map/series';
import { dropToSurface } from '@violet-crate/core/map/stand';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import { snap, type Vec3 } from '@violet-crate/core/math/vec3';
import { classOf, hasPart, type Profile } from '@violet-crate/core/profile/schema';
import {
  extrudeFace,
  hollowSolid,
  intersectSolids,
  mergeSolids,
  pushFace,
  ringCut,
  solidsOverlap,
  subtractSolid,
} from '@violet-crate/core/solid/cut';
import { rotation, scaling, shearing } from '@violet-crate/core/solid/transform';
import { crateWorld } from '../checks/background.ts';
import type { AppDispatch, RootState } from '../store.ts';
import { changeFaces, deleteSelection, duplicate, paint, replaceSolids, type Made } from './edits.ts';
import { convexParts } from './convexParts.ts';
import { documentOf, edited, prefabOpened, redone, undone } from './mapSlice.ts';

import {
  chosen,
  emptySelection,
  isEmpty,
  isShown,
  selected,
  shown,
  viewChanged,
  type Mode,
  type Selection,
  type Tool,
  type ViewState,
} from './viewSlice.ts';

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
  return { map: documentOf(slice.map, slice.opened), profile: crate.profile, view, selection: view.selection, state, dispatch };
}

const needSolids =
  (least: number) =>
  ({ selection }: MapContext): string | null =>
    selection.solids.length >= least ? null : least === 1 ? 'Select a solid first.' : `Select at least ${least} solids first.`;
const needAny = ({ selection }: MapContext): string | null => (isEmpty(selection) ? 'Select something first.' : null);
const needFaces = ({ selection }: MapContext): string | null =>
  selection.faces.length > 0 ? null : 'Select a face first: choose Faces, or click one in the perspective view.';
const needMany = ({ selection }: MapContext): string | null => (countMembers(selection) > 1 ? null : 'Select at least two things first.');

/** Applies an edit where there is one. */
function apply({ dispatch }: MapContext, edit: MapEdit | null, otherwise = 'Nothing would change.'): void | string {
  if (!edit) return otherwise;
  dispatch(edited(edit));
}

function applyMade({ dispatch }: MapContext, made: Made | null): void | string {
  if (!made) return 'Nothing would change.';
  dispatch(edited(made.edit));
  dispatch(selected(made.selection));
}

/** Pivot of turns and mirrors: the middle of what is selected, on the grid so that results stay on it. */
function pivot({ map, profile, selection, view }: MapContext): Vec3 {
  const box = membersBox(map, profile, selection);
  return box ? snap(boxCentre(box), view.snap ? view.grid / 2 : profile.grid.min / 4) : [0, 0, 0];
}

const AXES = ['x', 'y', 'z'] as const;
const axisIndex = (answer: number | string): 0 | 1 | 2 => Math.max(0, AXES.indexOf(String(answer) as 'x')) as 0 | 1 | 2;

const turn = (degrees: number, keys?: string): MapCommand => ({
  id: `turn${degrees}`,
  label: `Turn by ${Math.abs(degrees)}° ${degrees > 0 ? 'to the left' : 'to the right'}`,
  group: 'Move',
  keys,
  blocked: needAny,
  run: (c) => apply(c, transformMembers(c.map, c.selection, rotation(2, degrees, pivot(c)), `turn by ${degrees}°`)),
});

const align = (axis: 0 | 1 | 2, side: 'min' | 'middle' | 'max', label: string): MapCommand => ({
  id: `align-${AXES[axis]}-${side}`,
  label: `Align ${label}`,
  group: 'Move',
  blocked: needMany,
  run: (c) => apply(c, alignMembers(c.map, c.profile, c.selection, axis, side)),
});

/** A tool that is worked with the pointer. */
const tool = (id: Tool, keys: string, label: string): MapCommand => ({
  id: `tool-${id}`,
  label,
  group: 'Tools',
  keys,
  run: ({ dispatch }) => void dispatch(viewChanged({ tool: id, measure: [], pathDraft: [], picking: null })),
});

const mode = (id: Mode, keys: string, label: string): MapCommand => ({
  id: `mode-${id}`,
  label: `Select ${label}`,
  group: 'Select',
  keys,
  run: ({ dispatch, selection }) => {
    dispatch(viewChanged({ mode: id, tool: 'select' }));
    // Faces and corners belong to what was chosen in that mode.
    if (id === 'solids') dispatch(selected({ ...selection, faces: [], corners: [] }));
    else if (id === 'faces') dispatch(selected({ ...selection, corners: [] }));
    else dispatch(selected({ ...selection, faces: [] }));
  },
});

const toggle = (id: string, key: keyof ViewState, label: string, keys?: string): MapCommand => ({
  id,
  label,
  group: 'View',
  keys,
  run: ({ dispatch, view }) => void dispatch(viewChanged({ [key]: !view[key] })),
});

/** The selected members as `kind/id`. */
const keysOf = (members: Members): string[] => KINDS.flatMap((kind) => members[kind].map((id) => `${kind}/${id}`));

/** Several solids become others, or a sentence says why not. */
function reshape(c: MapContext, name: string, make: (solids: Solid[]) => Solid[] | string): void | string {
  const made = make(c.selection.solids.map((id) => c.map.solids[id]));
  return typeof made === 'string' ? made : applyMade(c, replaceSolids(c.map, c.selection.solids, made, name));
}

/** A change of every selected face; the first refusal is the answer. */
function eachFace(c: MapContext, name: string, change: (solid: Solid, face: number) => Solid | string): void | string {
  const changes: Change[] = [];
  for (const { solid, face } of c.selection.faces) {
    const next = change(c.map.solids[solid], face);
    if (typeof next === 'string') return next;
    changes.push({ of: 'solids', id: solid, to: next });
  }
  return apply(c, changes.length > 0 ? { name, changes } : null);
}

export const MAP_COMMANDS: readonly MapCommand[] = [
  tool('select', '1', 'Select and move'),
  tool('room', '2', 'Draw a room'),
  tool('solid', '3', 'Draw a solid'),
  tool('place', '4', 'Place an object'),
  tool('section', '5', 'Draw the section line'),
  toggle('map-library', 'shelf', 'Library beside the plan', '6'),
  tool('cut', '7', 'Cut solids along a line'),
  tool('path', '8', 'Draw a path'),
  tool('measure', '9', 'Measure, and see what the player can do'),

  mode('solids', 's', 'whole solids and objects'),
  mode('faces', 'f', 'faces'),
  mode('edges', 'e', 'edges'),
  mode('corners', 'c', 'corners'),
  {
    id: 'select-all',
    label: 'Select everything',
    group: 'Select',
    keys: 'Ctrl+A',
    run: ({ map, view, dispatch }) => {
      const all = Object.fromEntries(
        KINDS.map((kind) => [kind, Object.keys(map[kind]).filter((id) => isShown(view, kind, id, (map[kind][id] as { layer?: string }).layer))]),
      );
      dispatch(selected(all));
    },
  },
  {
    id: 'select-invert',
    label: 'Invert the selection',
    group: 'Select',
    keys: 'i',
    run: ({ map, view, selection, dispatch }) => {
      const rest = Object.fromEntries(
        KINDS.map((kind) => [
          kind,
          Object.keys(map[kind]).filter(
            (id) => !selection[kind].includes(id) && isShown(view, kind, id, (map[kind][id] as { layer?: string }).layer),
          ),
        ]),
      );
      dispatch(selected(rest));
    },
  },
  {
    id: 'select-material',
    label: 'Select solids with the current material',
    group: 'Select',
    run: ({ map, view, dispatch }) => {
      const ids = solidsWithMaterial(map, view.material);
      if (ids.length === 0) return `No solid has ${view.material}.`;
      dispatch(selected({ kind: 'solids', ids }));
    },
  },
  {
    id: 'select-class',
    label: 'Select all objects of the same class',
    group: 'Select',
    blocked: ({ selection }) => (selection.objects.length > 0 ? null : 'Select an object first.'),
    run: ({ map, selection, dispatch }) => {
      const classes = new Set(selection.objects.map((id) => map.objects[id].class));
      dispatch(selected({ kind: 'objects', ids: Object.keys(map.objects).filter((id) => classes.has(map.objects[id].class)) }));
    },
  },
  {
    id: 'select-none',
    label: 'Select nothing',
    group: 'Select',
    run: ({ dispatch }) => void dispatch(selected(null)),
  },
  {
    id: 'save-set',
    label: 'Save the selection as a named set',
    group: 'Select',
    blocked: needAny,
    asks: () => [{ id: 'name', label: 'Name', value: 'set' }],
    run: (c, { name }) =>
      apply(c, {
        name: `save set ${name}`,
        changes: [
          {
            of: 'sets',
            id: freshId(c.map.sets, 'set'),
            to: { name: String(name) || 'set', solids: c.selection.solids, objects: c.selection.objects },
          },
        ],
      }),
  },

  { id: 'undo', label: 'Undo', group: 'Edit', keys: 'Ctrl+Z', run: ({ dispatch }) => void dispatch(undone()) },
  { id: 'redo', label: 'Redo', group: 'Edit', keys: 'Ctrl+Shift+Z', run: ({ dispatch }) => void dispatch(redone()) },
  {
    id: 'delete',
    label: 'Delete what is selected',
    group: 'Edit',
    keys: 'Delete',
    icon: 'trash',
    blocked: needAny,
    run: ({ map, selection, dispatch }) => {
      dispatch(edited(deleteSelection(map, selection)));
      dispatch(selected(null));
    },
  },
  {
    id: 'duplicate',
    label: 'Duplicate',
    group: 'Edit',
    keys: 'Ctrl+D',
    icon: 'copy',
    blocked: needAny,
    run: (c) => applyMade(c, duplicate(c.map, c.selection, [c.view.grid, c.view.grid, 0])),
  },

  turn(15, ','),
  turn(-15, '.'),
  turn(90, 'Shift+,'),
  turn(-90, 'Shift+.'),
  {
    id: 'turn-free',
    label: 'Turn by an angle …',
    group: 'Move',
    blocked: needAny,
    asks: () => [
      { id: 'degrees', label: 'Angle', value: 15, unit: '°' },
      { id: 'axis', label: 'About', value: 'z', choices: AXES },
      { id: 'carry', label: 'Textures', value: 'stay in the world', choices: ['stay in the world', 'turn along'] },
    ],
    run: (c, { degrees, axis, carry }) =>
      apply(
        c,
        transformMembers(c.map, c.selection, rotation(axisIndex(axis), Number(degrees), pivot(c)), `turn by ${degrees}°`, carry === 'turn along'),
      ),
  },
  {
    id: 'mirror',
    label: 'Mirror …',
    group: 'Move',
    blocked: needAny,
    asks: () => [{ id: 'axis', label: 'Along', value: 'x', choices: AXES }],
    run: (c, { axis }) => {
      const factors: Vec3 = [1, 1, 1];
      factors[axisIndex(axis)] = -1;
      return apply(c, transformMembers(c.map, c.selection, scaling(factors, pivot(c)), `mirror along ${axis}`));
    },
  },
  {
    id: 'scale',
    label: 'Scale …',
    group: 'Move',
    blocked: needAny,
    asks: () => AXES.map((a) => ({ id: a, label: `Factor along ${a}`, value: 1 })),
    run: (c, answers) => {
      const factors = AXES.map((a) => Number(answers[a])) as Vec3;
      if (factors.some((f) => !(Math.abs(f) >= 0.01 && Math.abs(f) <= 100))) return 'Factors lie between 0.01 and 100.';
      return apply(c, transformMembers(c.map, c.selection, scaling(factors, pivot(c)), 'scale'));
    },
  },
  {
    id: 'shear',
    label: 'Shear …',
    group: 'Move',
    blocked: needSolids(1),
    asks: () => [
      { id: 'axis', label: 'Push along', value: 'x', choices: AXES },
      { id: 'along', label: 'For every unit of', value: 'z', choices: AXES },
      { id: 'amount', label: 'By', value: 0.5 },
    ],
    run: (c, { axis, along, amount }) =>
      axis === along
        ? 'Choose two different axes.'
        : apply(c, transformMembers(c.map, c.selection, shearing(axisIndex(axis), axisIndex(along), Number(amount), pivot(c)), 'shear')),
  },
  {
    id: 'move-by',
    label: 'Move by …',
    group: 'Move',
    blocked: needAny,
    asks: ({ profile }) => AXES.map((a) => ({ id: a, label: a, value: 0, unit: profile.unit.plural })),
    run: (c, answers) =>
      apply(c, transformMembers(c.map, c.selection, { ...rotation(2, 0, [0, 0, 0]), move: AXES.map((a) => Number(answers[a])) as Vec3 }, 'move')),
  },
  {
    id: 'to-grid',
    label: 'Put onto the grid',
    group: 'Move',
    blocked: needAny,
    run: (c) => {
      const box = membersBox(c.map, c.profile, c.selection)!;
      const to = snap(box.min, c.view.grid);
      return apply(
        c,
        transformMembers(c.map, c.selection, { ...rotation(2, 0, [0, 0, 0]), move: to.map((v, i) => v - box.min[i]) as Vec3 }, 'put onto the grid'),
        'It lies on the grid.',
      );
    },
  },
  align(0, 'min', 'west sides'),
  align(0, 'middle', 'middles, west to east'),
  align(0, 'max', 'east sides'),
  align(1, 'min', 'south sides'),
  align(1, 'middle', 'middles, south to north'),
  align(1, 'max', 'north sides'),
  align(2, 'min', 'bottoms'),
  align(2, 'max', 'tops'),
  ...([0, 1, 2] as const).map((axis): MapCommand => ({
    id: `distribute-${AXES[axis]}`,
    label: `Distribute evenly along ${AXES[axis]}`,
    group: 'Move',
    blocked: ({ selection }) => (countMembers(selection) > 2 ? null : 'Select at least three things first.'),
    run: (c) => apply(c, distributeMembers(c.map, c.profile, c.selection, axis), 'They are spread evenly.'),
  })),
  {
    id: 'array',
    label: 'Row of copies …',
    group: 'Move',
    blocked: needAny,
    asks: (c) => {
      const size = boxSize(membersBox(c.map, c.profile, c.selection)!);
      return [
        { id: 'count', label: 'Copies', value: 3 },
        { id: 'x', label: 'Step x', value: Math.ceil(size[0] / c.view.grid) * c.view.grid + c.view.grid },
        { id: 'y', label: 'Step y', value: 0 },
        { id: 'z', label: 'Step z', value: 0 },
      ];
    },
    run: (c, { count, x, y, z }) => {
      if (!(Number(count) >= 1 && Number(count) <= 500)) return 'Between 1 and 500 copies.';
      const made = arrayAlong(c.map, c.selection, Math.round(Number(count)), [Number(x), Number(y), Number(z)]);
      return applyMade(c, made && { edit: made.edit, selection: chosen(made.members as Partial<Selection>) });
    },
  },
  {
    id: 'ring',
    label: 'Ring of copies …',
    group: 'Move',
    blocked: needAny,
    asks: (c) => {
      const at = pivot(c);
      return [
        { id: 'count', label: 'In all', value: 6 },
        { id: 'x', label: 'Centre x', value: at[0] + c.view.grid * 8 },
        { id: 'y', label: 'Centre y', value: at[1] },
      ];
    },
    run: (c, { count, x, y }) => {
      if (!(Number(count) >= 2 && Number(count) <= 360)) return 'Between 2 and 360.';
      const made = arrayAround(c.map, c.selection, Math.round(Number(count)), [Number(x), Number(y), 0]);
      return applyMade(c, made && { edit: made.edit, selection: chosen(made.members as Partial<Selection>) });
    },
  },

  {
    id: 'hollow',
    label: 'Hollow …',
    group: 'Solids',
    blocked: needSolids(1),
    asks: ({ profile }) => [
      { id: 'thickness', label: 'Wall thickness (negative: outwards)', value: profile.shellThickness, unit: profile.unit.plural },
    ],
    run: (c, { thickness }) =>
      reshape(c, 'hollow', (solids) => {
        const walls = solids.map((solid) => hollowSolid(solid, Number(thickness)));
        return walls.find((w) => typeof w === 'string') ?? (walls as Solid[][]).flat();
      }),
  },
  {
    id: 'subtract',
    label: 'Subtract from all it overlaps',
    group: 'Solids',
    blocked: needSolids(1),
    run: (c) => {
      const cutters = c.selection.solids.map((id) => c.map.solids[id]);
      const changed = Object.entries(c.map.solids).filter(
        ([id, solid]) =>
          !c.selection.solids.includes(id) && isShown(c.view, 'solids', id, solid.layer) && cutters.some((cutter) => solidsOverlap(solid, cutter)),
      );
      if (changed.length === 0) return 'It overlaps no other solid.';
      const pieces = changed.flatMap(([, solid]) =>
        cutters.reduce<Solid[]>((list, cutter) => list.flatMap((piece) => subtractSolid(piece, cutter)), [solid]),
      );
      return applyMade(c, replaceSolids(c.map, [...c.selection.solids, ...changed.map(([id]) => id)], pieces, 'subtract'));
    },
  },
  {
    id: 'intersect',
    label: 'Keep what they have in common',
    group: 'Solids',
    blocked: needSolids(2),
    run: (c) =>
      reshape(c, 'intersect', (solids) => {
        const common = intersectSolids(solids);
        return common ? [common] : 'They have nothing in common.';
      }),
  },
  {
    id: 'merge',
    label: 'Merge into one',
    group: 'Solids',
    keys: 'u',
    blocked: needSolids(2),
    run: (c) =>
      reshape(c, 'merge', (solids) => {
        const whole = mergeSolids(solids);
        return typeof whole === 'string' ? whole : [whole];
      }),
  },
  {
    id: 'ring-cut',
    label: 'Ring cut …',
    group: 'Solids',
    blocked: needSolids(1),
    asks: () => [
      { id: 'axis', label: 'Rings across', value: 'x', choices: AXES },
      { id: 'parts', label: 'Parts', value: 2 },
    ],
    run: (c, { axis, parts }) => {
      if (!(Number(parts) >= 2 && Number(parts) <= 64)) return 'Between 2 and 64 parts.';
      const along: Vec3 = [0, 0, 0];
      along[axisIndex(axis)] = 1;
      return reshape(c, 'ring cut', (solids) => solids.flatMap((solid) => ringCut(solid, along, Math.round(Number(parts)))));
    },
  },
  {
    id: 'detail',
    label: 'Mark as detail, or as structure again',
    group: 'Solids',
    blocked: needSolids(1),
    run: (c) => {
      const detail = !c.selection.solids.every((id) => c.map.solids[id].detail);
      return apply(c, {
        name: detail ? 'mark as detail' : 'mark as structure',
        changes: c.selection.solids.map((id): Change => ({ of: 'solids', id, to: { ...c.map.solids[id], detail: detail || undefined } })),
      });
    },
  },
  {
    id: 'trigger-from-solid',
    label: 'Make a trigger volume of it',
    group: 'Solids',
    blocked: needSolids(1),
    run: (c) => {
      const volume = c.profile.classes.find((k) => hasPart(c.profile, k.id, 'volume'));
      if (!volume) return `${c.profile.title} has no trigger volumes.`;
      return applyMade(c, triggerFromSolid(c, volume.id));
    },
  },

  {
    id: 'push-out',
    label: 'Push the face out by a grid step',
    group: 'Faces',
    keys: 'Shift+PageUp',
    blocked: needFaces,
    run: (c) => eachFace(c, 'push face', (solid, face) => pushFace(solid, face, c.view.grid)),
  },
  {
    id: 'push-in',
    label: 'Pull the face in by a grid step',
    group: 'Faces',
    keys: 'Shift+PageDown',
    blocked: needFaces,
    run: (c) => eachFace(c, 'pull face', (solid, face) => pushFace(solid, face, -c.view.grid)),
  },
  {
    id: 'extrude',
    label: 'Extrude the face into a new solid …',
    group: 'Faces',
    blocked: needFaces,
    asks: ({ view, profile }) => [{ id: 'depth', label: 'Depth', value: view.grid, unit: profile.unit.plural }],
    run: (c, { depth }) => {
      const made = c.selection.faces.map(({ solid, face }) => extrudeFace(c.map.solids[solid], face, Number(depth)));
      const wrong = made.find((m) => typeof m === 'string');
      return wrong ?? applyMade(c, replaceSolids(c.map, [], made as Solid[], 'extrude face'));
    },
  },
  {
    id: 'paint',
    label: 'Paint with the current material',
    group: 'Faces',
    keys: 'p',
    blocked: needSolids(1),
    run: (c) => apply(c, paint(c.map, c.selection, c.view.material), `It has ${c.view.material} already.`),
  },
  {
    id: 'project-world',
    label: 'Project the texture from the world',
    group: 'Faces',
    blocked: needSolids(1),
    run: (c) =>
      apply(
        c,
        changeFaces(c.map, c.selection, ({ axes: _axes, ...face }) => face, 'project from the world'),
      ),
  },
  {
    id: 'project-face',
    label: 'Project the texture along the face',
    group: 'Faces',
    blocked: needSolids(1),
    run: (c) =>
      apply(
        c,
        changeFaces(c.map, c.selection, (face) => ({ ...face, axes: faceAxes(face.normal) }), 'project along the face'),
      ),
  },
  {
    id: 'replace-material',
    label: 'Replace a material everywhere …',
    group: 'Faces',
    asks: (c) => {
      const used = [...new Set(Object.values(c.map.solids).flatMap((s) => s.faces.map((f) => f.material)))].sort();
      return [
        { id: 'from', label: 'Replace', value: used[0] ?? '', choices: used },
        { id: 'to', label: 'By', value: c.view.material },
      ];
    },
    run: (c, { from, to }) => {
      const changes = Object.entries(c.map.solids).flatMap(([id, solid]): Change[] => {
        const next = replacedMaterial(solid, String(from), String(to));
        return next ? [{ of: 'solids', id, to: next }] : [];
      });
      return apply(c, changes.length > 0 ? { name: `replace ${from} by ${to}`, changes } : null, `No face has ${from}.`);
    },
  },
  {
    id: 'propose-unseen',
    label: 'Give faces that nothing can see the unseen material',
    group: 'Faces',
    run: (c) => {
      const world = crateWorld(c.state);
      const found = world ? findUnseenFaces(world, c.map) : null;
      if (!found) return 'The game has no material that is never drawn.';
      if (found.faces.length === 0) return 'No face is covered by others on all of its area.';
      return apply(
        c,
        changeFaces(
          c.map,
          { solids: [], faces: found.faces },
          (face) => ({ ...face, material: found.material }),
          `${found.faces.length} faces unseen`,
        ),
      );
    },
  },

  {
    id: 'drop',
    label: 'Drop to the surface',
    group: 'Objects',
    keys: 'j',
    blocked: ({ selection }) => (selection.objects.length > 0 ? null : 'Select an object first.'),
    run: (c) => {
      const world = crateWorld(c.state);
      return world ? apply(c, dropToSurface(world, c.map, c.selection.objects), 'They stand on their surface.') : 'The crate is still loading.';
    },
  },
  {
    id: 'parts-to-solids',
    label: 'Turn a model’s convex parts into solids',
    group: 'Objects',
    blocked: ({ map, selection }) =>
      selection.objects.length === 1 && map.objects[selection.objects[0]].properties.model ? null : 'Select one object with a model first.',
    run: (c) => {
      const [id] = c.selection.objects;
      const object = c.map.objects[id];
      void convexParts(c.state, String(object.properties.model), object, c.view.material || c.profile.defaultMaterial).then((solids) => {
        if (solids.length === 0)
          return void c.dispatch(viewChanged({ refusal: 'The model has no convex parts for collision. Convert it with a hull or parts first.' }));
        const made = replaceSolids(c.map, [], solids, `parts of ${object.name} as solids`);
        c.dispatch(edited({ ...made.edit, changes: [...made.edit.changes, { of: 'objects', id, to: null }] }));
        c.dispatch(selected(made.selection));
      });
    },
  },
  {
    id: 'series-next',
    label: 'Add the next of a series',
    group: 'Objects',
    keys: 'n',
    blocked: needSeries,
    run: (c) => {
      const made = addNext(c.map, c.profile, c.map.objects[c.selection.objects[0]].class);
      return applyMade(c, made && { edit: made.edit, selection: chosen({ kind: 'objects', ids: [made.id] }) });
    },
  },
  {
    id: 'series-renumber',
    label: 'Renumber the series from 0',
    group: 'Objects',
    blocked: needSeries,
    run: (c) => {
      const classId = c.map.objects[c.selection.objects[0]].class;
      return apply(
        c,
        renumber(
          c.map,
          c.profile,
          classId,
          seriesOf(c.map, c.profile, classId).map((m) => m.id),
        ),
        'Its numbers run from 0 without gaps.',
      );
    },
  },
  {
    id: 'to-layer',
    label: 'Move to a layer …',
    group: 'Objects',
    blocked: needAny,
    asks: ({ map }) => [{ id: 'name', label: 'Layer (a new name makes one)', value: Object.values(map.layers)[0]?.name ?? 'layer 1' }],
    run: (c, { name }) => apply(c, moveToLayer(c, String(name))),
  },
  {
    id: 'tag',
    label: 'Tag …',
    group: 'Objects',
    blocked: needAny,
    asks: () => [{ id: 'tag', label: 'Tag', value: '' }],
    run: (c, { tag }) => {
      const word = String(tag).trim();
      if (!word) return 'A tag needs a word.';
      const add = <T extends { tags?: string[] }>(member: T): T => ({ ...member, tags: [...new Set([...(member.tags ?? []), word])] });
      return apply(c, {
        name: `tag ${word}`,
        changes: [
          ...c.selection.solids.map((id): Change => ({ of: 'solids', id, to: add(c.map.solids[id]) })),
          ...c.selection.objects.map((id): Change => ({ of: 'objects', id, to: add(c.map.objects[id]) })),
        ],
      });
    },
  },

  {
    id: 'make-prefab',
    label: 'Make a prefab of it …',
    group: 'Prefabs',
    keys: 'g',
    blocked: ({ selection }) =>
      selection.solids.length + selection.objects.length + selection.copies.length > 0 ? null : 'Select what it should hold first.',
    asks: () => [{ id: 'name', label: 'Name', value: 'prefab' }],
    run: (c, { name }) => {
      const box = membersBox(c.map, c.profile, c.selection)!;
      const origin = snap([(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, box.min[2]], c.view.grid);
      const word = String(name)
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '_')
        .replace(/^_+|_+$/g, '');
      if (!/^[a-z]/.test(word)) return 'A prefab’s name begins with a letter: names inside its copies begin with it.';
      const made = makePrefab(c.map, word, c.selection, origin);
      c.dispatch(edited(made.edit));
      c.dispatch(selected({ kind: 'copies', ids: [made.copy] }));
    },
  },
  {
    id: 'open-prefab',
    label: 'Edit the prefab in its place',
    group: 'Prefabs',
    keys: 'Enter',
    blocked: needCopy,
    run: ({ map, selection, dispatch }) => {
      if (!map.prefabs[map.copies[selection.copies[0]].prefab]) return 'The game’s own prefabs cannot be changed. Make it independent first.';
      dispatch(prefabOpened(selection.copies[0]));
      dispatch(selected(null));
    },
  },
  {
    id: 'close-prefab',
    label: 'Done editing the prefab',
    group: 'Prefabs',
    blocked: ({ state }) => (state.map.opened ? null : 'No prefab is open.'),
    run: ({ state, dispatch }) => {
      const { opened } = state.map;
      dispatch(prefabOpened(null));
      dispatch(selected({ kind: 'copies', ids: [opened!] }));
    },
  },
  {
    id: 'independent',
    label: 'Make independent',
    group: 'Prefabs',
    blocked: needCopy,
    run: (c) => {
      const made = makeIndependent(c.map, c.profile, c.selection.copies[0]);
      c.dispatch(edited(made.edit));
      c.dispatch(selected({ solids: made.solids, objects: made.objects }));
    },
  },

  ...(['glb', 'obj'] as const).map((form): MapCommand => ({
    id: `export-${form}`,
    label: `Export the map as ${form.toUpperCase()}`,
    group: 'View',
    run: ({ state }) => {
      if (state.map.unsaved.length > 0) return 'It is being saved; try again in a moment.';
      window.location.assign(`/api/crates/${state.crate.view!.id}/maps/${state.map.name}/export.${form}`);
    },
  })),
  {
    id: 'frame',
    label: 'Show what is selected',
    group: 'View',
    keys: 'Home',
    blocked: needAny,
    run: ({ map, profile, selection, dispatch }) => {
      const box = membersBox(map, profile, selection);
      if (box) dispatch(shown({ point: boxCentre(box), frame: Math.max(...boxSize(box)) }));
    },
  },
  {
    id: 'hide',
    label: 'Hide what is selected',
    group: 'View',
    keys: '-',
    blocked: needAny,
    run: ({ selection, view, dispatch }) => {
      dispatch(viewChanged({ hidden: { ...view.hidden, ...Object.fromEntries(keysOf(selection).map((key) => [key, true as const])) } }));
      dispatch(selected(null));
    },
  },
  {
    id: 'isolate',
    label: 'Show only what is selected',
    group: 'View',
    keys: '=',
    blocked: needAny,
    run: ({ map, selection, dispatch }) => {
      const keep = new Set(keysOf(selection));
      const all = KINDS.flatMap((kind) => Object.keys(map[kind]).map((id) => `${kind}/${id}`));
      dispatch(viewChanged({ hidden: Object.fromEntries(all.filter((key) => !keep.has(key)).map((key) => [key, true as const])) }));
    },
  },
  {
    id: 'show-all',
    label: 'Show everything again',
    group: 'View',
    keys: '0',
    run: ({ dispatch }) => void dispatch(viewChanged({ hidden: {}, hiddenLayers: {} })),
  },
  {
    id: 'select-layer',
    label: 'Select all of the same layer',
    group: 'Select',
    blocked: needAny,
    run: ({ map, selection, dispatch }) => {
      const layer = [...selection.solids.map((id) => map.solids[id].layer), ...selection.objects.map((id) => map.objects[id].layer)].find(Boolean);
      if (!layer) return 'What is selected is in no layer.';
      dispatch(selected({ solids: inLayer(map.solids, layer), objects: inLayer(map.objects, layer) }));
    },
  },
  toggle('snap', 'snap', 'Snap to the grid, or not', 'k'),
  toggle('snap-corners', 'snapCorners', 'Snap to corners and edges, or not', 'Shift+K'),
  toggle('signals', 'showSignals', 'Show signals, or not'),
  toggle('unseen', 'hideUnseen', 'Hide the unseen material, or show it', 'h'),
  toggle('cut-away', 'cutAway', 'Cut the perspective at the band’s top, or not'),
  toggle('light', 'lit', 'Preview with light, or evenly bright', 'l'),
  toggle('fly', 'fly', 'Fly through the perspective, or turn about', 'y'),
  toggle('frame169', 'frame169', 'Frame of 16:9 in the perspective', undefined),
  toggle('follow', 'follow', 'The perspective follows what is selected, or not'),
  toggle('figure', 'figure', 'Player figure at the pointer', 'm'),
  {
    id: 'look',
    label: 'As the game shows it, or the working view',
    group: 'View',
    keys: 'v',
    run: ({ view, dispatch }) => void dispatch(viewChanged({ look: view.look === 'work' ? 'game' : 'work' })),
  },
  ...(['plan', 'section', 'perspective'] as const).map((pane, i): MapCommand => ({
    id: `maximise-${pane}`,
    label: `The ${pane} alone, or all views`,
    group: 'View',
    keys: `Shift+${i + 1}`,
    run: ({ view, dispatch }) => void dispatch(viewChanged({ maximised: view.maximised === pane ? null : pane })),
  })),
  ...(['properties', 'outline', 'history', 'budget'] as const).map((panel): MapCommand => ({
    id: `panel-${panel}`,
    label: `Show the ${panel}`,
    group: 'View',
    keys: panel === 'outline' ? 'Ctrl+F' : undefined,
    run: ({ dispatch }) => {
      dispatch(viewChanged({ panel }));
      if (panel === 'outline') setTimeout(() => document.getElementById('map-find')?.focus(), 50);
    },
  })),
];

function needSeries({ map, profile, selection }: MapContext): string | null {
  const object = map.objects[selection.objects[0]];
  return object && classOf(profile, object.class)?.series ? null : 'Select an object of a numbered series first.';
}

function needCopy({ selection }: MapContext): string | null {
  return selection.copies.length === 1 ? null : 'Select one copy of a prefab first.';
}

function moveToLayer({ map, selection }: MapContext, name: string): MapEdit {
  const known = Object.keys(map.layers).find((id) => map.layers[id].name === name);
  const layer = known ?? freshId(map.layers, 'l');
  const changes: Change[] = known ? [] : [{ of: 'layers', id: layer, to: { name } }];
  for (const id of selection.solids) changes.push({ of: 'solids', id, to: { ...map.solids[id], layer } });
  for (const id of selection.objects) changes.push({ of: 'objects', id, to: { ...map.objects[id], layer } });
  return { name: `move to layer ${name}`, changes };
}

function triggerFromSolid({ map, profile, selection }: MapContext, classId: string): Made {
  const [id] = selection.solids;
  const solid = map.solids[id];
  const box = membersBox(map, profile, { ...emptySelection, solids: [id] })!;
  const objectId = freshId(map.objects, 'o');
  const taken = new Set(Object.values(map.objects).map((o) => o.name));
  let name = classId;
  for (let n = 2; taken.has(name); n++) name = `${classId}_${n}`;
  const definition = classOf(profile, classId)!;
  const properties = Object.fromEntries(definition.properties.map((p) => [p.id, p.id === 'size' ? boxSize(box) : p.default]));
  const position: Vec3 = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, box.min[2]];
  return {
    edit: {
      name: `trigger of ${id}`,
      changes: [
        { of: 'solids', id, to: null },
        { of: 'objects', id: objectId, to: { class: classId, name, position, turn: 0, properties, shape: { faces: solid.faces } } },
      ],
    },
    selection: chosen({ kind: 'objects', ids: [objectId] }),
  };
}

/** Runs a command where it can be; the answer is a sentence for the user where it could not. */
export function runMapCommand(id: string, context: MapContext | null, answers: Record<string, number | string> = {}): string | null {
  const command = MAP_COMMANDS.find((c) => c.id === id);
  if (!command || !context) return null;
  const blocked = command.blocked?.(context);
  if (blocked) return blocked;
  return command.run(context, answers) ?? null;
}

/** `Ctrl+Shift+Z` of a key press, as commands name theirs. */
export function keyName(event: KeyboardEvent): string {
  const key =
    event.code === 'Comma' ? ',' : event.code === 'Period' ? '.' : /^Digit\d$/.test(event.code) && event.shiftKey ? event.code.slice(5) : event.key;
  const name = key.length === 1 ? (event.shiftKey || event.ctrlKey || event.metaKey ? key.toUpperCase() : key.toLowerCase()) : key;
  return `${event.ctrlKey || event.metaKey ? 'Ctrl+' : ''}${event.altKey ? 'Alt+' : ''}${event.shiftKey ? 'Shift+' : ''}${name}`;
}
