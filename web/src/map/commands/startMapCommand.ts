import { store } from '../../state/store.ts';
import { asked } from '../../state/askingSlice.ts';
import { MAP_COMMANDS, mapContext, runMapCommand } from './mapCommands.ts';
import { viewChanged } from '../../state/viewSlice.ts';

/** Runs a command of the map by its id: asks first where it needs numbers, and says where it cannot be. */
export function startMapCommand(id: string): void {
  const context = mapContext(store.getState(), store.dispatch);
  const command = MAP_COMMANDS.find((c) => c.id === id);
  if (!command || !context) return;
  const blocked = command.blocked?.(context);
  if (blocked) store.dispatch(viewChanged({ refusal: blocked }));
  else if (command.asks) store.dispatch(asked(id));
  else store.dispatch(viewChanged({ refusal: runMapCommand(id, context) ?? '' }));
}
