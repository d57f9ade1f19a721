import { generateTangents } from 'mikktspace';
import { gather } from './weld.ts';
import type { ModelPart } from '../model/model.ts';

/**
 * Tangents by MikkTSpace, the basis that normal maps are baked in (glTF 2.0, 3.7.2.1 names it). Needs
 * normals and texture coordinates; every corner gets a vertex of its own, to be welded afterwards.
 */
export function makeTangents(part: ModelPart): ModelPart {
  if (!part.normals || !part.uvs) return part;
  const out: ModelPart = { ...part, indices: Uint32Array.from({ length: part.indices.length }, (_, i) => i) };
  gather(out, part, part.indices);
  const tangents = generateTangents(out.positions, out.normals!, out.uvs!);
  for (let i = 0; i < tangents.length; i += 4) {
    // The package counts v upwards; glTF's runs downwards, which turns the handedness.
    tangents[i + 3] = -tangents[i + 3];
    const size = Math.hypot(tangents[i], tangents[i + 1], tangents[i + 2]);
    if (size > 1e-6) for (let k = 0; k < 3; k++) tangents[i + k] /= size;
    else tangents.set([1, 0, 0, 1], i);
  }
  return { ...out, tangents };
}
