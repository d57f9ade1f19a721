import { vectorOf } from '../document/value.ts';
import type { Part } from './part.ts';

export const current: Part = {
  id: 'current',
  says: 'beside `water`: carries along whoever swims and what floats, by `flow`',
  reads: ['flow'],
  floats: true,
  hollow: true,
  flow: ({ item }) => vectorOf(item.properties.flow) ?? [0, 0, 0],
};
