import type { Part } from './part.ts';

export const text: Part = {
  id: 'text',
  says: 'is read out when operated',
  reads: ['text'],
  used: ({ item, host }) => host.say(String(item.properties.text ?? '')),
};
