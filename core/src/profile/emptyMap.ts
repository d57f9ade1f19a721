import { completeMap, type GameMap } from '../document/schema.ts';
import type { Profile } from './schema.ts';

/** A map with nothing in it but its game's band and sky. */
export function emptyMap(profile: Profile): GameMap {
  return completeMap({
    format: 1,
    profile: profile.id,
    settings: { skyColour: profile.lighting.skyColour, skyIntensity: profile.lighting.skyIntensity, trial: [] },
    bands: { b1: { name: 'Ground', bottom: profile.band.bottom, top: profile.band.top } },
    solids: {},
    objects: {},
    signals: {},
  });
}
