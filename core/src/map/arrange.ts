/** Moving, turning, copying, aligning and distributing what is selected, as edits. */

import { freeName } from '../crate/naming.ts';
import { boxCentre, boxOfPoints, type Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Profile } from '../profile/schema.ts';
import { shapeOf } from '../solid/shape.ts';
import { moveSolid } from '../solid/solid.ts';
import { applyAffine, rotation, transformSolid, translation, turnOf, type Affine } from '../solid/transform.ts';
import { freshId, type Change, type MapEdit } from '../document/edit.ts';
import { KINDS, type MemberKind, type Members } from '../document/members.ts';
import { classBox } from './objectBox.ts';
import { expandMap } from './prefab.ts';
import { withReferences } from './references.ts';
import type { Copy, GameMap, MapObject, MapPath, Solid } from '../document/schema.ts';
import { own } from '../own.ts';

type Member = Solid | MapObject | Copy | MapPath;

/** The space that one member takes up. */
export function memberBox(map: GameMap, profile: Profile, kind: MemberKind, id: string): Box3 | null {
  if (kind === 'solids') return map.solids[id] ? shapeOf(map.solids[id]).box : null;
  if (kind === 'objects') return own(map.objects, id) ? classBox(profile, map.objects[id]) : null;
  if (kind === 'paths') return own(map.paths, id) ? boxOfPoints(map.paths[id].points) : null;
  const copy = own(map.copies, id);
  if (!copy) return null;
  const alone = expandMap({ ...map, solids: {}, objects: {}, signals: {}, copies: { [id]: copy } }, profile);
  const boxes = [...Object.values(alone.solids).map((s) => shapeOf(s).box), ...Object.values(alone.objects).map((o) => classBox(profile, o))];
  return boxes.length > 0 ? boxOfPoints(boxes.flatMap((b) => [b.min, b.max])) : boxOfPoints([copy.position]);
}

export function membersBox(map: GameMap, profile: Profile, members: Members): Box3 | null {
  const boxes = KINDS.flatMap((kind) => members[kind].map((id) => memberBox(map, profile, kind, id))).filter((b) => b !== null);
  return boxes.length > 0 ? boxOfPoints(boxes.flatMap((b) => [b.min, b.max])) : null;
}

const isMove = ({ rows }: Affine): boolean => rows.every((row, i) => row.every((v, j) => v === (i === j ? 1 : 0)));

/** A member after an affine map. Objects and copies turn upright only; what else the map does to their shape is left out. */
function transformMember(kind: MemberKind, member: Member, affine: Affine, carry: boolean): Member {
  if (kind === 'solids') return isMove(affine) && !carry ? moveSolid(member as Solid, affine.move) : transformSolid(member as Solid, affine, carry);
  if (kind === 'paths') return { ...(member as MapPath), points: (member as MapPath).points.map((p) => applyAffine(affine, p)) };
  const placed = member as MapObject | Copy;
  const next = { ...placed, position: applyAffine(affine, placed.position), turn: isMove(affine) ? placed.turn : turnOf(affine, placed.turn) };
  const shape = (placed as MapObject).shape;
  return shape ? { ...next, shape: transformSolid(shape, affine, true) } : next;
}

/** Transforms what is selected; null where nothing changes. With `carry` textures go along with their solids. */
export function transformMembers(map: GameMap, members: Members, affine: Affine, name: string, carry = false): MapEdit | null {
  if (isMove(affine) && affine.move.every((v) => v === 0)) return null;
  const changes = KINDS.flatMap((kind) =>
    members[kind].flatMap((id): Change[] => {
      const member = (map[kind] as Record<string, Member>)[id];
      return member ? [{ of: kind, id, to: transformMember(kind, member, affine, carry) } as Change] : [];
    }),
  );
  return changes.length > 0 ? { name, changes } : null;
}

const PREFIX: Record<MemberKind, string> = { solids: 's', objects: 'o', copies: 'c', paths: 'w' };

