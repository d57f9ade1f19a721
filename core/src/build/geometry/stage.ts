import type { BuildMaterial, Surface } from '../surface.ts';
import type { Solid } from '../../map/schema.ts';
import { projectPoint } from '../../map/projection.ts';
import { solidPolygons } from '../../solid/solid.ts';
import type { MaterialType } from '../../profile/schema.ts';
import { exposeFaces } from './expose.ts';

export interface GeometryInputs {
  solids: Record<string, Solid>;
  materials: Record<string, BuildMaterial>;
  types: Record<string, MaterialType>;
}

export interface GeometryOutput {
  /** Drawn polygons, sky included. */
  surfaces: Surface[];
  /** Faces of all solids before hidden parts were removed. */
  facesBefore: number;
}

export function buildGeometry({ solids, materials, types }: GeometryInputs, onProgress: (fraction: number) => void): GeometryOutput {
  const ids = Object.keys(solids);
  const list = ids.map((id) => solids[id]);
  const typeOf = (material: string): MaterialType | undefined => types[materials[material]?.type];
  const hides = (solid: Solid) => solid.faces.every((face) => typeOf(face.material)?.opaque ?? true);
  const surfaces: Surface[] = [];
  for (const polygon of exposeFaces(list, hides, onProgress)) {
    const face = list[polygon.solid].faces[polygon.face];
    if (!typeOf(face.material)?.drawn) continue;
    const unitsPerRepeat = materials[face.material].unitsPerRepeat;
    surfaces.push({
      solid: ids[polygon.solid],
      face: polygon.face,
      material: face.material,
      normal: face.normal,
      winding: polygon.winding,
      uv: polygon.winding.map((point) => projectPoint(face, point, unitsPerRepeat)),
    });
  }
  return { surfaces, facesBefore: list.reduce((sum, solid) => sum + solidPolygons(solid).length, 0) };
}
