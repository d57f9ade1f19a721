import type { Surface } from '../surface/surface.ts';
import type { BuildMaterial } from '../surface/materials.ts';
import type { Face, Solid } from '../../document/schema.ts';
import { projectPoint } from '../../solid/projection.ts';
import { solidPolygons } from '../../solid/solid.ts';
import type { MaterialType } from '../../profile/schema.ts';
import type { Winding } from '../../solid/winding.ts';
import { exposeFaces } from './expose.ts';
import { mergePolygons, type Mergeable } from './merge.ts';
import { weldPolygons } from './weld.ts';
import { own } from '../../own.ts';

/** What geometry reads of a material and of its type. */
export type GeometryMaterial = Pick<BuildMaterial, 'type' | 'unitsPerRepeat'>;
export type GeometryType = Pick<MaterialType, 'drawn' | 'opaque'>;

export interface GeometryInputs {
  solids: Readonly<Record<string, Solid>>;
  materials: Readonly<Record<string, GeometryMaterial>>;
  types: Readonly<Record<string, GeometryType>>;
}

export interface GeometryOutput {
  /** Drawn polygons, sky included. */
  surfaces: Surface[];
  /** Faces of all solids before hidden parts were removed. */
  facesBefore: number;
  /** Pieces that were left of them before neighbours were merged. */
  pieces: number;
}

interface Piece extends Mergeable {
  solid: string;
  face: number;
  also: [string, number][];
}

/** Numbers as they count for "the same plane" and "the same projection". */
const near = (v: number): number => Math.round(v * 1e4) / 1e4 + 0;

/** Faces that may become one: of one material, in one plane, with textures that run on. */
const mergeKey = (face: Face): string =>
  JSON.stringify([
    face.material,
    face.normal.map(near),
    Math.round(face.distance * 500) / 500,
    face.axes?.flat().map(near) ?? null,
    [face.shift ?? null, face.scale ?? null, face.turn ?? null, face.luxel ?? null],
  ]);

/** @param merge whether pieces of one plane, material and projection become one polygon; without, each keeps its own solid */
export function buildGeometry({ solids, materials, types }: GeometryInputs, onProgress: (fraction: number) => void, merge = true): GeometryOutput {
  const ids = Object.keys(solids);
  const list = ids.map((id) => solids[id]);
  const typeOf = (material: string): GeometryType | undefined => types[own(materials, material)?.type ?? ''];
  const hides = (solid: Solid) => solid.faces.every((face) => typeOf(face.material)?.opaque ?? true);
  const pieces = exposeFaces(list, hides, (f) => onProgress(f * 0.8)).flatMap(({ solid, face: index, winding }): Piece[] => {
    const face = list[solid].faces[index];
    if (!typeOf(face.material)?.drawn) return [];
    return [{ solid: ids[solid], face: index, also: [], winding, normal: face.normal, key: mergeKey(face) }];
  });
  const merged = merge
    ? mergePolygons(pieces, (a, b, winding) => ({ ...a, winding, also: [...a.also, [b.solid, b.face] as [string, number], ...b.also] }))
    : pieces;
  onProgress(0.9);
  const surfaces = weldPolygons(merged.map((p) => p.winding)).flatMap((windings: Winding[], i): Surface[] => {
    const { solid, face: index, normal, also } = merged[i];
    const face = solids[solid].faces[index];
    const { unitsPerRepeat } = materials[face.material];
    const others = also.filter(([s, f], k) => (s !== solid || f !== index) && also.findIndex(([t, g]) => s === t && f === g) === k);
    return windings.map((winding) => ({
      solid,
      face: index,
      ...(others.length > 0 ? { also: others } : {}),
      ...(face.luxel !== undefined ? { luxel: face.luxel } : {}),
      material: face.material,
      normal,
      winding,
      uv: winding.map((point) => projectPoint(face, point, unitsPerRepeat)),
    }));
  });
  onProgress(1);
  return { surfaces, facesBefore: list.reduce((sum, solid) => sum + solidPolygons(solid).length, 0), pieces: pieces.length };
}
