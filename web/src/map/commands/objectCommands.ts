/** Objects, series and layers. */

import { freshId, type Change, type MapEdit } from '@violet-crate/core/document/edit';
import { sunByDate, sunsIn } from '@violet-crate/core/map/sunByDate';
import { addNext, renumber, seriesOf } from '@violet-crate/core/map/series';
import { dropToSurface } from '@violet-crate/core/check/checkStand';
import { classOf } from '@violet-crate/core/profile/schema';
import { message } from '../../api/http.ts';
import { selectWorld } from '../../state/world.ts';
import { replaceSolids } from '../editing/edits.ts';
import { edited } from '../../state/mapSlice.ts';
import { type MapCommand, type MapContext, apply, applyMade, needAny } from './command.ts';
import { chosen, selected, viewChanged } from '../../state/viewSlice.ts';

function needSeries({ map, profile, selection }: MapContext): string | null {
  const object = map.objects[selection.objects[0]];
  return object && classOf(profile, object.class)?.series ? null : 'Select an object of a numbered series first.';
}

function moveToLayer({ map, selection }: MapContext, name: string): MapEdit {
  const known = Object.keys(map.layers).find((id) => map.layers[id].name === name);
  const layer = known ?? freshId(map.layers, 'l');
  const changes: Change[] = known ? [] : [{ of: 'layers', id: layer, to: { name } }];
  for (const id of selection.solids) changes.push({ of: 'solids', id, to: { ...map.solids[id], layer } });
  for (const id of selection.objects) changes.push({ of: 'objects', id, to: { ...map.objects[id], layer } });
  return { name: `move to layer ${name}`, changes };
}

/** Tells why what was begun did not come to its end: a file that is gone, a server that is away. */
const said =
  ({ dispatch }: MapContext) =>
  (error: unknown) =>
    void dispatch(viewChanged({ refusal: message(error) }));

export const OBJECT_COMMANDS: readonly MapCommand[] = [
  {
    id: 'zones',
    label: 'Sheet of all zones …',
    group: 'Objects',
    icon: 'signpost-split',
    run: ({ dispatch }) => void dispatch(viewChanged({ sheet: 'zones' })),
  },
  {
    id: 'map-picture',
    label: 'Picture of the map …',
    group: 'Objects',
    icon: 'map',
    run: ({ dispatch }) => void dispatch(viewChanged({ sheet: 'picture' })),
  },
  {
    id: 'drop',
    label: 'Drop to the surface',
    group: 'Objects',
    keys: 'j',
    blocked: ({ selection }) => (selection.objects.length > 0 ? null : 'Select an object first.'),
    run: (c) => {
      const world = selectWorld(c.state);
      return world ? apply(c, dropToSurface(world, c.map, c.selection.objects), 'They stand on their surface.') : 'The crate is still loading.';
    },
  },
  {
    id: 'settle',
    label: 'Let movable props settle',
    group: 'Objects',
    blocked: ({ selection }) => (selection.objects.length > 0 ? null : 'Select the props first.'),
    run: (c) => {
      const world = selectWorld(c.state);
      if (!world) return 'The crate is still loading.';
      c.dispatch(viewChanged({ refusal: 'They are falling …' }));
      import('@violet-crate/core/physics/settle')
        .then(({ settleProps }) => settleProps(world, c.map, c.selection.objects))
        .then((edit) => {
          c.dispatch(viewChanged({ refusal: typeof edit === 'string' ? edit : '' }));
          if (typeof edit !== 'string') c.dispatch(edited(edit));
        })
        .catch(said(c));
      return 'They are falling …';
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
      // Loaded when it is asked for: it brings three.js along, and commands are known on every page.
      const parts = import('../editing/convexParts.ts').then(({ convexParts }) =>
        convexParts(c.state, String(object.properties.model), object, c.view.material || c.profile.defaultMaterial),
      );
      parts
        .then((solids) => {
          if (solids.length === 0)
            return void c.dispatch(viewChanged({ refusal: 'The model has no convex parts for collision. Convert it with a hull or parts first.' }));
          const made = replaceSolids(c.map, [], solids, `parts of ${object.name} as solids`);
          c.dispatch(edited({ ...made.edit, changes: [...made.edit.changes, { of: 'objects', id, to: null }] }));
          c.dispatch(selected(made.selection));
        })
        .catch(said(c));
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
    id: 'sun-by-date',
    label: 'Put the sun where it stands by latitude, day and hour …',
    group: 'Objects',
    blocked: ({ map, profile }) => (sunsIn(profile, map).length === 0 ? 'The map has no sun: place one first.' : null),
    asks: () => [
      { id: 'latitude', label: 'Latitude, south below 0', value: 50, unit: '°' },
      { id: 'day', label: 'Day', value: '2024-06-20' },
      { id: 'hour', label: 'Hour, by the sun', value: 10 },
    ],
    run: (c, { latitude, day, hour }) => {
      const edit = sunByDate(c.map, sunsIn(c.profile, c.map), Number(latitude), String(day), Number(hour));
      return typeof edit === 'string' ? edit : apply(c, edit);
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
];
