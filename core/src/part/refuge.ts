import type { Part } from './part.ts';

export const refuge: Part = {
  id: 'refuge',
  says: 'where a player comes back to after a fall or without health, once it was reached: by walking into it beside `volume`, or by `claim`',
  reads: [],
  puts: true,
  floats: true,
  hollow: true,
  carriesNothing: true,
  placing: 'clear',
  actions: { claim: ({ item, host }) => host.claim(item) },
  entered: ({ item, host }) => host.claim(item),
};
