/** The lights of a map and how far they reach. */

import { boxCentre } from '../math/box3.ts';
import type { Light, PointLight, SunLight } from '../part/lightSource.ts';
import { partsOf } from '../profile/parts.ts';
import type { Profile } from '../profile/schema.ts';
import { classBox } from './objectBox.ts';
import type { GameMap, MapObject } from '../document/schema.ts';

/** E/π below which a surface of middling brightness can no longer be read beside lit ones. Common practice: 1/50. */
export const READABLE = 0.02;

/** The light of an object as it stands in the map, whether lit or not; null where it gives none. */
export function lightOf(profile: Profile, object: MapObject): Light | null {
  const parts = partsOf(profile, object.class);
  for (const part of parts) {
    const light = part.shine?.(object, boxCentre(classBox(profile, object)));
    if (light) return parts.reduce((aimed, other) => other.aim?.(aimed, object) ?? aimed, light);
  }
  return null;
}

/** What lights a map when it starts, by the ids of the objects. */
export function litLights(profile: Profile, map: Pick<GameMap, 'objects'>): { id: string; light: Light }[] {
  return Object.entries(map.objects).flatMap(([id, object]) => {
    const light = lightOf(profile, object);
    return light?.lit ? [{ id, light }] : [];
  });
}

/** Point and spot lights that are lit when the map starts. */
export const mapLights = (profile: Profile, map: Pick<GameMap, 'objects'>): PointLight[] =>
  litLights(profile, map).flatMap(({ light }) => (light.kind === 'point' ? [light.light] : []));

export const mapSuns = (profile: Profile, map: Pick<GameMap, 'objects'>): SunLight[] =>
  litLights(profile, map).flatMap(({ light }) => (light.kind === 'sun' ? [light.light] : []));

/**
 * Distance in units at which a light of `intensity` candela falls below `level` (E/π) on a surface that faces
 * it: √(I / (π · level)) metres by the inverse square law, cut at the light's own reach.
 */
export function readableReach(intensity: number, reach: number, metresPerUnit: number, level = READABLE): number {
  const free = Math.sqrt(Math.max(0, intensity) / (Math.PI * level)) / metresPerUnit;
  if (reach <= 0) return free;
  // With the window (1 - (d/r)⁴)² the level is met a little before; bisection finds where.
  const value = (d: number) => (intensity / (d * metresPerUnit) ** 2 / Math.PI) * (1 - (d / reach) ** 4) ** 2;
  let [near, far] = [1e-6, Math.min(free, reach)];
  for (let i = 0; i < 40; i++) {
    const middle = (near + far) / 2;
    if (value(middle) > level) near = middle;
    else far = middle;
  }
  return near;
}

/** The intensity, in candela, with which a light is readable up to `distance` units; the inverse of `readableReach` without a window. */
export const intensityForReach = (distance: number, metresPerUnit: number, level = READABLE): number =>
  Math.PI * level * (distance * metresPerUnit) ** 2;
