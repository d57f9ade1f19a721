/**
 * A model between reading and writing: triangles by part. A rigid model has its node transforms applied
 * and no rig; a model with skins or clips keeps its nodes, and its parts stay in the space of theirs.
 */

import type { Vec3 } from '../../../math/vec3.ts';

export interface ModelPart {
  name: string;
  /** Name of the material slot. */
  material: string;
  /** Three numbers per vertex. */
  positions: Float32Array;
  /** Three numbers per vertex, unit length. */
  normals: Float32Array | null;
  /** Two numbers per vertex, v downwards as in glTF. */
  uvs: Float32Array | null;
  /** A second set for lightmaps. */
  lightUvs?: Float32Array | null;
  /** Four per vertex: direction and handedness, as in glTF. */
  tangents?: Float32Array | null;
  /** Four per vertex, linear. */
  colours?: Float32Array | null;
  /** Four joints of the part's skin and their weights per vertex. */
  joints?: Uint16Array | null;
  weights?: Float32Array | null;
  /** Three per triangle, counter-clockwise from outside. */
  indices: Uint32Array;
  /** Rigged models: index of the carrying node, and of the skin if the part bends. */
  node?: number;
  skin?: number;
}

/** Per-vertex arrays of a part and how many numbers each holds per vertex. */
export const ATTRIBUTES = { positions: 3, normals: 3, uvs: 2, lightUvs: 2, tangents: 4, colours: 4, joints: 4, weights: 4 } as const;
export type AttributeName = keyof typeof ATTRIBUTES;

export interface ModelImage {
  mimeType: string;
  bytes: Uint8Array;
}

export interface ModelMaterial {
  /** Linear red, green, blue, alpha. */
  colour: [number, number, number, number];
  image?: ModelImage;
  normalImage?: ModelImage;
  /** Name of the texture file that the model asked for, whether found or not. */
  texture?: string;
  roughness?: number;
  metalness?: number;
  /** Linear. */
  emission?: [number, number, number];
  cutout?: boolean;
  doubleSided?: boolean;
}

export interface RigNode {
  name: string;
  /** Index of the parent node, -1 for a root. Parents come before their children. */
  parent: number;
  translation: Vec3;
  /** Unit quaternion x, y, z, w. */
  rotation: [number, number, number, number];
  scale: Vec3;
}

export interface Skin {
  joints: number[];
  /** One column-major 4 × 4 matrix per joint. */
  inverseBind: Float32Array;
}

export interface ClipChannel {
  node: number;
  path: 'translation' | 'rotation' | 'scale';
  interpolation: 'LINEAR' | 'STEP' | 'CUBICSPLINE';
  /** Seconds, rising. */
  times: Float32Array;
  values: Float32Array;
}

export interface Clip {
  name: string;
  channels: ClipChannel[];
}

export interface Rig {
  nodes: RigNode[];
  skins: Skin[];
  clips: Clip[];
}

export interface Model {
  parts: ModelPart[];
  materials: Record<string, ModelMaterial>;
  /** What the reader left out, in plain words. */
  leftOut: string[];
  rig: Rig | null;
  /** What the file itself states of its unit (metres) and up axis, if it does. */
  stated?: { metres?: number; upAxis?: 'y' | 'z' };
  /** Origin of the one object in the file, in file space; absent where there are several or it is the world's. */
  origin?: Vec3;
  /** Texture files that were asked for and found only under another case or extension, or not at all. */
  textures: { wanted: string; found: string | null }[];
}

export const newModel = (): Model => ({
  parts: [],
  // Files name the materials, so nothing may be inherited.
  materials: Object.create(null) as Model['materials'],
  leftOut: [],
  rig: null,
  textures: [],
});

/** The grey of a surface that nothing was said about. */
export const plainMaterial = (): ModelMaterial => ({ colour: [0.6, 0.6, 0.6, 1] });

export const triangleCount = (model: Pick<Model, 'parts'>): number => model.parts.reduce((sum, part) => sum + part.indices.length / 3, 0);
export const vertexCount = (parts: readonly ModelPart[]): number => parts.reduce((sum, part) => sum + part.positions.length / 3, 0);

export const vertexAt = (positions: ArrayLike<number>, index: number): Vec3 => [
  positions[index * 3],
  positions[index * 3 + 1],
  positions[index * 3 + 2],
];