/** Copies of what is selected under each map; names are made free, signals and references among the copied are copied along. */
export function copyMembers(
  map: GameMap,
  profile: Profile,
  members: Members,
  affines: readonly Affine[],
  name: string,
  carry = false,
): { edit: MapEdit; members: Members } | null {
  const changes: Change[] = [];
  const made: Record<MemberKind, string[]> = { solids: [], objects: [], copies: [], paths: [] };
  const takenIds: Record<MemberKind | 'signals', Set<string>> = {
    solids: new Set(),
    objects: new Set(),
    copies: new Set(),
    paths: new Set(),
    signals: new Set(),
  };
  const names: Record<string, string[]> = {
    objects: Object.values(map.objects).map((o) => o.name),
    copies: Object.values(map.copies).map((c) => c.name),
    paths: Object.values(map.paths).map((p) => p.name),
  };
  for (const affine of affines) {
    const copied = new Map<string, string>();
    const first = changes.length;
    for (const kind of KINDS) {
      for (const old of members[kind]) {
        const member = (map[kind] as Record<string, Member>)[old];
        if (!member) continue;
        const id = freshId(map[kind], PREFIX[kind], takenIds[kind]);
        takenIds[kind].add(id);
        made[kind].push(id);
        let next = transformMember(kind, member, affine, carry);
        if ('name' in next) {
          const fresh = freeName(next.name, names[kind]);
          names[kind].push(fresh);
          next = { ...next, name: fresh };
        }
        if (kind === 'objects') copied.set(old, id);
        changes.push({ of: kind, id, to: next } as Change);
      }
    }
    for (const change of changes.slice(first))
      if (change.of === 'objects' && change.to) change.to = withReferences(profile, change.to, (other) => copied.get(other) ?? other);
    for (const signal of Object.values(map.signals)) {
      const from = copied.get(signal.from);
      const to = 'object' in signal.to ? copied.get(signal.to.object) : null;
      if (!from || to === undefined) continue;
      const id = freshId(map.signals, 'g', takenIds.signals);
      takenIds.signals.add(id);
      changes.push({ of: 'signals', id, to: { ...signal, from, to: 'object' in signal.to ? { ...signal.to, object: to! } : signal.to } });
    }
  }
  return changes.length > 0 ? { edit: { name, changes }, members: made } : null;
}

/** Copies in a row: `count` more, each `step` further. */
export const arrayAlong = (map: GameMap, profile: Profile, members: Members, count: number, step: Vec3) =>
  copyMembers(
    map,
    profile,
    members,
    Array.from({ length: count }, (_, i) => translation([step[0] * (i + 1), step[1] * (i + 1), step[2] * (i + 1)])),
    `array of ${count + 1}`,
    true,
  );

/** Copies around an upright axis: `count` in all, evenly over the circle. */
export const arrayAround = (map: GameMap, profile: Profile, members: Members, count: number, centre: Vec3) =>
  copyMembers(
    map,
    profile,
    members,
    Array.from({ length: count - 1 }, (_, i) => rotation(2, (360 * (i + 1)) / count, centre)),
    `ring of ${count}`,
    true,
  );

/** Moves every member so that its lower side, middle or upper side along `axis` is where that of the whole selection is. */
export function alignMembers(map: GameMap, profile: Profile, members: Members, axis: 0 | 1 | 2, side: 'min' | 'middle' | 'max'): MapEdit | null {
  const whole = membersBox(map, profile, members);
  if (!whole) return null;
  const at = (box: Box3) => (side === 'middle' ? boxCentre(box)[axis] : box[side][axis]);
  return moveEach(
    map,
    profile,
    members,
    (box) => {
      const by: Vec3 = [0, 0, 0];
      by[axis] = at(whole) - at(box);
      return by;
    },
    'align',
  );
}

/** Spreads members along `axis` with equal gaps; the outermost stay. */
export function distributeMembers(map: GameMap, profile: Profile, members: Members, axis: 0 | 1 | 2): MapEdit | null {
  const items = KINDS.flatMap((kind) =>
    members[kind].flatMap((id) => {
      const box = memberBox(map, profile, kind, id);
      return box ? [{ key: `${kind}/${id}`, box }] : [];
    }),
  ).sort((a, b) => a.box.min[axis] - b.box.min[axis]);
  if (items.length < 3) return null;
  const first = items[0].box;
  const last = items[items.length - 1].box;
  const filled = items.reduce((sum, { box }) => sum + box.max[axis] - box.min[axis], 0);
  const gap = (last.max[axis] - first.min[axis] - filled) / (items.length - 1);
  const target = new Map<string, number>();
  let at = first.min[axis];
  for (const { key, box } of items) {
    target.set(key, at);
    at += box.max[axis] - box.min[axis] + gap;
  }
  return moveEach(
    map,
    profile,
    members,
    (box, key) => {
      const by: Vec3 = [0, 0, 0];
      by[axis] = target.get(key)! - box.min[axis];
      return by;
    },
    'distribute',
  );
}

function moveEach(map: GameMap, profile: Profile, members: Members, by: (box: Box3, key: string) => Vec3, name: string): MapEdit | null {
  const changes = KINDS.flatMap((kind) =>
    members[kind].flatMap((id): Change[] => {
      const box = memberBox(map, profile, kind, id);
      if (!box) return [];
      const move = by(box, `${kind}/${id}`);
      if (move.every((v) => Math.abs(v) < 1e-9)) return [];
      return [{ of: kind, id, to: transformMember(kind, (map[kind] as Record<string, Member>)[id], translation(move), false) } as Change];
    }),
  );
  return changes.length > 0 ? { name, changes } : null;
}
