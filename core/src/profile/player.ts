/** What a profile leaves open about its player. */

import type { Profile } from './schema.ts';

/** Steepest ground that players walk on, degrees (common practice where the profile does not say). */
export const slopeOf = ({ maxSlope = 45 }: Pick<Profile['player'], 'maxSlope'>): number => maxSlope;

/** Kilograms (common practice where the profile does not say). */
export const massOf = ({ mass = 75 }: Pick<Profile['player'], 'mass'>): number => mass;
