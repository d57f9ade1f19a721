import type { Part } from './part.ts';

/** `open`: whether it passes anything on. */
export const relay: Part<{ open: boolean }> = {
  id: 'relay',
  says: 'passes a signal on as its own event while it is `open`',
  reads: ['open'],
  floats: true,
  hollow: true,
  carriesNothing: true,
  waitsFor: { actions: ['pass'] },
  begin: ({ open }) => ({ open: open !== false }),
  actions: {
    pass: ({ item, state, host }) => void (state.open && host.emit(item, 'passed')),
    open: ({ state }) => void (state.open = true),
    close: ({ state }) => void (state.open = false),
  },
  live: ({ open }) => ({ open: open ? 1 : 0 }),
};
