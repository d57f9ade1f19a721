/** Texture projection: along the world axis that the face looks along most, or along given axes; then turned, scaled and shifted. */

import { cross, dot, length, normalise, scale, sub, type Vec3 } from '../math/vec3.ts';
import type { Face } from '../document/schema.ts';

export type Projection = Pick<Face, 'normal' | 'axes' | 'shift' | 'scale' | 'turn'>;

/** Right and up axes of the world projection for a normal; walls keep z up. */
export function projectionAxes(normal: Vec3): { u: Vec3; v: Vec3 } {
  const [x, y, z] = normal.map(Math.abs);
  if (z >= x && z >= y) return { u: [1, 0, 0], v: [0, normal[2] >= 0 ? 1 : -1, 0] };
  if (x >= y) return { u: [0, normal[0] >= 0 ? 1 : -1, 0], v: [0, 0, 1] };
  return { u: [normal[1] >= 0 ? -1 : 1, 0, 0], v: [0, 0, 1] };
}

/** Axes that lie in the face, so that nothing is stretched on slopes: v is the steepest way up. */
export function faceAxes(normal: Vec3): [Vec3, Vec3] {
  const up: Vec3 = Math.abs(normal[2]) > 0.999 ? [0, normal[2] > 0 ? 1 : -1, 0] : [0, 0, 1];
  const v = normalise(sub(up, scale(normal, dot(up, normal))));
  return [cross(v, normal), v];
}

const sizeOf = (face: Projection): [number, number] => (Array.isArray(face.scale) ? face.scale : [face.scale ?? 1, face.scale ?? 1]);

/** Position in the projection's plane, in units, before shift and scale. */
function plainPoint(face: Projection, point: Vec3): [number, number] {
  const { u, v } = face.axes ? { u: face.axes[0], v: face.axes[1] } : projectionAxes(face.normal);
  const s = dot(point, u);
  const t = dot(point, v);
  if (!face.turn) return [s, t];
  const angle = (face.turn * Math.PI) / 180;
  return [s * Math.cos(angle) + t * Math.sin(angle), -s * Math.sin(angle) + t * Math.cos(angle)];
}

/** Texture coordinates in repeats; v grows downwards as in glTF images. */
export function projectPoint(face: Projection, point: Vec3, unitsPerRepeat: number): [number, number] {
  const [s, t] = plainPoint(face, point);
  const [sx, sy] = sizeOf(face);
  return [(s + (face.shift?.[0] ?? 0)) / (unitsPerRepeat * sx), -(t + (face.shift?.[1] ?? 0)) / (unitsPerRepeat * sy)];
}

/** The face's projection fitted so that `repeats` of the texture cover its polygon exactly. */
export function fitProjection(face: Face, winding: readonly Vec3[], unitsPerRepeat: number, repeats: [number, number] = [1, 1]): Face {
  const points = winding.map((p) => plainPoint(face, p));
  const min = [0, 1].map((i) => Math.min(...points.map((p) => p[i])));
  const max = [0, 1].map((i) => Math.max(...points.map((p) => p[i])));
  const size = [0, 1].map((i) => Math.max(1e-6, max[i] - min[i]) / (unitsPerRepeat * repeats[i])) as [number, number];
  // The picture's upper edge is v = 0, so the highest point of the face comes to lie there.
  return { ...face, scale: size, shift: [-min[0], -max[1]] };
}

/** The projection continued from `from` around their common edge onto `to`, without a seam and with equal scale. */
export function wrapProjection(from: Face, to: Face): Face {
  const axes = from.axes ?? (Object.values(projectionAxes(from.normal)) as [Vec3, Vec3]);
  const edge = normalise(cross(from.normal, to.normal));
  if (length(edge) < 1e-9) return { ...to, axes: from.axes, shift: from.shift, scale: from.scale, turn: from.turn, material: from.material };
  // Rotating about the shared edge carries the plane of `from` into the plane of `to`.
  const angle = Math.atan2(dot(cross(from.normal, to.normal), edge), dot(from.normal, to.normal));
  const turned = axes.map((axis) => rotateAbout(inPlane(axis, from.normal), edge, angle)) as [Vec3, Vec3];
  // A point of the edge has to keep its coordinates: its plain position differs by what is put into the shift.
  const point = edgePoint(from, to, edge);
  const next: Face = { ...to, material: from.material, axes: turned, scale: from.scale, turn: from.turn, shift: [0, 0] };
  const before = plainPoint(from, point);
  const after = plainPoint(next, point);
  return { ...next, shift: [(from.shift?.[0] ?? 0) + before[0] - after[0], (from.shift?.[1] ?? 0) + before[1] - after[1]] };
}

/**
 * What a projection axis measures along the face: its part in the plane, grown by the slope so that one step
 * in the plane still measures the same coordinate.
 */
function inPlane(axis: Vec3, normal: Vec3): Vec3 {
  return sub(axis, scale(normal, dot(axis, normal)));
}

function rotateAbout(p: Vec3, axis: Vec3, angle: number): Vec3 {
  // Rodrigues' rotation formula.
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const k = dot(axis, p) * (1 - c);
  const q = cross(axis, p);
  return [p[0] * c + q[0] * s + axis[0] * k, p[1] * c + q[1] * s + axis[1] * k, p[2] * c + q[2] * s + axis[2] * k];
}

/** A point on both planes. */
function edgePoint(a: Face, b: Face, edge: Vec3): Vec3 {
  const p = scale(cross(b.normal, edge), a.distance);
  const q = scale(cross(edge, a.normal), b.distance);
  const d = dot(a.normal, cross(b.normal, edge));
  return [(p[0] + q[0]) / d, (p[1] + q[1]) / d, (p[2] + q[2]) / d];
}

/** Texels per metre on a face, along its texture's right axis, for a texture of `texels` per repeat. */
export function texelDensity(face: Face, unitsPerRepeat: number, texels: number, metresPerUnit: number): number {
  const axis = face.axes?.[0] ?? projectionAxes(face.normal).u;
  return (texels * length(inPlane(axis, face.normal))) / (unitsPerRepeat * Math.abs(sizeOf(face)[0]) * metresPerUnit);
}
