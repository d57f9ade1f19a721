import type { Part } from './part.ts';

export const sound: Part = {
  id: 'sound',
  says: 'plays a sound',
  reads: ['sound', 'volume'],
  floats: true,
  actions: { play: ({ item, host }) => host.play(String(item.properties.sound ?? ''), Number(item.properties.volume ?? 1)) },
};
