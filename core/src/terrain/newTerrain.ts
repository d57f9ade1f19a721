/** A new ground: level, covered with what the game has for the purpose. */

import type { Terrain } from '../document/schema.ts';
import type { Profile } from '../profile/schema.ts';

export interface NewTerrain {
  name: string;
  /** Samples along x and y. */
  samples: [number, number];
  spacing: number;
  base: number;
}

/** About the origin of the map. */
export function newTerrain(profile: Profile, { name, samples, spacing, base: height }: NewTerrain): Terrain {
  const materials = profile.ground?.materials ?? [profile.defaultMaterial];
  const reach = 400 / profile.unit.metres;
  return {
    name,
    origin: samples.map((count) => -((count - 1) * spacing) / 2) as [number, number],
    spacing,
    samples,
    range: [height - reach, height + reach],
    depth: 'u16',
    base: height,
    surfaces: materials.map((material) => ({ id: material, label: material.replaceAll('_', ' ').replace(/^./, (c) => c.toUpperCase()), material })),
    things: [],
    paint: {},
    scatter: {},
  };
}
