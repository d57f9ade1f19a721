/** Those who race: rows of a table that the profile names, with what each makes of its driver and of the vehicle. */

import type { Profile } from '../profile/schema.ts';
import { keyOf, titleOf } from '../table/document.ts';
import { FormulaProblem } from '../table/formula.ts';
import { Tables } from '../table/tables.ts';
import { partsOf } from '../profile/parts.ts';
import type { TrialInputs } from './world.ts';

export interface Rider {
  key: string;
  name: string;
  /** What the speed that a steady driver dares in bends is multiplied by. */
  nerve: number;
  /** Properties of the vehicle that it rides. */
  vehicle: Record<string, number>;
}

/** All riders of a crate, and why one of them cannot ride. */
export function ridersOf(profile: Profile, data: Readonly<Record<string, string>>): { riders: Rider[]; problems: string[] } {
  const { riders: rule } = profile;
  if (!rule) return { riders: [], problems: [] };
  const tables = new Tables(profile.tables ?? [], data);
  const of = tables.get(rule.table);
  const riders: Rider[] = [];
  const problems: string[] = [];
  for (const row of of?.document.rows ?? [])
    try {
      const worth = (formula: string) => tables.worth(of!.table, row, formula);
      riders.push({
        key: keyOf(of!.table, row),
        name: titleOf(of!.table, row),
        nerve: Math.max(0.3, Math.min(2, worth(rule.nerve))),
        vehicle: Object.fromEntries(Object.entries(rule.vehicle).map(([property, formula]) => [property, worth(formula)])),
      });
    } catch (error) {
      if (!(error instanceof FormulaProblem)) throw error;
      problems.push(`${titleOf(of!.table, row)} cannot ride: ${error.message}.`);
    }
  return { riders, problems };
}

/** A run in which somebody rides: the vehicle that is manned from the start becomes theirs. */
export function withRider(inputs: TrialInputs, { vehicle }: Rider): TrialInputs {
  const objects = Object.fromEntries(
    Object.entries(inputs.map.objects).map(([id, object]) => {
      const ridden = object.properties.ridden === true && partsOf(inputs.profile, object.class).some((part) => part.id === 'vehicle');
      return [id, ridden ? { ...object, properties: { ...object.properties, ...vehicle } } : object];
    }),
  );
  return { ...inputs, map: { ...inputs.map, objects } };
}
