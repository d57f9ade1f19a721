import { round } from './format.ts';
import { preferredHere } from '../state/preferencesSlice.ts';
import { useAppSelector } from '../state/store.ts';

/**
 * The unit that a value is shown and typed in: that of the profile, or metres where it is a length and the user prefers
 * them. What is kept is always in units of the game.
 *
 * @param unit as the profile writes it: "notches", "notches/s"
 * @returns `factor` from what is kept to what is shown
 */
export function useShownUnit(unit: string | undefined): { unit: string | undefined; factor: number; scaled<T extends number | undefined>(v: T): T } {
  const metres = useAppSelector((s) => preferredHere(s).lengths === 'metres');
  const game = useAppSelector((s) => s.crate.profile?.unit);
  const rest = game && unit?.startsWith(game.plural) ? unit.slice(game.plural.length) : null;
  const isLength = metres && game !== undefined && (rest === '' || rest?.startsWith('/'));
  const factor = isLength ? game.metres : 1;
  return { unit: isLength ? `m${rest}` : unit, factor, scaled: (v) => (v === undefined ? v : v * factor) as typeof v };
}

/** How a length is written: in units of the game, or in metres where the user prefers that. */
export function useLengthWords(): (value: number) => string {
  const game = useAppSelector((s) => s.crate.profile?.unit.plural);
  const { factor, unit } = useShownUnit(game);
  return (value) => (unit === game ? String(value) : `${round(value * factor, 3)} m`);
}
