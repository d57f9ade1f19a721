import type { MapEdit } from '../document/edit.ts';
import type { GameMap } from '../document/schema.ts';
import { tidy } from '../math/tidy.ts';
import { hasPart } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { dayOf, sunOver } from '../sky/sun.ts';

/** Ids of the objects that are suns. */
export const sunsIn = (profile: Profile, { objects }: Pick<GameMap, 'objects'>): string[] =>
  Object.keys(objects).filter((id) => hasPart(profile, objects[id].class, 'sun'));

/**
 * Puts suns where the sun stands. East is +x, north is +y.
 *
 * @param day YYYY-MM-DD @param hour mean solar time
 * @returns why it cannot be, where it cannot
 */
export function sunByDate(map: GameMap, suns: readonly string[], latitude: number, day: string, hour: number): MapEdit | string {
  const midnight = dayOf(day);
  if (midnight === null) return `"${day}" is no day: write it as 2024-06-20.`;
  if (!(Math.abs(latitude) <= 90)) return 'A latitude lies between -90° and 90°.';
  if (!(hour >= 0 && hour <= 24)) return 'An hour lies between 0 and 24.';
  const { height, azimuth } = sunOver(midnight + hour * 3_600_000, latitude, 0);
  if (height < 1) return `The sun is ${height < 0 ? `${(-height).toFixed(1)}° below` : 'just at'} the horizon then: choose another hour or day.`;
  const round = (v: number) => tidy(Math.round(v * 100) / 100);
  const turn = round((450 - azimuth) % 360);
  return {
    name: 'sun by date',
    changes: suns.map((id) => ({
      of: 'objects',
      id,
      to: { ...map.objects[id], turn, properties: { ...map.objects[id].properties, height: round(height) } },
    })),
  };
}
