/** What follows the ground: objects, placed prefabs and paths that are set to it, and decals that lie on it, go up and down with the height under them. */

import { applyEdit, type Change, type MapEdit } from '../document/edit.ts';
import type { GameMap } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { groundBelow, groundsOf } from './ground.ts';

/** The edit with what follows from it: the same value where nothing does. What the edit moves itself does not follow as well. */
export function withFollowers(map: GameMap, edit: MapEdit): MapEdit {
  if (!edit.changes.some(({ of }) => of === 'tiles' || of === 'terrains')) return edit;
  const changed = new Set(edit.changes.map((change) => (change.of === 'settings' ? '' : `${change.of}/${change.id}`)));
  const followers = (['objects', 'copies', 'paths'] as const).flatMap((of) =>
    Object.keys(map[of]).flatMap((id) => (map[of][id].contact === 'follow' && !changed.has(`${of}/${id}`) ? [{ of, id }] : [])),
  );
  const lying = [...Object.values(map.decals), ...Object.values(map.overlays)].some(({ on }) => on === undefined);
  if (followers.length === 0 && !lying) return edit;
  const [before, after] = [groundsOf(map), groundsOf(applyEdit(map, edit))];
  const moved = (point: Vec3): Vec3 => {
    const [x, y, z] = point;
    const [was, is] = [before, after].map((grounds) => groundBelow(grounds, x, y)?.height);
    if (was === undefined || is === undefined || was === is) return point;
    // As coarse as heights are told: strokes back and forth leave no dust of digits.
    return [x, y, Math.round((z + is - was) * 1e4) / 1e4];
  };
  const changes = followers.flatMap(({ of, id }): Change[] => {
    if (of === 'paths') {
      const points = map.paths[id].points.map(moved);
      return points.every((point, n) => point === map.paths[id].points[n]) ? [] : [{ of, id, to: { ...map.paths[id], points } }];
    }
    const position = moved(map[of][id].position);
    if (position === map[of][id].position) return [];
    return [of === 'objects' ? { of, id, to: { ...map.objects[id], position } } : { of, id, to: { ...map.copies[id], position } }];
  });
  // What lies on no solid, and within its depth of the ground, lies on that.
  const onIt = ([x, y, z]: Vec3, depth: number) => Math.abs((groundBelow(before, x, y)?.height ?? Infinity) - z) <= depth;
  for (const [id, decal] of Object.entries(map.decals)) {
    if (decal.on !== undefined || changed.has(`decals/${id}`) || !onIt(decal.position, decal.depth)) continue;
    const position = moved(decal.position);
    if (position !== decal.position) changes.push({ of: 'decals', id, to: { ...decal, position } });
  }
  for (const [id, overlay] of Object.entries(map.overlays)) {
    if (overlay.on !== undefined || changed.has(`overlays/${id}`) || !overlay.points.every((point) => onIt(point, overlay.depth))) continue;
    const points = overlay.points.map(moved);
    if (points.some((point, n) => point !== overlay.points[n])) changes.push({ of: 'overlays', id, to: { ...overlay, points } });
  }
  return changes.length > 0 ? { ...edit, changes: [...edit.changes, ...changes] } : edit;
}
