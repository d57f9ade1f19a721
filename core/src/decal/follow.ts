/** What decals lie on takes them along: an edit that moves, turns or reshapes a solid moves its decals. */

import type { Change, MapEdit } from '../document/edit.ts';
import type { Decal, GameMap, Solid } from '../document/schema.ts';
import { tidy } from '../math/tidy.ts';
import { addScaled, cross, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { shapeOf } from '../solid/shape.ts';
import { applyAffine, type Affine } from '../solid/transform.ts';
import { windingContains } from '../solid/winding.ts';
import { movedTo } from './place.ts';

/** The edit with what follows from it: the same value where nothing does. What the edit changes itself, or takes out, does not follow as well. */
export function withDecalsCarried(map: GameMap, edit: MapEdit, transform: (decal: Decal, affine: Affine) => Decal): MapEdit {
  const solids = new Map(edit.changes.flatMap((change) => (change.of === 'solids' && change.to ? [[change.id, change.to] as const] : [])));
  if (solids.size === 0) return edit;
  const changed = new Set(edit.changes.flatMap((change) => (change.of === 'decals' ? [change.id] : [])));
  const motions = new Map<string, Affine | null>();
  const changes = Object.entries(map.decals).flatMap(([id, decal]): Change[] => {
    const after = decal.on === undefined ? undefined : solids.get(decal.on);
    const before = map.solids[decal.on ?? ''];
    if (!after || !before || changed.has(id)) return [];
    if (!motions.has(decal.on!)) motions.set(decal.on!, motionOf(before, after));
    const motion = motions.get(decal.on!);
    const to = motion ? transform(decal, motion) : onFace(decal, before, after);
    return to === decal ? [] : [{ of: 'decals', id, to: { ...to, position: to.position.map(tidy) as Vec3, normal: to.normal.map(tidy) as Vec3 } }];
  });
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

/** After a reshaping: with the face that it lies on, along that face's normal. The decal itself where that face stayed. */
function onFace(decal: Decal, before: Solid, after: Solid): Decal {
  const lies = shapeOf(before).polygons.find(
    ({ face, winding }) =>
      Math.abs(dot(before.faces[face].normal, decal.position) - before.faces[face].distance) < 0.01 &&
      windingContains(winding, before.faces[face].normal, decal.position, 0.01),
  );
  const to = lies && after.faces.length === before.faces.length ? after.faces[lies.face] : undefined;
  if (!to) return decal;
  const away = to.distance - dot(to.normal, decal.position);
  if (Math.abs(away) < 1e-6) return decal;
  return movedTo(decal, { point: addScaled(decal.position, to.normal, away), normal: to.normal, solid: decal.on });
}
