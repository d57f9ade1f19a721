/** Faces of solids as three.js geometry, textured as the map says. */

import { BufferAttribute, BufferGeometry } from 'three';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import type { Solid } from '@violet-crate/core/document/schema';
import { materialType } from '@violet-crate/core/profile/schema';
import { projectPoint } from '@violet-crate/core/solid/projection';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';

/**
 * One geometry per material, in glTF space and metres.
 *
 * @param undrawn also what the game never draws
 */
export function solidGeometries(world: CrateWorld, solids: Iterable<Solid>, undrawn: boolean): Map<string, BufferGeometry> {
  const { profile } = world;
  const m = profile.unit.metres;
  const batches = new Map<string, { positions: number[]; normals: number[]; uvs: number[] }>();
  for (const solid of solids) {
    for (const { face, winding } of shapeOf(solid).polygons) {
      const { material, ...projection } = solid.faces[face];
      const found = findMaterial(world, material);
      const type = found && materialType(profile, found.material.type);
      if (type && !type.drawn && !undrawn) continue;
      let batch = batches.get(material);
      if (!batch) batches.set(material, (batch = { positions: [], normals: [], uvs: [] }));
      const normal = toGltf(projection.normal, 1);
      for (let i = 2; i < winding.length; i++) {
        for (const corner of [0, i - 1, i]) {
          batch.positions.push(...toGltf(winding[corner], m));
          batch.normals.push(...normal);
          batch.uvs.push(...projectPoint(projection, winding[corner], found?.material.unitsPerRepeat ?? 64));
        }
      }
    }
  }
  const geometries = new Map<string, BufferGeometry>();
  for (const [name, { positions, normals, uvs }] of batches) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3));
    geometry.setAttribute('normal', new BufferAttribute(Float32Array.from(normals), 3));
    geometry.setAttribute('uv', new BufferAttribute(Float32Array.from(uvs), 2));
    geometries.set(name, geometry);
  }
  return geometries;
}
