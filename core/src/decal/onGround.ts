/** Ground that decals can lie on, as the triangles of its samples. */

import { boxesTouch, boxOfPoints, type Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import { cross, normalise, sub, type Vec3 } from '../math/vec3.ts';
import type { HeightField } from '../terrain/heightField.ts';
import type { DecalHost } from './lay.ts';

/** Quads that one box may reach over; of larger ones every so many samples stand for all. */
const MOST_QUADS = 1 << 16;

const face = (winding: [Vec3, Vec3, Vec3]): DecalHost => ({
  winding,
  normal: normalise(cross(sub(winding[1], winding[0]), sub(winding[2], winding[0]))),
});

/** Triangles of a ground that a box reaches into, as `heightField.ts` divides its quads. @param each told with a name of the triangle's own */
export function groundFaces(ground: HeightField, { min, max }: Box3, each: (name: string, face: DecalHost) => void): void {
  const low = ground.sampleOf(min[0], min[1]).map(Math.floor);
  const high = ground.sampleOf(max[0], max[1]).map(Math.ceil);
  const [i0, j0] = low.map((v) => Math.max(0, v));
  const [i1, j1] = [Math.min(ground.nx - 1, high[0]), Math.min(ground.ny - 1, high[1])];
  if (i0 >= i1 || j0 >= j1) return;
  const stride = Math.max(1, Math.ceil(Math.sqrt(((i1 - i0) * (j1 - j0)) / MOST_QUADS)));
  const corner = (i: number, j: number): Vec3 => [...ground.pointOf(i, j), ground.at(i, j)];
  const touches = (points: readonly Vec3[]) => points.some(([, , z]) => z >= min[2]) && points.some(([, , z]) => z <= max[2]);
  for (let j = j0; j < j1; j += stride)
    for (let i = i0; i < i1; i += stride) {
      if (!ground.isThere(i, j)) continue;
      const [right, far] = [Math.min(ground.nx - 1, i + stride), Math.min(ground.ny - 1, j + stride)];
      const [a, b, c, d] = [corner(i, j), corner(right, j), corner(i, far), corner(right, far)];
      if (touches([a, b, c])) each(`${i} ${j} ${stride} 0`, face([a, b, c]));
      if (touches([b, d, c])) each(`${i} ${j} ${stride} 1`, face([b, d, c]));
    }
}

/** Triangles of all grounds that any of some boxes reach into, each once. */
export function groundHosts(grounds: readonly HeightField[], boxes: readonly Box3[]): DecalHost[] {
  const found = new Map<string, DecalHost>();
  grounds.forEach((ground, n) => {
    for (const box of boxes) groundFaces(ground, box, (name, host) => found.set(`${n} ${name}`, host));
  });
  return [...found.values()];
}

/** Those of many triangles (nine numbers each) that any of some boxes touch. */
export function trianglesNear(triangles: Float32Array, boxes: readonly Box3[]): DecalHost[] {
  if (boxes.length === 0) return [];
  const sizes = boxes.map(({ min, max }) => Math.max(max[0] - min[0], max[1] - min[1])).sort((a, b) => a - b);
  const grid = new BoxGrid<Box3>(Math.max(1e-3, sizes[sizes.length >> 1] * 2));
  for (const box of boxes) grid.add(box, box);
  const hosts: DecalHost[] = [];
  for (let at = 0; at < triangles.length; at += 9) {
    const point = (k: number): Vec3 => [triangles[at + k], triangles[at + k + 1], triangles[at + k + 2]];
    const winding: [Vec3, Vec3, Vec3] = [point(0), point(3), point(6)];
    const box = boxOfPoints(winding);
    if (grid.near(box).some((other) => boxesTouch(other, box))) hosts.push(face(winding));
  }
  return hosts;
}
