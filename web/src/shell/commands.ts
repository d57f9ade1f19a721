/** Everything that the command palette offers and shortcuts call. */

import type { NavigateFunction } from 'react-router';
import { STAGES } from '@violet-crate/core/finding';
import { sendJson } from '../api/http.ts';
import { keyWords } from '../map/commands/CommandMenu.tsx';
import { MAP_COMMANDS } from '../map/commands/mapCommands.ts';
import { startMapCommand } from '../map/commands/startMapCommand.ts';
import { switchTheme } from '../state/preferencesSlice.ts';
import { store, type RootState } from '../state/store.ts';
import { STAGE_NAMES } from './ManifestRail.tsx';

export interface AppCommand {
  id: string;
  label: string;
  group: string;
  keys?: string;
  run(): void;
}

export function appCommands(navigate: NavigateFunction, getState: () => RootState): AppCommand[] {
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
  const mapCommands = MAP_COMMANDS.map((command): AppCommand => ({
    id: command.id,
    label: command.label,
    group: `Map: ${command.group.toLowerCase()}`,
    keys: keyWords(command, getState().preferences.keys),
    run: () => {
      to('map');
      startMapCommand(command.id);
    },
  }));
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
    ...mapCommands,
    build('draft'),
    build('preview'),
    build('final'),
    { id: 'theme', label: 'Switch between dark and light', group: 'Application', run: () => store.dispatch(switchTheme()) },
    { id: 'versions', label: 'Go to Versions', group: 'Go', run: () => to('versions') },
    { id: 'data', label: 'Go to Game data', group: 'Go', run: () => to('data') },
    { id: 'effects', label: 'Go to Effects', group: 'Go', run: () => to('effects') },
    { id: 'banks', label: 'Go to Game banks', group: 'Go', run: () => to('banks') },
    { id: 'links-graph', label: 'Links as a drawing', group: 'Go', run: () => to('links?view=graph') },
    { id: 'links-bytes', label: 'Where the bytes of the package are', group: 'Go', run: () => to('links?view=bytes') },
    { id: 'links-changes', label: 'Changes of the crate as a whole', group: 'Go', run: () => to('links?view=changes') },
    { id: 'publish-check', label: 'Check before publishing', group: 'Go', run: () => to('publish?step=check') },
    { id: 'publish-list', label: 'Releases of this crate', group: 'Go', run: () => to('publish?step=list') },
    { id: 'mods', label: 'Mods of the game', group: 'Go', run: () => void navigate(`/mods/${getState().crate.profile?.id ?? 'brinewick'}`) },
    { id: 'preferences', label: 'Preferences', group: 'Application', run: () => void navigate('/preferences') },
    { id: 'home', label: 'All crates', group: 'Go', run: () => void navigate('/') },
  ];
}
