/** Faces that nobody can see, by the same stages that build the map. */

import { findMaterial, type CrateWorld } from '../crate/world.ts';
import { expandMap } from '../map/prefab.ts';
import type { GameMap } from '../document/schema.ts';
import { materialType } from '../profile/schema.ts';
import { buildGeometry } from './geometry/stage.ts';
import { sealingInputs } from './inputs.ts';
import { materialContext } from './surface/materials.ts';
import type { Surface } from './surface/surface.ts';
import { sealMap } from './sealing/stage.ts';

export interface UnseenFaces {
  /** The game's material that seals and is never drawn. */
  material: string;
  faces: { solid: string; face: number }[];
}

/** What is drawn of a map and can be seen: in a sealed map without leaks, from inside. @param whole the map with its prefabs laid out */
export function seenSurfaces(world: CrateWorld, whole: GameMap): Surface[] {
  const context = materialContext(world, whole);
  const { surfaces } = buildGeometry({ solids: whole.solids, ...context }, () => {}, false);
  if (!world.profile.sealed) return surfaces;
  const inputs = sealingInputs(world, whole, context);
  const sealing = inputs.sources.length > 0 ? sealMap(inputs, surfaces, () => {}) : null;
  return sealing && sealing.leaks.length === 0 ? sealing.visible.map((i) => surfaces[i]) : surfaces;
}

/**
 * Faces of the map's own solids that other solids cover wholly and, in a sealed map, those that can be seen
 * from outside only. Faces that are not drawn anyway are left out. Null where the game has no such material.
 */
export function findUnseenFaces(world: CrateWorld, map: GameMap): UnseenFaces | null {
  const { profile } = world;
  const typeOf = (name: string) => materialType(profile, findMaterial(world, name)?.material.type ?? '');
  const material = [...world.crate.manifest.materials, ...world.base.materials].find((m) => {
    const type = materialType(profile, m.type);
    return type && !type.drawn && type.seals && type.collides && type.opaque;
  });
  if (!material) return null;
  const seen = new Set(seenSurfaces(world, expandMap(map, profile)).map(({ solid, face }) => `${solid}/${face}`));
  const faces = Object.entries(map.solids).flatMap(([solid, { faces: own }]) =>
    own.flatMap(({ material: name }, face) => (typeOf(name)?.drawn === false || seen.has(`${solid}/${face}`) ? [] : [{ solid, face }])),
  );
  return { material: material.name, faces };
}
