import { vectorOf } from '../document/value.ts';
import type { Part } from './part.ts';

/** `running`: whether it moves. */
export const carrier: Part<{ running: boolean }> = {
  id: 'carrier',
  says: 'a block whose surface carries what stands on it along `flow` while it is `running`',
  reads: ['size', 'flow', 'running', 'material'],
  collides: () => true,
  begin: ({ running }) => ({ running: running !== false }),
  actions: {
    start: ({ state }) => void (state.running = true),
    stop: ({ state }) => void (state.running = false),
  },
  live: ({ running }) => ({ running: running ? 1 : 0 }),
  carries: ({ item, state }) => (state.running ? (vectorOf(item.properties.flow) ?? [0, 0, 0]) : [0, 0, 0]),
};
