/** From which slope on ground is called what, by what the game's player and vehicles can do. */

import { slopeOf } from '@violet-crate/core/profile/player';
import { steepestFor } from '@violet-crate/core/profile/vehicle';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Profile } from '@violet-crate/core/profile/schema';
import { aspectOfGradient } from '@violet-crate/core/terrain/relief';
import type { SlopeWord } from '@violet-crate/core/terrain/picture';

export function slopeWords(profile: Profile): SlopeWord[] {
  const walks = slopeOf(profile.player);
  const rides = steepestFor(profile);
  const words: SlopeWord[] = [
    { from: 0, word: 'level', colour: [66, 96, 92] },
    { from: 5, word: 'gentle', colour: [104, 132, 96] },
    { from: 15, word: 'steep', colour: [196, 170, 92] },
  ];
  if (rides !== null) words.push({ from: rides, word: 'too steep to ride up', colour: [206, 120, 74] });
  words.push({ from: walks, word: 'too steep to walk', colour: [158, 62, 82] });
  return words.sort((a, b) => a.from - b.from);
}

export const slopeWordAt = (words: readonly SlopeWord[], slope: number): string => [...words].reverse().find(({ from }) => slope >= from)?.word ?? '';

const WINDS = ['E', 'NE', 'N', 'NW', 'W', 'SW', 'S', 'SE'];

/** Where ground with this normal falls to, north being +y; empty where it is level. */
export function fallsTo([x, y, z]: Vec3): string {
  const aspect = aspectOfGradient([-x / z, -y / z]);
  return aspect === null ? '' : WINDS[Math.round(aspect / 45) % 8];
}
