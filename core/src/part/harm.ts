import { numberOf, type Part } from './part.ts';

/** `armed`: whether it hurts. */
export const harm: Part<{ armed: boolean }> = {
  id: 'harm',
  says: 'beside `volume`: costs a player in it so much health a second while it is `armed`',
  reads: ['size', 'harm', 'armed'],
  floats: true,
  hollow: true,
  begin: ({ armed }) => ({ armed: armed !== false }),
  actions: {
    arm: ({ state }) => void (state.armed = true),
    disarm: ({ state }) => void (state.armed = false),
  },
  live: ({ armed }) => ({ armed: armed ? 1 : 0 }),
  observe({ item, state, host }) {
    if (state.armed && host.playerIn(item, host.extent(item))) host.hurt(item, numberOf(item.properties.harm) * host.step);
  },
};
