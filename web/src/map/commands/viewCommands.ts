/** What is shown and how; what goes out to other programs. */

import { membersBox } from '@violet-crate/core/map/member/members';
import { KINDS } from '@violet-crate/core/document/members';
import { layoutChanged } from '../../state/layoutSlice.ts';
import { partsOf } from '@violet-crate/core/profile/parts';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import { type MapCommand, type MapContext, keysOf, needAny, toggle } from './command.ts';
import { selected, shown, viewChanged } from '../../state/viewSlice.ts';
import { gridSizes } from '../editing/gridSizes.ts';

/** A filter by kind: hides all objects of it, or shows them again where all are hidden. */
const hideAll = (what: string, is: (context: MapContext, id: string) => boolean): MapCommand => ({
  id: `hide-${what}`,
  label: `Hide all ${what}, or show them again`,
  group: 'View',
  run: (c) => {
    const keys = Object.keys(c.map.objects)
      .filter((id) => is(c, id))
      .map((id) => `objects/${id}`);
    if (keys.length === 0) return `The map has no ${what}.`;
    const rest = Object.fromEntries(Object.entries(c.view.hidden).filter(([key]) => !keys.includes(key)));
    const allHidden = keys.every((key) => c.view.hidden[key]);
    c.dispatch(viewChanged({ hidden: allHidden ? rest : { ...rest, ...Object.fromEntries(keys.map((key) => [key, true as const])) } }));
  },
});

export const VIEW_COMMANDS: readonly MapCommand[] = [
  toggle('map-library', 'shelf', 'Library beside the plan', '6'),
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
  hideAll('lights', (c, id) => partsOf(c.profile, c.map.objects[id].class).some((part) => part.shine)),
  hideAll('volumes', (c, id) => partsOf(c.profile, c.map.objects[id].class).some((part) => part.takesForm)),
  hideAll('props', (c, id) => partsOf(c.profile, c.map.objects[id].class).some((part) => part.modelIn)),
  hideAll('objects', () => true),
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
  ...(
    [
      ['finer', -1, 'Alt+,'],
      ['coarser', 1, 'Alt+.'],
    ] as const
  ).map(([id, step, keys]): MapCommand => ({
    id: `grid-${id}`,
    label: `A ${id} grid`,
    group: 'View',
    keys,
    run: ({ view, profile, dispatch }) => {
      const sizes = gridSizes(profile.grid.min, profile.grid.max);
      const grid = sizes[sizes.indexOf(view.grid) + step];
      if (grid === undefined) return `There is no ${id} grid.`;
      dispatch(viewChanged({ grid }));
    },
  })),
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
  {
    id: 'swap-perspective',
    label: 'Swap the perspective with the plan',
    group: 'View',
    keys: 'o',
    run: ({ state, dispatch }) => void dispatch(layoutChanged({ swapped: !state.layout.swapped })),
  },
  {
    id: 'fold-inspector',
    label: 'Fold the inspector away, or show it',
    group: 'View',
    keys: 'b',
    run: ({ state, dispatch }) => void dispatch(layoutChanged({ folded: !state.layout.folded })),
  },
  ...(['properties', 'outline', 'history', 'budget'] as const).map((panel): MapCommand => ({
    id: `panel-${panel}`,
    label: `Show the ${panel}`,
    group: 'View',
    keys: panel === 'outline' ? 'Ctrl+F' : undefined,
    run: ({ dispatch }) => {
      dispatch(layoutChanged({ folded: false }));
      dispatch(viewChanged({ panel }));
      if (panel === 'outline') setTimeout(() => document.getElementById('map-find')?.focus(), 50);
    },
  })),
];
