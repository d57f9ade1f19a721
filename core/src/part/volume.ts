import type { Part } from './part.ts';

export const volume: Part<{ inside: boolean }> = {
  id: 'volume',
  says: 'a space that fires `entered` and `left`: for players, for things that move, or for both (`senses`)',
  reads: ['size', 'senses'],
  floats: true,
  hollow: true,
  carriesNothing: true,
  upright: true,
  takesForm: true,
  objective: 'enter',
  begin: () => ({ inside: false }),
  observe({ item, state, host }) {
    const { senses } = item.properties;
    const space = host.extent(item);
    const player = senses !== 'things' && host.playerIn(item, space);
    const inside = player || ((senses === 'things' || senses === 'both') && host.thingsIn(item, space) > 0);
    if (inside === state.inside) return;
    state.inside = inside;
    host.emit(item, inside ? 'entered' : 'left');
    if (player) host.entered(item);
  },
};
