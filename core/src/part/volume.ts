import type { Part } from './part.ts';

export const volume: Part<{ inside: boolean }> = {
  id: 'volume',
  says: 'a space that fires `entered` and `left`',
  reads: ['size'],
  floats: true,
  hollow: true,
  carriesNothing: true,
  upright: true,
  takesForm: true,
  objective: 'enter',
  begin: () => ({ inside: false }),
  observe({ item, state, host }) {
    const inside = host.playerIn(item, host.extent(item));
    if (inside === state.inside) return;
    state.inside = inside;
    host.emit(item, inside ? 'entered' : 'left');
    if (inside) host.entered(item);
  },
};
