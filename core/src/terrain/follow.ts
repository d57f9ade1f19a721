/** What follows the ground: objects that are set to it go up and down with the height under them. */

import { applyEdit, type Change, type MapEdit } from '../document/edit.ts';
import type { GameMap } from '../document/schema.ts';
import { groundBelow, groundsOf } from './ground.ts';

/** The edit with what follows from it: the same value where nothing does, or where it moves what would follow by itself. */
export function withFollowers(map: GameMap, edit: MapEdit): MapEdit {
  if (!edit.changes.some(({ of }) => of === 'tiles' || of === 'terrains')) return edit;
  const moved = new Set(edit.changes.flatMap((change) => (change.of === 'objects' ? [change.id] : [])));
  const followers = Object.entries(map.objects).filter(([id, { contact }]) => contact === 'follow' && !moved.has(id));
  if (followers.length === 0) return edit;
  const [before, after] = [groundsOf(map), groundsOf(applyEdit(map, edit))];
  const changes = followers.flatMap(([id, object]): Change[] => {
    const [x, y, z] = object.position;
    const [was, is] = [before, after].map((grounds) => groundBelow(grounds, x, y)?.height);
    if (was === undefined || is === undefined || was === is) return [];
    // As coarse as heights are told: strokes back and forth leave no dust of digits.
    return [{ of: 'objects', id, to: { ...object, position: [x, y, Math.round((z + is - was) * 1e4) / 1e4] } }];
  });
  return changes.length > 0 ? { ...edit, changes: [...edit.changes, ...changes] } : edit;
}
