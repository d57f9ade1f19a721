import type { Part } from './part.ts';

/** `taken`: whether the player has it; `ready`: whether it has what it needs, too. */
export const item: Part<{ taken: boolean; ready: boolean }> = {
  id: 'item',
  says: 'is taken by whoever operates it; `ready` once what it `needs` is taken, too',
  reads: ['needs'],
  placing: 'floor',
  objective: 'operate',
  needs: {
    needs: {
      code: 'item-useless',
      lacks: 'is of no use without another thing, and names none',
      hint: 'Place what it needs and pick it in “Needs”.',
    },
  },
  begin: () => ({ taken: false, ready: false }),
  actions: {
    restore: ({ state }) => void Object.assign(state, { taken: false, ready: false }),
  },
  live: ({ taken, ready }) => ({ taken: taken ? 1 : 0, ready: ready ? 1 : 0 }),
  gone: ({ state }) => state.taken,
  used: ({ state }) => void (state.taken = true),
  observe({ item, state, host }) {
    const { needs } = item.properties;
    if (!state.taken || state.ready || (typeof needs === 'string' && needs !== '' && host.liveOf(needs, 'taken') !== 1)) return;
    state.ready = true;
    host.emit(item, 'ready');
  },
};
