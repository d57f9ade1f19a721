import type { MapEdit } from '@violet-crate/core/document/edit';
import type { MemberKind } from '@violet-crate/core/document/members';
import type { Around } from '@violet-crate/core/map/member/member';
import { factsOf } from '@violet-crate/core/map/member/members';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Ghost } from '../editing/ghost.ts';
import { memberLook } from './members.ts';

/** What an edit of members makes, as a ghost: solids, lines, and for what has neither the way it looks. */
export function ghostOf(edit: MapEdit | null, { map, profile }: Around): Ghost {
  const ghost = { solids: [] as Ghost['solids'][number][], lines: [] as Vec3[][] };
  for (const change of edit?.changes ?? []) {
    if (change.of === 'settings' || !change.to) continue;
    if (change.of === 'solids') ghost.solids.push(change.to);
    else if (change.of === 'objects') {
      const { position: p, turn } = change.to;
      const [ahead, reach] = [(turn * Math.PI) / 180, profile.player.radius * 2];
      ghost.lines.push([p, [p[0] + Math.cos(ahead) * reach, p[1] + Math.sin(ahead) * reach, p[2]]]);
    } else {
      const kind = change.of as MemberKind;
      const lines = memberLook(kind).lines?.(change.to as never);
      const box = lines ? null : factsOf(kind).box(change.id, change.to as never, { map, profile });
      if (lines) ghost.lines.push(...lines.map((line): Vec3[] => [...line]));
      else if (box) ghost.lines.push([box.min, box.max]);
    }
  }
  return ghost;
}
