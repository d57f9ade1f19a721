/** A map's drawn faces as a model, for other programs: metres, y up, one part per material. */

import { newModel, type Model } from '../asset/mesh/model/model.ts';
import { buildGeometry } from './geometry/stage.ts';
import { toGltf } from './pack/gltfSpace.ts';
import { materialContext } from './surface/materials.ts';
import type { CrateWorld } from '../crate/world.ts';
import { expandMap } from '../map/prefab.ts';
import { own } from '../own.ts';

/** What solids show, hidden faces left out; materials by name with their mean colours, texture coordinates as built. */
export function mapModel(world: CrateWorld, mapName: string): Model {
  const map = expandMap(world.crate.maps[mapName], world.profile);
  const context = materialContext(world, map);
  const { surfaces } = buildGeometry({ solids: map.solids, ...context }, () => {});
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
  return model;
}
