import { copyMembers } from '@violet-crate/core/map/member/arrange';
import { factsOf, membersBox } from '@violet-crate/core/map/member/members';
import { countMembers, KINDS } from '@violet-crate/core/document/members';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { moveSolid } from '@violet-crate/core/solid/solid';
import { translation } from '@violet-crate/core/solid/transform';
import type { Selection } from '../../../state/viewSlice.ts';
import { moveSelection } from '../../editing/edits.ts';
import type { Ghost } from '../../editing/ghost.ts';
import { memberLook } from '../../member/members.ts';
import type { Picked } from '../projection/planPick.ts';
import { dragBy, gesture, type Scene } from './gesture.ts';
import { selectAt } from './select.ts';

export interface Move {
  by: Point2;
  copies: boolean;
}

/** More than so many members are shown as the box around them while they are moved. */
const SHOWN = 64;

/** Where what is selected would be. */
function movedGhost({ doc: { map, profile, view } }: Scene, by: Vec3): Ghost {
  const { selection } = view;
  const move = translation(by);
  if (countMembers(selection) > SHOWN) {
    const box = membersBox(map, profile, selection);
    return { solids: [], lines: box ? boxEdges(box.min.map((v, i) => v + by[i]) as Vec3, box.max.map((v, i) => v + by[i]) as Vec3) : [] };
  }
  const lines = KINDS.flatMap((kind) =>
    kind === 'solids'
      ? []
      : selection[kind].flatMap((id): Vec3[][] => {
          const member = map[kind][id];
          if (!member) return [];
          const moved = factsOf(kind).transform(member as never, move, false) as never;
          const box = factsOf(kind).box(id, moved, { map, profile });
          return (
            memberLook(kind)
              .lines?.(moved)
              .map((line) => [...line]) ?? (box ? boxEdges(box.min, box.max) : [])
          );
        }),
  );
  return { solids: selection.solids.flatMap((id) => (map.solids[id] ? [moveSolid(map.solids[id], by)] : [])), lines };
}

/** The twelve edges of a box as four lines around it and up. */
function boxEdges([x0, y0, z0]: Vec3, [x1, y1, z1]: Vec3): Vec3[][] {
  const ring = (z: number): Vec3[] => [[x0, y0, z], [x1, y0, z], [x1, y1, z], [x0, y1, z], [x0, y0, z]]; // prettier-ignore
  return [ring(z0), ring(z1), ...ring(z0).slice(0, 4).map(([x, y]): Vec3[] => [[x, y, z0], [x, y, z1]])]; // prettier-ignore
}

/** Moves what is selected, or copies of it with Alt. A press on something else selects that first. */
export const move = gesture<Move>({
  id: 'move',
  begin(scene, pointer) {
    if (pointer.shift || pointer.control) return null;
    const { selection, mode } = scene.doc.view;
    const state = { by: [0, 0] as Point2, copies: pointer.alt };
    const under = scene.projection.pick(pointer);
    if (under.some(({ kind, id }: Picked) => selection[kind].includes(id))) return { state };
    const [first] = under;
    if (!first || mode !== 'solids' || !scene.projection.grabs(first)) return null;
    return { state, outcome: { selection: { kind: first.kind, ids: [first.id] } } };
  },
  drag: (_state, scene, pointer) => ({ by: dragBy(scene, pointer), copies: pointer.alt }),
  commit({ by, copies }, { doc: { map, profile, view }, projection }) {
    const way = projection.lift(by);
    if (!copies) return { edit: moveSelection(map, view.selection, way) };
    const made = copyMembers(map, profile, view.selection, [translation(way)], 'copy');
    return made && { edit: made.edit, selection: made.members as Partial<Selection> };
  },
  click: (_state, scene, pointer) => selectAt(scene, pointer),
  ghost: ({ by }, scene) => (by[0] === 0 && by[1] === 0 ? null : movedGhost(scene, scene.projection.lift(by))),
});
