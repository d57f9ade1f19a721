import type { Part } from './part.ts';

export const model: Part = {
  id: 'model',
  says: 'is shown as a model, and stops players where it is `solid`',
  reads: ['model', 'solid', 'movable'],
  modelIn: 'model',
  collides: (properties) => properties.solid === true,
  movesFreely: (properties) => properties.movable === true,
};
