import type { Change } from '@violet-crate/core/document/edit';
import type { MemberKind } from '@violet-crate/core/document/members';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { factsOf } from '@violet-crate/core/map/member/members';
import { LINE_KINDS, memberLook } from '../../member/members.ts';
import { gesture, type Scene } from './gesture.ts';

interface Grip {
  kind: MemberKind;
  id: string;
  index: number;
  to: Point2;
}

const REACH = 8;

/** The member with its point where it would be: in the plan on the floor below, in the section along the cut only. */
function moved({ doc: { map }, projection }: Scene, { kind, id, index, to }: Grip) {
  const look = memberLook(kind);
  const before = look.grips!(map[kind][id] as never)[index];
  const at = projection.project(before);
  const by = projection.lift([to[0] - at[0], to[1] - at[1]]);
  const next = before.map((v, i) => v + by[i]) as Vec3;
  if (projection.id === 'plan') next[2] = projection.pointAt(to)[2];
  return look.moved!(map[kind][id] as never, index, next);
}

/** Drags a point of a selected path or note. */
export const grip = gesture<Grip>({
  id: 'grip',
  begin({ doc: { map, view }, projection }, { at, sheet }) {
    for (const kind of LINE_KINDS)
      for (const id of view.selection[kind]) {
        if (!map[kind][id]) continue;
        const index = (memberLook(kind).grips?.(map[kind][id] as never) ?? []).findIndex((p) => {
          const [u, v] = projection.project(p);
          return Math.hypot(u - at[0], v - at[1]) * sheet.scale <= REACH;
        });
        if (index >= 0) return { state: { kind, id, index, to: at } };
      }
    return null;
  },
  drag: (state, { projection }, { at, sheet }) => ({ ...state, to: projection.snapped(at, sheet.scale) }),
  commit(state, scene) {
    const to = moved(scene, state);
    return { edit: { name: `move ${factsOf(state.kind).word} point`, changes: [{ of: state.kind, id: state.id, to } as Change] } };
  },
  ghost: (state, scene) => ({ solids: [], lines: (memberLook(state.kind).lines?.(moved(scene, state) as never) ?? []).map((line) => [...line]) }),
});
