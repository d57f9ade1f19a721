/** The tools that are worked with the pointer, as commands. */

import { viewChanged } from '../../state/viewSlice.ts';
import { TOOLS } from '../editing/toolList.ts';
import type { MapCommand } from './command.ts';

export const TOOL_COMMANDS: readonly MapCommand[] = TOOLS.map(({ id, key, command }) => ({
  id: `tool-${id}`,
  label: command,
  group: 'Tools',
  keys: key,
  run: ({ dispatch }) => void dispatch(viewChanged({ tool: id, measure: [], pathDraft: [], overlayDraft: [], picking: null })),
}));
