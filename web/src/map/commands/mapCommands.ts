/** All that can be done to a map by name, in the order in which the palette lists it. */

import type { MapCommand, MapContext } from './command.ts';
import { MOVE_COMMANDS } from './moveCommands.ts';
import { OBJECT_COMMANDS } from './objectCommands.ts';
import { PREFAB_COMMANDS } from './prefabCommands.ts';
import { SELECT_COMMANDS } from './selectCommands.ts';
import { SOLID_COMMANDS } from './solidCommands.ts';
import { TOOL_COMMANDS } from './toolCommands.ts';
import { VIEW_COMMANDS } from './viewCommands.ts';

export { commandKeys, mapContext, type Ask, type MapCommand } from './command.ts';

export const MAP_COMMANDS: readonly MapCommand[] = [
  ...TOOL_COMMANDS,
  ...SELECT_COMMANDS,
  ...MOVE_COMMANDS,
  ...SOLID_COMMANDS,
  ...OBJECT_COMMANDS,
  ...PREFAB_COMMANDS,
  ...VIEW_COMMANDS,
];

export function runMapCommand(id: string, context: MapContext | null, answers: Record<string, number | string> = {}): string | null {
  const command = MAP_COMMANDS.find((c) => c.id === id);
  if (!command || !context) return null;
  const blocked = command.blocked?.(context);
  if (blocked) return blocked;
  return command.run(context, answers) ?? null;
}

export function keyName(event: KeyboardEvent): string {
  const key =
    event.code === 'Comma' ? ',' : event.code === 'Period' ? '.' : /^Digit\d$/.test(event.code) && event.shiftKey ? event.code.slice(5) : event.key;
  const name = key.length === 1 ? (event.shiftKey || event.ctrlKey || event.metaKey ? key.toUpperCase() : key.toLowerCase()) : key;
  return `${event.ctrlKey || event.metaKey ? 'Ctrl+' : ''}${event.altKey ? 'Alt+' : ''}${event.shiftKey ? 'Shift+' : ''}${name}`;
}
