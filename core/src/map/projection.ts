/** Texture projection: along the world axis that the face looks along most, then turned, scaled and shifted. */

import type { Vec3 } from '../math/vec3.ts';
import type { Face } from './schema.ts';

/** Right and up axes of the projection for a normal, as indices with signs; walls keep z up. */
export function projectionAxes(normal: Vec3): { u: Vec3; v: Vec3 } {
  const [x, y, z] = normal.map(Math.abs);
  if (z >= x && z >= y) return { u: [1, 0, 0], v: [0, normal[2] >= 0 ? 1 : -1, 0] };
  if (x >= y) return { u: [0, normal[0] >= 0 ? 1 : -1, 0], v: [0, 0, 1] };
  return { u: [normal[1] >= 0 ? -1 : 1, 0, 0], v: [0, 0, 1] };
}

/** Texture coordinates in repeats; v grows downwards as in glTF images. */
export function projectPoint(face: Pick<Face, 'normal' | 'shift' | 'scale' | 'turn'>, point: Vec3, unitsPerRepeat: number): [number, number] {
  const { u, v } = projectionAxes(face.normal);
  let s = point[0] * u[0] + point[1] * u[1] + point[2] * u[2];
  let t = point[0] * v[0] + point[1] * v[1] + point[2] * v[2];
  if (face.turn) {
    const angle = (face.turn * Math.PI) / 180;
    [s, t] = [s * Math.cos(angle) + t * Math.sin(angle), -s * Math.sin(angle) + t * Math.cos(angle)];
  }
  const size = unitsPerRepeat * (face.scale ?? 1);
  return [(s + (face.shift?.[0] ?? 0)) / size, -(t + (face.shift?.[1] ?? 0)) / size];
}
