import { cross, dot, normalise, sub, type Vec3 } from '../../math/vec3.ts';
import { vertexAt, type ModelPart } from './model.ts';

/**
 * Normals from the triangles. Around every point, triangles whose planes meet at less than `angle`
 * degrees share a normal, weighted by area; 0 gives flat shading. Vertices are split where needed.
 */
export function computeNormals(part: ModelPart, angle: number): ModelPart {
  const { positions, indices, uvs } = part;
  const triangles = indices.length / 3;
  const faceNormal: Vec3[] = [];
  const unit: Vec3[] = [];
  for (let t = 0; t < triangles; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => vertexAt(positions, indices[t * 3 + k]));
    const n = cross(sub(b, a), sub(c, a));
    faceNormal.push(n);
    unit.push(normalise(n));
  }
  // Corners at the same place meet, whatever vertices the file gave them.
  const around = new Map<string, number[]>();
  const keyOf = (index: number) => `${positions[index * 3]},${positions[index * 3 + 1]},${positions[index * 3 + 2]}`;
  for (let corner = 0; corner < indices.length; corner++) {
    const key = keyOf(indices[corner]);
    const list = around.get(key);
    if (list) list.push(corner);
    else around.set(key, [corner]);
  }
  const limit = Math.cos((Math.max(0, angle) * Math.PI) / 180);
  const out = { positions: [] as number[], normals: [] as number[], uvs: [] as number[], indices: new Uint32Array(indices.length) };
  const made = new Map<string, number>();
  for (let corner = 0; corner < indices.length; corner++) {
    const t = Math.floor(corner / 3);
    let sum: Vec3 = [0, 0, 0];
    if (angle <= 0) sum = faceNormal[t];
    else {
      for (const other of around.get(keyOf(indices[corner]))!) {
        const o = Math.floor(other / 3);
        if (o === t || dot(unit[t], unit[o]) >= limit) for (let k = 0; k < 3; k++) sum[k] += faceNormal[o][k];
      }
    }
    let n = normalise(sum);
    if (n[0] === 0 && n[1] === 0 && n[2] === 0) n = [0, 1, 0];
    const rounded = n.map((v) => Math.round(v * 1e4) / 1e4);
    const key = `${indices[corner]}/${rounded.join(',')}`;
    let index = made.get(key);
    if (index === undefined) {
      index = out.positions.length / 3;
      made.set(key, index);
      out.positions.push(...vertexAt(positions, indices[corner]));
      out.normals.push(...n);
      if (uvs) out.uvs.push(uvs[indices[corner] * 2], uvs[indices[corner] * 2 + 1]);
    }
    out.indices[corner] = index;
  }
  return {
    ...part,
    positions: Float32Array.from(out.positions),
    normals: Float32Array.from(out.normals),
    uvs: uvs ? Float32Array.from(out.uvs) : null,
    indices: out.indices,
  };
}
