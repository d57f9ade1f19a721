import { numberOf, type Part } from './part.ts';

export const mood: Part = {
  id: 'mood',
  says: 'lets the map go over into its mood, or the one that the action brings, within its `seconds`',
  reads: ['mood', 'seconds'],
  floats: true,
  carriesNothing: true,
  everywhere: true,
  waitsFor: { actions: ['change'] },
  actions: {
    change({ item, host }, value) {
      const name = value ?? String(item.properties.mood ?? '');
      if (host.mood(name, Math.max(0, numberOf(item.properties.seconds)))) host.emit(item, 'changed');
      else host.say(`There is no mood "${name}" in this map.`);
    },
  },
};
