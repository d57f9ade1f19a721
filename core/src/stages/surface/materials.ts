/** The materials of a map's surfaces, as the stages take them. */

import { lyingOf } from '../../decal/throwing.ts';
import { findMaterial, type CrateWorld } from '../../crate/world.ts';
import { surfacesOf } from '../../map/member/members.ts';
import { materialsOn } from '../../map/member/surface.ts';
import type { GameMap } from '../../document/schema.ts';
import { linearOfHex } from '../../math/srgb.ts';
import { own } from '../../own.ts';
import { materialType, type MaterialType } from '../../profile/schema.ts';

export interface BuildMaterial {
  name: string;
  type: string;
  /** Mean colour, linear 0..1: what the surface reflects, and its colour where no texture is shown. */
  albedo: [number, number, number];
  /** Radiance it gives off, linear, in the units of the sky's. */
  emission: [number, number, number];
  /** Units that one repeat of the texture covers. */
  unitsPerRepeat: number;
  /** What the luxel is multiplied by on its faces. */
  luxel?: number;
}

export interface MaterialContext {
  materials: Record<string, BuildMaterial>;
  types: Record<string, MaterialType>;
}

/** The materials that a map's faces use, with their types. */
export function materialContext(world: CrateWorld, map: GameMap): MaterialContext {
  const materials: MaterialContext['materials'] = {};
  for (const surface of surfacesOf(map)) {
    for (const name of materialsOn(surface)) {
      const material = own(materials, name) ?? buildMaterial(world, name);
      if (material) materials[name] = material;
    }
  }
  for (const { surfaces } of Object.values(map.terrains))
    for (const { material } of surfaces) {
      const found = own(materials, material) ?? buildMaterial(world, material);
      if (found) materials[material] = found;
    }
  return { materials, types: Object.fromEntries(world.profile.materialTypes.map((type) => [type.id, type])) };
}

/** The context with the materials of decals, which no stage but the packing reads. */
export function withDecals(world: CrateWorld, map: GameMap, { materials, types }: MaterialContext): MaterialContext {
  const all = { ...materials };
  for (const { material } of Object.values(lyingOf(map))) {
    const found = own(all, material) ?? buildMaterial(world, material);
    if (found) all[material] = found;
  }
  return { materials: all, types };
}

function buildMaterial(world: CrateWorld, name: string): BuildMaterial | null {
  const found = findMaterial(world, name);
  if (!found) return null;
  const { type, colour, unitsPerRepeat, emission = 0, luxel } = found.material;
  const albedo = linearOfHex(colour);
  return { name, type, albedo, emission: albedo.map((v) => v * emission) as [number, number, number], unitsPerRepeat, ...(luxel ? { luxel } : {}) };
}

/** Whether a material stops players; unknown ones do. */
export const collides =
  (world: CrateWorld) =>
  (name: string): boolean => {
    const found = findMaterial(world, name);
    return found ? (materialType(world.profile, found.material.type)?.collides ?? true) : true;
  };
