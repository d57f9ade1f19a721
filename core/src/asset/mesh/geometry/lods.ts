/** Levels of detail by edge collapse (meshoptimizer), with the error of each measured on the result. */

import { BufferAttribute, BufferGeometry, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { MeshoptSimplifier } from 'meshoptimizer';
import type { ModelPart } from '../model/model.ts';

export interface Lod {
  /** Indices of every part, over the vertices of the full model. */
  indices: Uint32Array[];
  triangles: number;
  /** Share of the triangles that was asked for. */
  target: number;
  /** Largest distance in metres from the full model's vertices to this level's surface. */
  error: number;
  /** Metres from which the error covers less than one pixel of a picture 1080 high, seen under 60 degrees. */
  switchDistance: number;
}

/** Width of one pixel at one metre: 1080 rows over a field of view of 60 degrees. */
const PIXEL = (2 * Math.tan(Math.PI / 6)) / 1080;
/** Vertices at which the error is measured, at most. */
const SAMPLES = 4000;
/** How much normals and texture coordinates count beside shape. */
const NORMAL_WEIGHT = 0.5;
const UV_WEIGHT = 0.5;

export async function makeLods(parts: readonly ModelPart[], targets: readonly number[]): Promise<Lod[]> {
  if (targets.length === 0) return [];
  await MeshoptSimplifier.ready;
  return targets.map((target) => {
    const indices = parts.map((part) => simplify(part, target));
    const error = Math.max(0, ...parts.map((part, i) => measure(part, indices[i])));
    return {
      indices,
      triangles: indices.reduce((sum, list) => sum + list.length / 3, 0),
      target,
      error,
      switchDistance: error / PIXEL,
    };
  });
}

function simplify(part: ModelPart, target: number): Uint32Array {
  const count = part.positions.length / 3;
  const width = (part.normals ? 3 : 0) + (part.uvs ? 2 : 0);
  const wanted = Math.max(3, Math.round((part.indices.length / 3) * target) * 3);
  if (width === 0) return MeshoptSimplifier.simplify(part.indices, part.positions, 3, wanted, 1)[0];
  const attributes = new Float32Array(count * width);
  for (let i = 0; i < count; i++) {
    if (part.normals) for (let k = 0; k < 3; k++) attributes[i * width + k] = part.normals[i * 3 + k];
    if (part.uvs) for (let k = 0; k < 2; k++) attributes[i * width + width - 2 + k] = part.uvs[i * 2 + k];
  }
  const weights = [...(part.normals ? [NORMAL_WEIGHT, NORMAL_WEIGHT, NORMAL_WEIGHT] : []), ...(part.uvs ? [UV_WEIGHT, UV_WEIGHT] : [])];
  const [result] = MeshoptSimplifier.simplifyWithAttributes(part.indices, part.positions, 3, attributes, width, weights, null, wanted, 1, [
    'Permissive',
  ]);
  // A part that would vanish keeps its full shape: a missing lid is worse than a few triangles.
  return result.length > 0 ? result : part.indices;
}

function measure(part: ModelPart, indices: Uint32Array): number {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(part.positions, 3));
  geometry.setIndex(new BufferAttribute(indices.slice(), 1));
  const bvh = new MeshBVH(geometry);
  const point = new Vector3();
  const count = part.positions.length / 3;
  const step = Math.max(1, Math.floor(count / SAMPLES));
  let worst = 0;
  for (let i = 0; i < count; i += step) {
    const nearest = bvh.closestPointToPoint(point.fromArray(part.positions, i * 3));
    if (nearest) worst = Math.max(worst, nearest.distance);
  }
  return worst;
}
