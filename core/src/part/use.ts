import type { Part } from './part.ts';

export const use: Part = {
  id: 'use',
  says: 'can be operated by a player in reach: fires the class’s `useEvent`',
  reads: [],
  placing: 'floor',
  objective: 'operate',
};
