/** What is selected, and what is done to it as a whole. */

import { deleteMembers, KINDS } from '@violet-crate/core/document/members';
import { freshId } from '@violet-crate/core/document/edit';
import { inLayer, solidsWithMaterial } from '@violet-crate/core/map/member/find';
import { duplicate } from '../editing/edits.ts';
import { edited, redone, undone } from '../../state/mapSlice.ts';
import { type MapCommand, apply, applyMade, needAny } from './command.ts';
import { isShown, selected, viewChanged, type Mode } from '../../state/viewSlice.ts';

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

export const SELECT_COMMANDS: readonly MapCommand[] = [
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
      dispatch(edited(deleteMembers(map, selection)));
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
    run: (c) => applyMade(c, duplicate(c.map, c.profile, c.selection, [c.view.grid, c.view.grid, 0])),
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
];
