import type { Profile } from '@violet-crate/core/profile/schema';
import { round } from '../../common/format.ts';
import { useAppSelector } from '../../state/store.ts';

/** How a length under the pointer is written: snapped, in units of the game, or in metres where the user prefers that. */
export function useLengthWords(profile: Profile, snap: (value: number) => number): (value: number) => string {
  const metres = useAppSelector((s) => s.preferences.values.lengths === 'metres');
  return (value) => (metres ? `${round(snap(value) * profile.unit.metres, 3)} m` : String(snap(value)));
}
