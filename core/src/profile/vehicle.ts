/** What a game's vehicles can do, as far as maps have to know. */

import { numberOf } from '../part/part.ts';
import { hasPart } from './parts.ts';
import type { Profile } from './schema.ts';

/** Steepest ground that a vehicle of the game gets up, degrees; null where the game has none, or none says so. */
export function steepestFor(profile: Profile): number | null {
  const climbs = profile.classes.flatMap(({ id, properties }) => {
    if (!hasPart(profile, id, 'vehicle')) return [];
    const climb = properties.find((property) => property.id === 'climb');
    return climb ? [numberOf(climb.default as number)] : [];
  });
  return climbs.length > 0 ? Math.max(...climbs) : null;
}
