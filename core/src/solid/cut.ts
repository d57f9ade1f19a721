/** Cutting, joining and hollowing of convex solids. All results are convex and closed. */

import type { Face, Solid } from '../document/schema.ts';
import { boxesTouch } from '../math/box3.ts';
import { cross, dot, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { hullSolid } from './hull.ts';
import { shapeOf } from './shape.ts';
import { solidPolygons, solidVolume } from './solid.ts';
import { flipPlane, ON_PLANE, planeSide, samePlane, type Plane } from './winding.ts';

/** Volumes below this, in units cubed, are rounding and not solids. */
const LEAST_VOLUME = 1e-3;

/** How far a corner may stick out of a plane, in units, before that plane is missed. */
const OUTSIDE = 10 * ON_PLANE;

/** The solid without planes that bound nothing of it, or null where nothing is left. */
export function trimSolid(solid: Solid): Solid | null {
  const kept: Face[] = [];
  const keep = (candidate: Face): void => {
    if (!kept.some((other) => samePlane(other, candidate))) kept.push(candidate);
  };
  for (const { face } of solidPolygons(solid)) keep(solid.faces[face]);
  if (kept.length < 4) return null;
  // A face too small for a polygon may still end a sliver; without it the others would meet far away.
  const corners = solidPolygons({ ...solid, faces: kept }).flatMap(({ winding }) => winding);
  for (const face of solid.faces) if (corners.some((corner) => planeSide(face, corner) > OUTSIDE)) keep(face);
  const trimmed = { ...solid, faces: kept };
  return solidVolume(trimmed) > LEAST_VOLUME ? trimmed : null;
}

/** What lies in front of and behind a plane. The new faces take `material`, else that of the face most like them. */
export function splitSolid(solid: Solid, plane: Plane, material?: string): { front: Solid | null; back: Solid | null } {
  const sides = shapeOf(solid).polygons.flatMap((polygon) => polygon.winding.map((p) => planeSide(plane, p)));
  if (sides.every((d) => d >= -ON_PLANE)) return { front: solid, back: null };
  if (sides.every((d) => d <= ON_PLANE)) return { front: null, back: solid };
  const cap = (p: Plane): Face => ({ normal: p.normal, distance: p.distance, material: material ?? likestFace(solid, p.normal).material });
  return {
    front: trimSolid({ ...solid, faces: [...solid.faces, cap(flipPlane(plane))] }),
    back: trimSolid({ ...solid, faces: [...solid.faces, cap(plane)] }),
  };
}

function likestFace(solid: Solid, normal: Vec3): Face {
  return solid.faces.reduce((best, face) => (dot(face.normal, normal) > dot(best.normal, normal) ? face : best));
}

/** Cuts a solid into `parts` of equal depth across `axis` (a unit vector): loops of edges all round it. */
export function ringCut(solid: Solid, axis: Vec3, parts: number): Solid[] {
  const depths = shapeOf(solid).polygons.flatMap((polygon) => polygon.winding.map((p) => dot(p, axis)));
  const [low, high] = [Math.min(...depths), Math.max(...depths)];
  const done: Solid[] = [];
  let rest: Solid | null = solid;
  for (let i = 1; i < parts && rest; i++) {
    const { front, back } = splitSolid(rest, { normal: axis, distance: low + ((high - low) * i) / parts });
    if (back) done.push(back);
    rest = front;
  }
  return rest ? [...done, rest] : done;
}

/** The pieces of `solid` outside `cutter`; the solid itself where they do not overlap. New faces take the cutter's materials. */
export function subtractSolid(solid: Solid, cutter: Solid): Solid[] {
  if (!solidsOverlap(solid, cutter)) return [solid];
  const pieces: Solid[] = [];
  let rest: Solid | null = solid;
  for (const { face } of shapeOf(cutter).polygons) {
    if (!rest) break;
    const plane = cutter.faces[face];
    const { front, back }: { front: Solid | null; back: Solid | null } = splitSolid(rest, plane, plane.material);
    if (front) pieces.push(front);
    rest = back;
  }
  return pieces;
}

/** Whether two solids share a volume; touching faces do not count. */
export function solidsOverlap(a: Solid, b: Solid): boolean {
  const [boxA, boxB] = [shapeOf(a).box, shapeOf(b).box];
  if (!boxesTouch(boxA, boxB, -ON_PLANE)) return false;
  return intersectSolids([a, b]) !== null;
}

/** What several solids have in common, or null. Faces keep their materials. */
export function intersectSolids(solids: readonly Solid[]): Solid | null {
  const [first, ...others] = solids;
  return others.reduce<Solid | null>(
    (common, other) => common && trimSolid({ ...common, faces: [...common.faces, ...other.faces] }),
    first ? trimSolid(first) : null,
  );
}

/** Volume that solids cover together; overlaps count once. */
export function unionVolume(solids: readonly Solid[]): number {
  let volume = 0;
  solids.forEach((solid, i) => {
    let pieces = [solid];
    for (const earlier of solids.slice(0, i)) pieces = pieces.flatMap((piece) => subtractSolid(piece, earlier));
    volume += pieces.reduce((sum, piece) => sum + solidVolume(piece), 0);
  });
  return volume;
}

/** One solid in place of several, or a sentence that says why that cannot be. */
export function mergeSolids(solids: readonly Solid[]): Solid | string {
  if (solids.length < 2) return 'Merging needs at least two solids.';
  const hull = hullSolid(
    solids.flatMap((solid) => shapeOf(solid).polygons.flatMap((polygon) => polygon.winding)),
    solids.flatMap((solid) => solid.faces),
  );
  if (!hull) return 'They enclose no volume together.';
  const whole = solidVolume(hull);
  const covered = unionVolume(solids);
  if (whole - covered > Math.max(LEAST_VOLUME * 10, whole * 1e-6))
    return `Together they are not convex: ${Math.round(((whole - covered) / whole) * 1000) / 10} % of their common hull is empty.`;
  return { ...hull, detail: solids.every((s) => s.detail) || undefined };
}

/**
 * The walls of a solid, `thickness` inwards (outwards when negative), or a sentence that says why not. The
 * walls overlap nowhere.
 */
export function hollowSolid(solid: Solid, thickness: number): Solid[] | string {
  const moved = (by: number): Solid | null => trimSolid({ ...solid, faces: solid.faces.map((f) => ({ ...f, distance: f.distance + by })) });
  const inner = thickness > 0 ? moved(-thickness) : solid;
  const outer = thickness > 0 ? solid : moved(-thickness);
  if (thickness === 0) return 'The walls need a thickness.';
  if (!inner || !outer || shapeOf(inner).polygons.length < shapeOf(solid).polygons.length)
    return `It is too small for walls of ${Math.abs(thickness)}: nothing would be left inside.`;
  return subtractSolid(outer, inner);
}

/** A face moved along its normal by `by`, or a sentence that says why not. */
export function pushFace(solid: Solid, face: number, by: number): Solid | string {
  const moved = trimSolid({ ...solid, faces: solid.faces.map((f, i) => (i === face ? { ...f, distance: f.distance + by } : f)) });
  if (!moved) return 'Nothing would be left of the solid.';
  if (moved.faces.length < shapeOf(solid).polygons.length || !moved.faces.some((f) => dot(f.normal, solid.faces[face].normal) > 1 - 1e-9))
    return 'Pushed that far, another face would vanish.';
  return moved;
}

/** A new solid on a face, `depth` deep along its normal; a negative depth grows it inwards. */
export function extrudeFace(solid: Solid, face: number, depth: number): Solid | string {
  const polygon = shapeOf(solid).polygons.find((p) => p.face === face);
  if (!polygon || Math.abs(depth) < ON_PLANE) return 'There is nothing to extrude.';
  const { normal, distance, ...look } = solid.faces[face];
  const [near, far] = depth > 0 ? [distance, distance + depth] : [distance + depth, distance];
  const sides = polygon.winding.map((p, i): Face => {
    const edge = sub(polygon.winding[(i + 1) % polygon.winding.length], p);
    const unit = normalise(cross(edge, normal));
    return { normal: unit, distance: dot(unit, p), material: look.material };
  });
  const grown = trimSolid({
    faces: [{ ...look, normal, distance: far }, { ...flipPlane({ normal, distance: near }), material: look.material }, ...sides],
    ...(solid.detail ? { detail: true } : {}),
  });
  return grown ?? 'The face is too small to extrude.';
}
