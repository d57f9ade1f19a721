/** Moving, turning, copying, aligning and distributing what is selected, as edits. */

import { freeNames } from '../../crate/naming.ts';
import { freshIds, type Change, type MapEdit } from '../../document/edit.ts';
import { byKind, KINDS, type MemberKind, type Members } from '../../document/members.ts';
import { COLLECTION_TABLE, type GameMap, type MemberOf } from '../../document/schema.ts';
import { boxCentre, type Box3 } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import type { Profile } from '../../profile/schema.ts';
import { isMove, rotation, translation, type Affine } from '../../solid/transform.ts';
import { factsOf, memberBox, memberOf, membersBox } from './members.ts';
import { withReferences } from '../references.ts';

/** Transforms what is selected; null where nothing changes. With `carry` textures go along with their solids. */
export function transformMembers(map: GameMap, members: Members, affine: Affine, name: string, carry = false): MapEdit | null {
  if (isMove(affine) && affine.move.every((v) => v === 0)) return null;
  const changes = KINDS.flatMap((kind) =>
    members[kind].flatMap((id): Change[] => {
      const member = memberOf(map, kind, id);
      return member ? [{ of: kind, id, to: factsOf(kind).transform(member as never, affine, carry) } as Change] : [];
    }),
  );
  return changes.length > 0 ? { name, changes } : null;
}

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
  const made = byKind((): string[] => []);
  const fresh = {
    ...byKind((kind) => freshIds(map[kind], COLLECTION_TABLE[kind].prefix)),
    signals: freshIds(map.signals, COLLECTION_TABLE.signals.prefix),
  };
  const names = byKind((kind) => freeNames(Object.values(map[kind] as Record<string, { name?: string }>).flatMap((member) => member.name ?? [])));
  for (const affine of affines) {
    const copied = new Map<string, string>();
    const first = changes.length;
    for (const kind of KINDS) {
      for (const old of members[kind]) {
        const member = memberOf(map, kind, old);
        if (!member) continue;
        const id = fresh[kind]();
        made[kind].push(id);
        let next: MemberOf<MemberKind> = factsOf(kind).transform(member as never, affine, carry);
        if ('name' in next) next = { ...next, name: names[kind](next.name) };
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
      const id = fresh.signals();
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
      return [{ of: kind, id, to: factsOf(kind).transform(memberOf(map, kind, id) as never, translation(move), false) } as Change];
    }),
  );
  return changes.length > 0 ? { name, changes } : null;
}
