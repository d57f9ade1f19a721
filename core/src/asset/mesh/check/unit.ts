import type { Profile } from '../../../profile/schema.ts';
import { SMALL } from './check.ts';
import { LENGTH_UNITS, type ModelOptions } from '../model/options.ts';

export interface ResolvedUnit {
  unit: string;
  upAxis: 'y' | 'z';
  metres: number;
  /** Why this unit was taken, where it was guessed against the profile's. */
  guess?: string;
}

export const metresOf = (profile: Profile, unit: string): number | undefined => (unit === 'game' ? profile.unit.metres : LENGTH_UNITS[unit]);

const NAMES: Record<string, string> = { m: 'metres', cm: 'centimetres', mm: 'millimetres', in: 'inches', ft: 'feet' };
export const unitName = (profile: Profile, unit: string): string => NAMES[unit] ?? profile.unit.plural;

/** A metric unit that brings the model within this factor of the player's height needs no rarer one. */
const RARE = 6;

/**
 * Resolves "auto". What the file states wins; else the profile's unit, unless a model of that size would be
 * out of all proportion to the player: then the unit under which its largest side comes nearest to the
 * player's height (by ratio) is taken, metric ones first.
 *
 * @param largest side of the bounding box in the file's own numbers
 */
export function resolveUnit(
  profile: Profile,
  options: Pick<ModelOptions, 'unit' | 'upAxis'>,
  stated: { metres?: number; upAxis?: 'y' | 'z' } | undefined,
  largest: number,
): ResolvedUnit {
  const upAxis = options.upAxis !== 'auto' ? options.upAxis : (stated?.upAxis ?? profile.models.upAxis);
  if (options.unit !== 'auto') return { unit: options.unit, upAxis, metres: metresOf(profile, options.unit)! };
  if (stated?.metres) {
    const same = Object.keys(LENGTH_UNITS).find((unit) => Math.abs(LENGTH_UNITS[unit] / stated.metres! - 1) < 1e-6);
    // A file may state any scale at all; "auto" then stays, so that it is read again each time.
    return { unit: same ?? 'auto', upAxis, metres: stated.metres };
  }
  const own = profile.models.unit;
  const player = profile.player.height * profile.unit.metres;
  const size = (unit: string) => largest * metresOf(profile, unit)!;
  const plausible = (unit: string) => size(unit) <= profile.models.maxSize * profile.unit.metres && size(unit) >= player / SMALL;
  if (largest === 0 || plausible(own)) return { unit: own, upAxis, metres: metresOf(profile, own)! };
  const away = (unit: string) => Math.abs(Math.log(size(unit) / player));
  const nearest = (units: string[]) => units.sort((a, b) => away(a) - away(b))[0];
  // Inches and feet are rare outside the trades that use them, so they have to fit much better than metric units.
  const metric = nearest(['m', 'cm', 'mm', 'game']);
  const best = away(metric) < Math.log(RARE) ? metric : nearest([...Object.keys(LENGTH_UNITS), 'game']);
  const long = (unit: string) => `${Number(size(unit).toPrecision(2))} m`;
  return {
    unit: best,
    upAxis,
    metres: metresOf(profile, best)!,
    guess: `in ${unitName(profile, own)} it would be ${long(own)} large, in ${unitName(profile, best)} it is ${long(best)} beside a player of ${Number(player.toPrecision(2))} m`,
  };
}
