/** A map's drawn faces as a model, for other programs: metres, y up, one part per material. */

import { newModel, type Model } from '../asset/mesh/model/model.ts';
import { buildGeometry } from './geometry/stage.ts';
import { toGltf } from './pack/gltfSpace.ts';
import { parametersOf } from './contract/parameters.ts';
import { materialContext } from './surface/materials.ts';
import { findMaterial, type CrateWorld } from '../crate/world.ts';
import { expandMap } from '../map/prefab.ts';
import { linearOfHex } from '../math/srgb.ts';
import { own } from '../own.ts';
import { groundParts } from '../terrain/file/groundModel.ts';
import { groundsOf } from '../terrain/ground.ts';

export type MapModelPart = 'all' | 'ground';

/**
 * What solids show, hidden faces left out, and the ground; materials by name with their mean colours, texture coordinates as built.
 *
 * @param error how far the ground may be from its samples, units; those of a final build without it
 */
export function mapModel(world: CrateWorld, mapName: string, only: MapModelPart = 'all', error?: number): Model {
  const map = expandMap(world.crate.maps[mapName], world.profile);
  const context = materialContext(world, map);
  const { surfaces } = buildGeometry({ solids: only === 'all' ? map.solids : {}, ...context }, () => {});
  const model = newModel();
  const byMaterial = new Map<string, { positions: number[]; normals: number[]; uvs: number[]; indices: number[] }>();
  for (const surface of surfaces) {
    if (context.types[own(context.materials, surface.material)?.type ?? '']?.drawn === false) continue;
    let part = byMaterial.get(surface.material);
    if (!part) byMaterial.set(surface.material, (part = { positions: [], normals: [], uvs: [], indices: [] }));
    const first = part.positions.length / 3;
    surface.winding.forEach((point, i) => {
      part.positions.push(...toGltf(point, world.profile.unit.metres));
      part.normals.push(...toGltf(surface.normal, 1));
      part.uvs.push(...surface.uv[i]);
      if (i >= 2) part.indices.push(first, first + i - 1, first + i);
    });
  }
  for (const [material, part] of byMaterial) {
    model.materials[material] = { colour: [...(context.materials[material]?.albedo ?? [0.5, 0.5, 0.5]), 1] };
    model.parts.push({
      name: material,
      material,
      positions: Float32Array.from(part.positions),
      normals: Float32Array.from(part.normals),
      uvs: Float32Array.from(part.uvs),
      indices: Uint32Array.from(part.indices),
    });
  }
  const { metres } = world.profile.unit;
  for (const ground of groundsOf(map)) {
    const materials = ground.terrain.surfaces.map(({ material }) => material);
    for (const material of materials)
      model.materials[material] = { colour: [...linearOfHex(findMaterial(world, material)?.material.colour ?? '#808080'), 1] };
    model.parts.push(...groundParts(ground, error ?? parametersOf('final', world.profile).groundError, metres, materials));
  }
  return model;
}
