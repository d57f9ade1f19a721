/** A model between reading and writing: triangles by part, in the source file's own unit and axes. */

import type { Vec3 } from '../../math/vec3.ts';

export interface ModelPart {
  name: string;
  material: string;
  /** Three numbers per vertex. */
  positions: Float32Array;
  normals: Float32Array | null;
  /** Two numbers per vertex, v downwards as in glTF. */
  uvs: Float32Array | null;
  /** Three per triangle, counter-clockwise from outside. */
  indices: Uint32Array;
}

export interface ModelMaterial {
  /** Linear red, green, blue, alpha. */
  colour: [number, number, number, number];
  image?: { mimeType: string; bytes: Uint8Array };
}

export interface Model {
  parts: ModelPart[];
  materials: Record<string, ModelMaterial>;
  /** What the reader left out, in plain words. */
  leftOut: string[];
}

/** Metres per unit of length. "game" stands for the profile's own. */
export const LENGTH_UNITS: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 };

export const triangleCount = (model: Model): number => model.parts.reduce((sum, part) => sum + part.indices.length / 3, 0);

export const vertexAt = (positions: ArrayLike<number>, index: number): Vec3 => [
  positions[index * 3],
  positions[index * 3 + 1],
  positions[index * 3 + 2],
];
