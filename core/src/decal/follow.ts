/** What decals lie on takes them along: an edit that moves, turns or reshapes a solid moves its decals. */

import type { Change, MapEdit } from '../document/edit.ts';
import type { Decal, Face, GameMap, Overlay, Solid } from '../document/schema.ts';
import { tidy } from '../math/tidy.ts';
import { addScaled, cross, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { shapeOf } from '../solid/shape.ts';
import { applyAffine, type Affine } from '../solid/transform.ts';
import { windingContains } from '../solid/winding.ts';
import { movedTo } from './place.ts';

/** How the kinds of what lies on surfaces are moved. */
export interface Carriers {
  decals(member: Decal, motion: Affine): Decal;
  overlays(member: Overlay, motion: Affine): Overlay;
}

/** The edit with what follows from it: the same value where nothing does. What the edit changes itself, or takes out, does not follow as well. */
export function withCarriedBy(map: GameMap, edit: MapEdit, carriers: Carriers): MapEdit {
  const solids = new Map(edit.changes.flatMap((change) => (change.of === 'solids' && change.to ? [[change.id, change.to] as const] : [])));
  if (solids.size === 0) return edit;
  const changed = new Set(edit.changes.flatMap((change) => (change.of === 'decals' || change.of === 'overlays' ? [change.id] : [])));
  const motions = new Map<string, Affine | null>();
  /** A member after what became of its solid. */
  const moved = <T extends Decal | Overlay>(
    id: string,
    member: T,
    carry: (member: T, motion: Affine) => T,
    onFace: (before: Solid, after: Solid) => T,
  ): T => {
    const after = member.on === undefined ? undefined : solids.get(member.on);
    const before = map.solids[member.on ?? ''];
    if (!after || !before || changed.has(id)) return member;
    if (!motions.has(member.on!)) motions.set(member.on!, motionOf(before, after));
    const motion = motions.get(member.on!);
    return motion ? carry(member, motion) : onFace(before, after);
  };
  const tidied = (v: readonly number[]) => v.map(tidy) as Vec3;
  const changes: Change[] = [];
  for (const [id, decal] of Object.entries(map.decals)) {
    const to = moved(id, decal, carriers.decals, (before, after) => decalOnFace(decal, before, after));
    if (to !== decal) changes.push({ of: 'decals', id, to: { ...to, position: tidied(to.position), normal: tidied(to.normal) } });
  }
  for (const [id, overlay] of Object.entries(map.overlays)) {
    const to = moved(id, overlay, carriers.overlays, (before, after) => overlayOnFace(overlay, before, after));
    if (to !== overlay) changes.push({ of: 'overlays', id, to: { ...to, points: to.points.map(tidied), normal: tidied(to.normal) } });
  }
  return changes.length > 0 ? { ...edit, changes: [...edit.changes, ...changes] } : edit;
}

/** The rigid motion that makes one solid of another; null where it was reshaped, or stays where it is. */
export function motionOf(before: Solid, after: Solid): Affine | null {
  if (before.faces.length !== after.faces.length) return null;
  const ofFace = (solid: Solid, face: number) => shapeOf(solid).polygons.find((polygon) => polygon.face === face)?.winding ?? [];
  const { face: first } = shapeOf(before).polygons[0];
  const [was, is] = [ofFace(before, first), ofFace(after, first)];
  if (was.length !== is.length || was.length < 3) return null;
  const frame = ([a, b, c]: readonly Vec3[]) => {
    const x = normalise(sub(b, a));
    const z = normalise(cross(x, sub(c, a)));
    return { at: a, axes: [x, cross(z, x), z] as const };
  };
  const from = frame(was);
  // The same face may begin at another of its corners.
  for (let shift = 0; shift < is.length; shift++) {
    const to = frame([...is.slice(shift), ...is.slice(0, shift)]);
    const row = (i: number): Vec3 => [0, 1, 2].map((k) => [0, 1, 2].reduce((sum, n) => sum + to.axes[n][i] * from.axes[n][k], 0)) as Vec3;
    const rows: Affine['rows'] = [row(0), row(1), row(2)];
    const move = sub(to.at, applyAffine({ rows, move: [0, 0, 0] }, from.at));
    const fits = before.faces.every(({ normal, distance }, i) => {
      const turned = applyAffine({ rows, move: [0, 0, 0] }, normal);
      const face = after.faces[i];
      return length(sub(turned, face.normal)) < 1e-4 && Math.abs(distance + dot(turned, move) - face.distance) < 1e-2;
    });
    if (!fits) continue;
    const still = length(move) < 1e-6 && rows.every((one, i) => Math.abs(one[i] - 1) < 1e-9);
    return still ? null : { rows, move };
  }
  return null;
}

/** The face of a solid that a point lies on, after a reshaping; nothing where there is none any more. */
function faceAfter(point: Vec3, before: Solid, after: Solid): Face | undefined {
  const lies = shapeOf(before).polygons.find(({ face, winding }) => {
    const { normal, distance } = before.faces[face];
    return Math.abs(dot(normal, point) - distance) < 0.01 && windingContains(winding, normal, point, 0.01);
  });
  return lies && after.faces.length === before.faces.length ? after.faces[lies.face] : undefined;
}

const away = ({ normal, distance }: Face, point: Vec3): number => distance - dot(normal, point);

/** After a reshaping: with the face that it lies on, along that face's normal. The decal itself where that face stayed. */
function decalOnFace(decal: Decal, before: Solid, after: Solid): Decal {
  const to = faceAfter(decal.position, before, after);
  if (!to || Math.abs(away(to, decal.position)) < 1e-6) return decal;
  return movedTo(decal, { point: addScaled(decal.position, to.normal, away(to, decal.position)), normal: to.normal, solid: decal.on });
}

/** The same of an overlay, each point with its own face. */
function overlayOnFace(overlay: Overlay, before: Solid, after: Solid): Overlay {
  const points = overlay.points.map((point) => {
    const to = faceAfter(point, before, after);
    return to && Math.abs(away(to, point)) > 1e-6 ? addScaled(point, to.normal, away(to, point)) : point;
  });
  return points.every((point, i) => point === overlay.points[i]) ? overlay : { ...overlay, points };
}
