/**
 * Windings: convex polygons in space, counter-clockwise seen from the side to which their plane's normal
 * points. Clipping keeps exact input coordinates wherever a vertex is not cut.
 */

import { addScaled, cross, dot, length, lerp, normalise, sub, type Vec3 } from '../math/vec3.ts';

export interface Plane {
  /** Unit normal. */
  normal: Vec3;
  /** normal · p for points p of the plane. */
  distance: number;
}

export type Winding = Vec3[];

/** Distance in units within which a point counts as on a plane. */
export const ON_PLANE = 1e-3;

/** Half the edge of the square from which windings are cut; maps must lie within. */
export const WORLD_HALF = 65536;

export const planeSide = (plane: Plane, point: Vec3): number => dot(plane.normal, point) - plane.distance;

export const flipPlane = (plane: Plane): Plane => ({
  normal: [-plane.normal[0], -plane.normal[1], -plane.normal[2]],
  distance: -plane.distance,
});

export const samePlane = (a: Plane, b: Plane): boolean => dot(a.normal, b.normal) > 1 - 1e-7 && Math.abs(a.distance - b.distance) < ON_PLANE;

/** A square of half edge WORLD_HALF on `plane`. */
export function baseWinding(plane: Plane): Winding {
  const n = plane.normal;
  const helper: Vec3 = Math.abs(n[2]) < 0.7 ? [0, 0, 1] : [1, 0, 0];
  const right = normalise(cross(helper, n));
  const up = cross(n, right);
  const origin: Vec3 = [n[0] * plane.distance, n[1] * plane.distance, n[2] * plane.distance];
  const corner = (r: number, u: number) => addScaled(addScaled(origin, right, r * WORLD_HALF), up, u * WORLD_HALF);
  return [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
}

export interface Split {
  front: Winding | null;
  back: Winding | null;
  /** All points lie on the plane; then `front` and `back` are both null. */
  on: boolean;
}

/** Splits a winding by a plane. Slivers with no point further than `epsilon` from the plane are dropped. */
export function splitWinding(winding: Winding, plane: Plane, epsilon = ON_PLANE): Split {
  let anyFront = false;
  let anyBack = false;
  const sides = new Array<number>(winding.length);
  for (let i = 0; i < winding.length; i++) {
    const d = planeSide(plane, winding[i]);
    sides[i] = d > epsilon ? d : d < -epsilon ? d : 0;
    if (sides[i] > 0) anyFront = true;
    else if (sides[i] < 0) anyBack = true;
  }
  if (!anyFront && !anyBack) return { front: null, back: null, on: true };
  if (!anyBack) return { front: winding, back: null, on: false };
  if (!anyFront) return { front: null, back: winding, on: false };
  const front: Winding = [];
  const back: Winding = [];
  for (let i = 0; i < winding.length; i++) {
    const p = winding[i];
    const q = winding[(i + 1) % winding.length];
    const a = sides[i];
    const b = sides[(i + 1) % winding.length];
    if (a >= 0) front.push(p);
    if (a <= 0) back.push(p);
    if ((a > 0 && b < 0) || (a < 0 && b > 0)) {
      const cut = cutPoint(p, q, a / (a - b), plane);
      front.push(cut);
      back.push(cut);
    }
  }
  return { front: front.length >= 3 ? front : null, back: back.length >= 3 ? back : null, on: false };
}

/** The point between p and q at t, put exactly on axial planes so that rounding does not accumulate. */
function cutPoint(p: Vec3, q: Vec3, t: number, plane: Plane): Vec3 {
  const cut = lerp(p, q, t);
  for (let axis = 0; axis < 3; axis++) {
    if (plane.normal[axis] === 1) cut[axis] = plane.distance;
    else if (plane.normal[axis] === -1) cut[axis] = 0 - plane.distance;
    else if (p[axis] === q[axis]) cut[axis] = p[axis];
  }
  return cut;
}

/** The part of a winding behind the plane, or null. A winding in the plane counts as behind. */
export function clipBehind(winding: Winding, plane: Plane, epsilon = ON_PLANE): Winding | null {
  const split = splitWinding(winding, plane, epsilon);
  return split.on ? winding : split.back;
}

/** Twice the area vector by Newell's method: along the normal, length = 2 × area. */
export function newell(winding: Winding): Vec3 {
  const n: Vec3 = [0, 0, 0];
  for (let i = 0; i < winding.length; i++) {
    const p = winding[i];
    const q = winding[(i + 1) % winding.length];
    n[0] += (p[1] - q[1]) * (p[2] + q[2]);
    n[1] += (p[2] - q[2]) * (p[0] + q[0]);
    n[2] += (p[0] - q[0]) * (p[1] + q[1]);
  }
  return n;
}

export const windingArea = (winding: Winding): number => length(newell(winding)) / 2;

export function windingCentre(winding: Winding): Vec3 {
  const c: Vec3 = [0, 0, 0];
  for (const p of winding) for (let axis = 0; axis < 3; axis++) c[axis] += p[axis] / winding.length;
  return c;
}

/** Whether a point of the winding's plane lies inside it. */
export function windingContains(winding: Winding, normal: Vec3, point: Vec3, epsilon = ON_PLANE): boolean {
  for (let i = 0; i < winding.length; i++) {
    const p = winding[i];
    const edge = sub(winding[(i + 1) % winding.length], p);
    const inward = normalise(cross(normal, edge));
    if (dot(inward, sub(point, p)) < -epsilon) return false;
  }
  return true;
}
