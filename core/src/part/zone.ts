import type { Part } from './part.ts';

/** Typed uses of zones stand in the profile (`zoneUses`); what a boundary does to a race stands in `trial/race.ts`. */
export const zone: Part = {
  id: 'zone',
  says: 'a space with a direction, an id, an icon and a use: where things leave it, and what the game does with it',
  reads: ['use', 'code', 'label', 'icon', 'partner'],
  floats: true,
  hollow: true,
  carriesNothing: true,
};
