/** The tools that are worked with the pointer. */

import { type MapCommand } from './command.ts';
import { viewChanged, type Tool } from '../../state/viewSlice.ts';

const tool = (id: Tool, keys: string, label: string): MapCommand => ({
  id: `tool-${id}`,
  label,
  group: 'Tools',
  keys,
  run: ({ dispatch }) => void dispatch(viewChanged({ tool: id, measure: [], pathDraft: [], picking: null })),
});

export const TOOL_COMMANDS: readonly MapCommand[] = [
  tool('select', '1', 'Select and move'),
  tool('room', '2', 'Draw a room'),
  tool('solid', '3', 'Draw a solid'),
  tool('place', '4', 'Place an object'),
  tool('section', '5', 'Draw the section line'),
  tool('cut', '7', 'Cut solids along a line'),
  tool('path', '8', 'Draw a path'),
  tool('measure', '9', 'Measure, and see what the player can do'),
];
