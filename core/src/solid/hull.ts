/** The convex solid around points. */

import { Vector3 } from 'three';
import { ConvexHull } from 'three/examples/jsm/math/ConvexHull.js';
import type { Face, Solid } from '../document/schema.ts';
import { cross, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { ON_PLANE, samePlane } from './winding.ts';

/**
 * The hull of points, or null where they lie in one plane. Every face takes the look (material and
 * projection) of the face in `looks` that points most nearly the same way, the same plane first.
 */
export function hullSolid(points: readonly Vec3[], looks: readonly Face[]): Solid | null {
  const hull = new ConvexHull().setFromPoints(points.map((p) => new Vector3(...p)));
  const planes: { normal: Vec3; distance: number; area: number }[] = [];
  for (const face of hull.faces) {
    const ring: Vec3[] = [];
    let edge = face.edge;
    do {
      const { x, y, z } = edge.head().point;
      ring.push([x, y, z]);
      edge = edge.next;
    } while (edge !== face.edge);
    const raw = cross(sub(ring[1], ring[0]), sub(ring[2], ring[0]));
    const area = length(raw);
    if (area < 1e-6) continue;
    const normal = axial(normalise(raw));
    const distance = dot(normal, ring[0]);
    const same = planes.findIndex((p) => samePlane(p, { normal, distance }) || nearlySame(p, normal, ring));
    // Of the triangles of one face the largest knows its plane best.
    if (same < 0) planes.push({ normal, distance, area });
    else if (area > planes[same].area) planes[same] = { normal, distance, area };
  }
  if (planes.length < 4) return null;
  return {
    faces: planes.map(({ normal, distance }) => {
      const like = looks.find((look) => samePlane(look, { normal, distance })) ?? likest(looks, normal);
      return { ...like, normal, distance };
    }),
  };
}

const likest = (looks: readonly Face[], normal: Vec3): Face =>
  looks.reduce((best, look) => (dot(look.normal, normal) > dot(best.normal, normal) ? look : best));

const axial = (normal: Vec3): Vec3 => normal.map((v) => (Math.abs(v) < 1e-10 ? 0 : Math.abs(Math.abs(v) - 1) < 1e-10 ? Math.sign(v) : v)) as Vec3;

const nearlySame = (plane: { normal: Vec3; distance: number }, normal: Vec3, ring: readonly Vec3[]): boolean =>
  dot(plane.normal, normal) > 1 - 1e-6 && ring.every((p) => Math.abs(dot(plane.normal, p) - plane.distance) < ON_PLANE);
