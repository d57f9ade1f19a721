/** Everything that the command palette offers and shortcuts call. */

import type { NavigateFunction } from 'react-router';
import { STAGES } from '@violet-crate/core/finding';
import { sendJson } from '../api/http.ts';
import { redone, undone } from '../map/mapSlice.ts';
import { viewChanged, type Tool } from '../map/viewSlice.ts';
import type { AppDispatch, RootState } from '../store.ts';
import { toggleTheme } from '../theme/theme.ts';
import { STAGE_NAMES } from './ManifestRail.tsx';

export interface AppCommand {
  id: string;
  label: string;
  group: string;
  keys?: string;
  run(): void;
}

export const TOOL_KEYS: Record<Tool, [key: string, label: string]> = {
  select: ['1', 'Select and move'],
  room: ['2', 'Draw a room'],
  solid: ['3', 'Draw a solid'],
  place: ['4', 'Place an object'],
  section: ['5', 'Draw the section line'],
};

export function appCommands(dispatch: AppDispatch, navigate: NavigateFunction, getState: () => RootState): AppCommand[] {
  // Read when a command runs: the crate may still be loading when the list is made.
  const crateId = () => getState().crate.view?.id;
  const to = (path: string) => void navigate(crateId() ? `/crates/${crateId()}/${path}` : '/');
  const stages = STAGES.map((stage, i): AppCommand => ({
    id: `go-${stage}`,
    label: `Go to ${STAGE_NAMES[stage]}`,
    group: 'Go',
    keys: `Alt+${i + 1}`,
    run: () => to(stage),
  }));
  const tools = (Object.keys(TOOL_KEYS) as Tool[]).map((tool): AppCommand => ({
    id: `tool-${tool}`,
    label: TOOL_KEYS[tool][1],
    group: 'Map',
    keys: TOOL_KEYS[tool][0],
    run: () => {
      dispatch(viewChanged({ tool }));
      to('map');
    },
  }));
  const shelf: AppCommand = {
    id: 'map-library',
    label: 'Library beside the plan',
    group: 'Map',
    keys: '6',
    run: () => {
      dispatch(viewChanged({ shelf: !getState().view.shelf }));
      to('map');
    },
  };
  const build = (quality: string): AppCommand => ({
    id: `build-${quality}`,
    label: `Build the map, ${quality}`,
    group: 'Build',
    run: () => {
      to('build');
      void sendJson('POST', `/api/crates/${crateId()}/builds`, { map: getState().map.name, quality });
    },
  });
  return [
    ...stages,
    ...tools,
    shelf,
    { id: 'undo', label: 'Undo', group: 'Map', keys: 'Ctrl+Z', run: () => dispatch(undone()) },
    { id: 'redo', label: 'Redo', group: 'Map', keys: 'Ctrl+Shift+Z', run: () => dispatch(redone()) },
    build('draft'),
    build('preview'),
    build('final'),
    { id: 'theme', label: 'Switch between dark and light', group: 'Application', run: toggleTheme },
    { id: 'home', label: 'All crates', group: 'Go', run: () => void navigate('/') },
  ];
}
