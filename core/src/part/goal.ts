import type { Part } from './part.ts';

export const goal: Part = {
  id: 'goal',
  says: '`complete` ends the run as won; so does walking into it where it has a space',
  reads: ['text'],
  floats: true,
  actions: {
    complete({ item, host }, value) {
      host.emit(item, 'completed');
      host.win(value ?? String(item.properties.text ?? ''));
    },
  },
  entered({ item, host }) {
    if (host.mayFinish(item)) host.act(item, 'complete');
  },
};
