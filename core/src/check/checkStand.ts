/** How objects stand: on what, how far above or inside it, and how to put that right. */

import type { CrateWorld } from '../crate/world.ts';
import type { Finding } from '../finding.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import type { Vec3 } from '../math/vec3.ts';
import { factOf } from '../profile/parts.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import type { MapEdit } from '../document/edit.ts';
import { objectBox } from '../map/objectBox.ts';
import { holdsBox, surfaceBelow, type Collider } from '../map/member/collider.ts';
import { collidersOf } from '../map/member/members.ts';
import type { GameMap, MapObject } from '../document/schema.ts';

/** Objects may stand this share of the player's height off their floor before anybody notices. */
const SLACK = 1 / 40;

/** Side of the cells by which neighbours are found, in heights of the player. */
const CELL = 4;

/** Whether an object of this class has to stand on something. */
export function stands(profile: Profile, classId: string): boolean {
  if (classOf(profile, classId)?.hangs) return false;
  return !factOf(profile, classId, 'floats');
}

/** Height of the highest surface under an object's footprint, looked for from the middle and the corners of its box. */
export function floorUnder(colliders: readonly Collider[], box: Box3, from: number): number | null {
  const inset = 0.05;
  const xs = [box.min[0] + inset, (box.min[0] + box.max[0]) / 2, box.max[0] - inset];
  const ys = [box.min[1] + inset, (box.min[1] + box.max[1]) / 2, box.max[1] - inset];
  const under = colliders.filter(({ box: other }) => boxesMeetBelow(other, box, from));
  let best: number | null = null;
  for (const x of xs) {
    for (const y of ys) {
      const z = surfaceBelow(under, [x, y, from]);
      if (z !== null && (best === null || z > best)) best = z;
    }
  }
  return best;
}

/** Whether something lies under a box's footprint, below a height. */
const boxesMeetBelow = (other: Box3, box: Box3, from: number): boolean =>
  other.min[2] <= from && [0, 1].every((axis) => other.min[axis] <= box.max[axis] && other.max[axis] >= box.min[axis]);

/** The edit that puts objects onto what lies under them; null where all stand already or hang over nothing. */
export function dropToSurface(world: CrateWorld, map: GameMap, ids: readonly string[]): MapEdit | null {
  const colliders = collidersOf(map);
  const changes = ids.flatMap((id): MapEdit['changes'] => {
    const object = map.objects[id];
    if (!object) return [];
    const box = objectBox(world, object);
    // From a little above its feet, so that a floor into which it sank is found as well.
    const floor = floorUnder(colliders, box, Math.max(box.min[2], Math.min(box.max[2], box.min[2] + world.profile.player.stepHeight)) + 0.01);
    if (floor === null || Math.abs(floor - box.min[2]) < 1e-6) return [];
    return [{ of: 'objects', id, to: lifted(object, floor - box.min[2]) }];
  });
  return changes.length > 0 ? { name: 'drop to surface', changes } : null;
}

const lifted = (object: MapObject, by: number): MapObject => ({
  ...object,
  position: [object.position[0], object.position[1], object.position[2] + by],
});

const round = (v: number) => Math.round(v * 100) / 100;

/** Objects that float over their floor, sink into it, or stand in a wall; fixes move them by what is needed. */
export function checkStanding(world: CrateWorld, map: GameMap, mapName: string): Finding[] {
  const { profile } = world;
  const slack = profile.player.height * SLACK;
  const findings: Finding[] = [];
  const size = profile.player.height * CELL;
  const colliders = new BoxGrid<Collider>(size);
  for (const collider of collidersOf(map)) colliders.add(collider.box, collider);
  const objects = new BoxGrid<{ id: string; box: Box3 }>(size);
  const boxes = new Map(Object.entries(map.objects).map(([id, object]) => [id, objectBox(world, object)]));
  for (const [id, box] of boxes) if (!factOf(profile, map.objects[id].class, 'carriesNothing')) objects.add(box, { id, box });
  for (const [id, object] of Object.entries(map.objects)) {
    if (!stands(profile, object.class)) continue;
    const box = boxes.get(id)!;
    const around = colliders.near(box, slack);
    const inside = around.filter((one) => holdsBox(one, box, slack));
    const place = { map: mapName, object: id, point: object.position };
    const fixed = (by: number): Finding['fix'] => ({
      kind: 'edit',
      label: `${by > 0 ? 'Lift' : 'Lower'} by ${round(Math.abs(by))} ${profile.unit.plural}`,
      edit: { name: `${by > 0 ? 'lift' : 'lower'} ${object.name}`, changes: [{ of: 'objects', id, to: lifted(object, by) }] },
    });
    if (inside.length > 0) {
      // Sunk into a floor: the top of what it is in lies within its lower half.
      const top = Math.max(...inside.map((s) => s.box.max[2]));
      const depth = top - box.min[2];
      const raised: Box3 = { min: [box.min[0], box.min[1], top], max: [box.max[0], box.max[1], box.max[2] + depth] };
      const sunk = depth < (box.max[2] - box.min[2]) * 0.6 && !around.some((one) => holdsBox(one, raised, slack));
      findings.push({
        code: sunk ? 'object-sinks' : 'object-in-solid',
        severity: 'note',
        stage: 'map',
        message: sunk
          ? `${object.name} sinks ${round(depth)} ${profile.unit.plural} into ${inside[0].id}.`
          : `${object.name} stands inside solid ${inside[0].id}.`,
        hint: sunk ? 'Its pivot may be in its middle instead of at its foot.' : 'Move it out, or make the solid smaller.',
        place,
        fix: sunk ? fixed(depth) : undefined,
      });
      continue;
    }
    if (around.some((one) => touchesSide(box, one, slack))) continue;
    const floor = floorUnder(around, box, box.min[2] + slack);
    const gap = floor === null ? null : box.min[2] - floor;
    if (gap === null || gap <= slack) continue;
    // What stands on another object stands.
    if (objects.near(box, slack).some((other) => other.id !== id && carries(other.box, box, slack))) continue;
    findings.push({
      code: 'object-floats',
      severity: 'note',
      stage: 'map',
      message: `${object.name} floats ${round(gap)} ${profile.unit.plural} above its floor.`,
      hint: 'Drop it to the surface, unless it is meant to hang.',
      place,
      fix: fixed(-gap),
    });
  }
  return findings;
}

/** A bracket or a lamp on a wall, or under a ceiling, needs no floor. */
const touchesSide = (box: Box3, collider: Collider, slack: number): boolean =>
  holdsBox(collider, { min: box.min.map((v) => v - slack) as Vec3, max: box.max.map((v) => v + slack) as Vec3 }, 0);

const carries = (under: Box3, box: Box3, slack: number): boolean =>
  boxesTouch(under, { min: [box.min[0], box.min[1], box.min[2] - slack], max: box.max }, 0);
