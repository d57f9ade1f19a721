/** The geometry of solids: from bounding planes to polygons, boxes and point tests. */

import type { Face, Solid } from '../document/schema.ts';
import { boxOfPoints, type Box3 } from '../math/box3.ts';
import { normalise, snap, type Vec3 } from '../math/vec3.ts';
import { baseWinding, clipBehind, ON_PLANE, planeSide, windingArea, WORLD_HALF, type Winding } from './winding.ts';

export interface SolidPolygon {
  /** Index into the solid's faces. */
  face: number;
  winding: Winding;
}

/** One polygon for every face that bounds the solid; redundant planes yield none. */
export function solidPolygons(solid: Solid): SolidPolygon[] {
  const plain = boxPolygons(solid);
  if (plain) return plain;
  const polygons: SolidPolygon[] = [];
  for (let face = 0; face < solid.faces.length; face++) {
    let winding: Winding | null = baseWinding(solid.faces[face]);
    for (let other = 0; other < solid.faces.length && winding; other++) {
      if (other !== face) winding = clipBehind(winding, solid.faces[other]);
    }
    if (winding && windingArea(winding) > ON_PLANE) polygons.push({ face, winding: winding.map(cleanPoint) });
  }
  return polygons;
}

/** The polygons of a block along the axes, which most solids are, without clipping anything; null for other solids. */
function boxPolygons(solid: Solid): SolidPolygon[] | null {
  if (solid.faces.length !== 6) return null;
  const ends: [number, number][] = [
    [NaN, NaN],
    [NaN, NaN],
    [NaN, NaN],
  ];
  for (const { normal, distance } of solid.faces) {
    const axis = normal[0] !== 0 ? 0 : normal[1] !== 0 ? 1 : 2;
    if (Math.abs(normal[axis]) !== 1 || normal[(axis + 1) % 3] !== 0 || normal[(axis + 2) % 3] !== 0) return null;
    const side = normal[axis] > 0 ? 1 : 0;
    if (!Number.isNaN(ends[axis][side])) return null;
    ends[axis][side] = normal[axis] > 0 ? distance : 0 - distance;
  }
  if (!ends.every(([low, high]) => high - low > ON_PLANE * 2 && low > -WORLD_HALF && high < WORLD_HALF)) return null;
  return solid.faces.map(({ normal }, face) => {
    const axis = normal[0] !== 0 ? 0 : normal[1] !== 0 ? 1 : 2;
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const corner = (i: 0 | 1, j: 0 | 1): Vec3 => {
      const p: Vec3 = [0, 0, 0];
      p[axis] = ends[axis][normal[axis] > 0 ? 1 : 0];
      p[u] = ends[u][i];
      p[v] = ends[v][j];
      return cleanPoint(p);
    };
    // u × v is the axis, so this order is counter-clockwise from its positive side.
    const ring = [corner(0, 0), corner(1, 0), corner(1, 1), corner(0, 1)];
    return { face, winding: normal[axis] > 0 ? ring : ring.reverse() };
  });
}

/** Removes the rounding that clipping a huge square leaves: points within 1/4096 of a 1/64 grid go onto it. */
function cleanPoint(point: Vec3): Vec3 {
  const grid = snap(point, 1 / 64);
  return [0, 1, 2].map((axis) => (Math.abs(grid[axis] - point[axis]) < 1 / 4096 ? grid[axis] + 0 : point[axis])) as Vec3;
}

export function solidBox(solid: Solid): Box3 {
  return boxOfPoints(solidPolygons(solid).flatMap((polygon) => polygon.winding));
}

/** Whether `point` is inside; points within `epsilon` of the surface count as inside when it is positive. */
export function solidContains(solid: Solid, point: Vec3, epsilon = 0): boolean {
  return solid.faces.every((face) => planeSide(face, point) <= epsilon);
}

/** Volume by the divergence theorem: a third of the sum of area × plane distance. Units cubed. */
export function solidVolume(solid: Solid): number {
  let volume = 0;
  for (const { face, winding } of solidPolygons(solid)) volume += (windingArea(winding) * solid.faces[face].distance) / 3;
  return volume;
}

/** Moves a solid; the projection of its faces stays in the world. */
export function moveSolid(solid: Solid, by: Vec3): Solid {
  return {
    ...solid,
    faces: solid.faces.map((face) => ({
      ...face,
      distance: face.distance + face.normal[0] * by[0] + face.normal[1] * by[1] + face.normal[2] * by[2],
    })),
  };
}

/** Fits a solid's bounding box to `to`: a scaling per axis about the box, which keeps it convex. */
export function resizeSolid(solid: Solid, to: Box3): Solid {
  const from = solidBox(solid);
  const factor = [0, 1, 2].map((axis) => (to.max[axis] - to.min[axis]) / (from.max[axis] - from.min[axis] || 1));
  const faces = solid.faces.map((face): Face => {
    // A plane n·p = d maps to (n/f)·p' = d + Σ n_i (to_i/f_i - from_i).
    const raw = face.normal.map((n, axis) => n / factor[axis]) as Vec3;
    let distance = face.distance;
    for (let axis = 0; axis < 3; axis++) distance += face.normal[axis] * (to.min[axis] / factor[axis] - from.min[axis]);
    const size = Math.hypot(...raw);
    return { ...face, normal: normalise(raw), distance: distance / size };
  });
  return { ...solid, faces };
}
