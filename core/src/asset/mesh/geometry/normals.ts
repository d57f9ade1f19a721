import { pointNumbers } from './topology.ts';
import { gather } from './weld.ts';
import type { ModelPart } from '../model/model.ts';

/**
 * Normals from the triangles. Around every point, triangles whose planes meet at less than `angle`
 * degrees share a normal, weighted by area; 0 gives flat shading. Every corner gets a vertex of its own;
 * `weld` merges those that came out alike.
 */
export function computeNormals(part: ModelPart, angle: number): ModelPart {
  const { positions, indices } = part;
  const triangles = indices.length / 3;
  // Unit normal and twice the area of every triangle, side by side: they are read in no order of memory.
  const face = new Float32Array(triangles * 4);
  for (let t = 0; t < triangles; t++) {
    const a = indices[t * 3] * 3;
    const b = indices[t * 3 + 1] * 3;
    const c = indices[t * 3 + 2] * 3;
    const ux = positions[b] - positions[a];
    const uy = positions[b + 1] - positions[a + 1];
    const uz = positions[b + 2] - positions[a + 2];
    const vx = positions[c] - positions[a];
    const vy = positions[c + 1] - positions[a + 1];
    const vz = positions[c + 2] - positions[a + 2];
    const nx = uy * vz - uz * vy;
    const ny = uz * vx - ux * vz;
    const nz = ux * vy - uy * vx;
    const size = Math.sqrt(nx * nx + ny * ny + nz * nz);
    const scale = size > 0 ? 1 / size : 0;
    face[t * 4] = nx * scale;
    face[t * 4 + 1] = ny * scale;
    face[t * 4 + 2] = nz * scale;
    face[t * 4 + 3] = size;
  }
  // Triangles around each point, whatever vertices the file gave their corners: counted, then filed.
  const { point, count } = pointNumbers(positions);
  const start = new Uint32Array(count + 1);
  for (const index of indices) start[point[index] + 1]++;
  for (let p = 0; p < count; p++) start[p + 1] += start[p];
  const around = new Uint32Array(indices.length);
  const fill = start.slice(0, count);
  for (let t = 0, corner = 0; t < triangles; t++) for (let k = 0; k < 3; k++) around[fill[point[indices[corner++]]]++] = t;

  const limit = Math.cos((Math.max(0, angle) * Math.PI) / 180);
  const shared = angle > 0 ? sharedNormals(face, start, around, angle) : null;
  const normals = new Float32Array(indices.length * 3);
  for (let corner = 0; corner < indices.length; corner++) {
    const t = ((corner / 3) | 0) * 4;
    const p = point[indices[corner]];
    const ux = face[t];
    const uy = face[t + 1];
    const uz = face[t + 2];
    let x = ux;
    let y = uy;
    let z = uz;
    if (shared && shared[p * 4 + 3] === 1) {
      x = shared[p * 4];
      y = shared[p * 4 + 1];
      z = shared[p * 4 + 2];
    } else if (angle > 0) {
      x = y = z = 0;
      for (let i = start[p]; i < start[p + 1]; i++) {
        const o = around[i] * 4;
        if (o !== t && ux * face[o] + uy * face[o + 1] + uz * face[o + 2] < limit) continue;
        const weight = face[o + 3];
        x += face[o] * weight;
        y += face[o + 1] * weight;
        z += face[o + 2] * weight;
      }
    }
    const size = Math.sqrt(x * x + y * y + z * z);
    // A corner among triangles without area has no direction; any unit vector is valid.
    if (size > 0) {
      normals[corner * 3] = x / size;
      normals[corner * 3 + 1] = y / size;
      normals[corner * 3 + 2] = z / size;
    } else normals[corner * 3 + 1] = 1;
  }
  const out: ModelPart = { ...part, indices: Uint32Array.from({ length: indices.length }, (_, i) => i) };
  gather(out, part, indices);
  return { ...out, normals, tangents: null };
}

/**
 * Sums for the points whose triangles all smooth into each other, as x, y, z and 1; the fourth number is 0
 * elsewhere. Triangles within half the angle of their mean are within the whole angle of each other, so
 * most points of a smooth surface are done once instead of once per corner.
 */
function sharedNormals(face: Float32Array, start: Uint32Array, around: Uint32Array, angle: number): Float32Array {
  const half = Math.cos((Math.min(180, angle) * Math.PI) / 360);
  const points = start.length - 1;
  const out = new Float32Array(points * 4);
  for (let p = 0; p < points; p++) {
    let x = 0;
    let y = 0;
    let z = 0;
    for (let i = start[p]; i < start[p + 1]; i++) {
      const o = around[i] * 4;
      const weight = face[o + 3];
      x += face[o] * weight;
      y += face[o + 1] * weight;
      z += face[o + 2] * weight;
    }
    const reach = half * Math.sqrt(x * x + y * y + z * z);
    let together = reach > 0;
    for (let i = start[p]; together && i < start[p + 1]; i++) {
      const o = around[i] * 4;
      together = face[o + 3] === 0 || face[o] * x + face[o + 1] * y + face[o + 2] * z >= reach;
    }
    if (!together) continue;
    out[p * 4] = x;
    out[p * 4 + 1] = y;
    out[p * 4 + 2] = z;
    out[p * 4 + 3] = 1;
  }
  return out;
}

/** glTF asks for unit length; exporters round. Directions without length become "up". */
export function unitNormals(normals: Float32Array): Float32Array {
  for (let i = 0; i < normals.length; i += 3) {
    const size = Math.sqrt(normals[i] ** 2 + normals[i + 1] ** 2 + normals[i + 2] ** 2);
    if (size > 1e-6) {
      normals[i] /= size;
      normals[i + 1] /= size;
      normals[i + 2] /= size;
    } else {
      normals[i] = normals[i + 2] = 0;
      normals[i + 1] = 1;
    }
  }
  return normals;
}
