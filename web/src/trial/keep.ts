/** What a run has changed of its map, and the edit that keeps it. */

import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap, MapObject } from '@violet-crate/core/document/schema';
import { boxCentre, boxCorners } from '@violet-crate/core/math/box3';
import { posePoint, turnAbout, turnVector } from '@violet-crate/core/math/pose';
import { sub, type Vec3 } from '@violet-crate/core/math/vec3';
import { movesFreely } from '@violet-crate/core/profile/parts';
import { classOf, type Profile } from '@violet-crate/core/profile/schema';
import type { ShownObject } from '@violet-crate/core/trial/apart';

export interface RunChange {
  id: string;
  name: string;
  /** What differs, in words. */
  says: string[];
  /** The object as the run has it. */
  to: MapObject;
}

/** Distance in units, and turn in degrees, from which a thing counts as moved. */
const MOVED = 0.5;
const TURNED = 1;

/** Objects of the map that lie elsewhere or have other properties in the run. Copies of prefabs are left out: their place is the prefab's. */
export function runChanges(profile: Profile, map: GameMap, shown: Iterable<ShownObject>): RunChange[] {
  const changes: RunChange[] = [];
  for (const item of shown) {
    const { id, properties, pose } = item;
    const object = map.objects[id];
    if (!object) continue;
    const says: string[] = [];
    const to: MapObject = { ...object, properties: { ...object.properties } };
    if (movesFreely(profile, { class: object.class, properties })) {
      const far = Math.hypot(...pose.offset);
      const [x, y] = turnVector(pose.turn, [1, 0, 0]);
      const turn = Math.round((Math.atan2(y, x) * 1800) / Math.PI) / 10;
      const position = uprightAt(item, turn);
      if (far > MOVED) says.push(`moved by ${Math.round(far)}`);
      if (Math.abs(turn) > TURNED) says.push(`turned by ${Math.round(turn)}°`);
      if (says.length > 0) Object.assign(to, { position, turn: (object.turn + turn + 360) % 360 });
    }
    for (const { id: property, label } of classOf(profile, object.class)?.properties ?? []) {
      const value = properties[property];
      if (value === undefined || JSON.stringify(value) === JSON.stringify(object.properties[property])) continue;
      if (object.properties[property] === undefined) continue;
      to.properties[property] = value;
      says.push(`${label} ${typeof value === 'object' ? value.join(', ') : String(value)}`);
    }
    if (says.length > 0) changes.push({ id, name: object.name, says, to });
  }
  return changes;
}

/** Objects turn about z alone: what lies on its side is stood up where its middle is, on what it lies on. */
function uprightAt({ object, box, pose }: ShownObject, turn: number): Vec3 {
  const lowest = Math.min(...boxCorners(box).map((corner) => posePoint(pose, object.position, corner)[2]));
  const middle = boxCentre(box);
  const now = posePoint(pose, object.position, middle);
  const [dx, dy] = turnVector(turnAbout([0, 0, 1], turn), sub(middle, object.position));
  return [now[0] - dx, now[1] - dy, lowest + object.position[2] - box.min[2]].map((v) => Math.round(v * 100) / 100) as Vec3;
}

export const keepEdit = (changes: readonly RunChange[]): MapEdit => ({
  name: changes.length === 1 ? `keep ${changes[0].name} as in the run` : `keep ${changes.length} things as in the run`,
  changes: changes.map(({ id, to }) => ({ of: 'objects', id, to })),
});
