import type { Part } from './part.ts';

/** What it does while it is ridden stands in `trial/vehicles.ts`: it moves with who rides it, over everything that stands still. */
export const vehicle: Part = {
  id: 'vehicle',
  says: 'is ridden: slides on runners, steers, brakes, is pulled by a kite; `ridden` says that the player begins in it, `rider` who else does',
  reads: ['mass', 'glide', 'edge', 'steer', 'brake', 'drag', 'kite', 'climb', 'toughness', 'seat', 'ridden', 'rider'],
  objective: 'operate',
};
