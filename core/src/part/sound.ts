import { numberOf, type Part } from './part.ts';

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

export const sound: Part = {
  id: 'sound',
  says: 'plays a sound, with its subtitles where it has some',
  reads: ['sound', 'volume', 'subtitles'],
  floats: true,
  actions: {
    play: ({ item, host }) =>
      host.play(text(item.properties.sound), numberOf(item.properties.volume ?? 1), text(item.properties.subtitles), item.object.position),
  },
};
