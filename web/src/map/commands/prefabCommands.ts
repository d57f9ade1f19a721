/** Prefabs and their copies. */

import { membersBox } from '@violet-crate/core/map/member/members';
import { deletePrefab, makeIndependent, makePrefab } from '@violet-crate/core/map/prefab';
import { snap } from '@violet-crate/core/math/vec3';
import { edited, prefabOpened } from '../../state/mapSlice.ts';
import { selected } from '../../state/viewSlice.ts';
import { type MapCommand, type MapContext } from './command.ts';

function needCopy({ selection }: MapContext): string | null {
  return selection.copies.length === 1 ? null : 'Select one copy of a prefab first.';
}

const needPrefab = ({ map }: MapContext): string | null =>
  Object.keys(map.prefabs).length > 0 ? null : 'The map has no prefabs of its own: select something and make one.';

const NAME_RULE = 'A prefab’s name begins with a letter: names inside its copies begin with it.';

/** A name in small letters, digits and underscores; null where nothing of that is left. */
function prefabName(typed: number | string): string | null {
  const word = String(typed)
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '');
  return /^[a-z]/.test(word) ? word : null;
}

const named = ({ map }: MapContext, name: number | string): string | undefined =>
  Object.keys(map.prefabs).find((id) => map.prefabs[id].name === name);

/** The prefabs of the map as a choice, that of the selected copy first. */
function askWhich({ map, selection }: MapContext) {
  const choices = Object.values(map.prefabs).map((p) => p.name);
  const own = map.prefabs[map.copies[selection.copies[0]]?.prefab]?.name;
  return { id: 'which', label: 'Prefab', value: own ?? choices[0], choices };
}

export const PREFAB_COMMANDS: readonly MapCommand[] = [
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
      const word = prefabName(name);
      if (!word) return NAME_RULE;
      const made = makePrefab(c.map, c.profile, word, c.selection, origin);
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
  {
    id: 'rename-prefab',
    label: 'Rename a prefab …',
    group: 'Prefabs',
    blocked: needPrefab,
    asks: (c) => [askWhich(c), { id: 'name', label: 'New name', value: askWhich(c).value }],
    run: (c, { which, name }) => {
      const word = prefabName(name);
      if (!word) return NAME_RULE;
      const id = named(c, which)!;
      if (word === which) return 'That is its name already.';
      if (named(c, word)) return `There is a prefab ${word} already.`;
      c.dispatch(edited({ name: `rename prefab ${which}`, changes: [{ of: 'prefabs', id, to: { ...c.map.prefabs[id], name: word } }] }));
    },
  },
  {
    id: 'delete-prefab',
    label: 'Delete a prefab and its copies …',
    group: 'Prefabs',
    blocked: needPrefab,
    asks: (c) => [askWhich(c)],
    run: (c, { which }) => {
      const edit = deletePrefab(c.map, named(c, which)!);
      if (typeof edit === 'string') return edit;
      c.dispatch(edited(edit));
    },
  },
];
