import { numberOf, type Part } from './part.ts';

/** `broken`: whether it is in pieces and no longer in the way. */
export const breakable: Part<{ broken: boolean }> = {
  id: 'breakable',
  says: 'breaks when something hits it with a momentum of `strength`, or by a signal; then it is in nobody’s way',
  reads: ['strength', 'size', 'material', 'model'],
  collides: () => true,
  begin: () => ({ broken: false }),
  actions: {
    break: ({ item, state, host }) => {
      if (state.broken) return;
      state.broken = true;
      host.emit(item, 'broken');
    },
    mend: ({ state }) => void (state.broken = false),
  },
  live: ({ broken }) => ({ broken: broken ? 1 : 0 }),
  gone: ({ state }) => state.broken,
  observe({ item, state, host }) {
    if (!state.broken && host.struck(item) >= Math.max(1e-6, numberOf(item.properties.strength))) host.act(item, 'break');
  },
};
