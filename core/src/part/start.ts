import type { Part } from './part.ts';

export const start: Part = { id: 'start', says: 'where a player begins', reads: [], start: true, puts: true, floats: true, placing: 'clear' };
