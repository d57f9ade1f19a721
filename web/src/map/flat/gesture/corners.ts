import type { Point2 } from '@violet-crate/core/solid/shape';
import { drawLabel } from '../../../common/sheet.ts';
import { cornersEdit, groupDistance, holds, movedCorners } from '../../editing/handleGroups.ts';
import { dragBy, gesture, type Scene } from './gesture.ts';

/** Pixels within which a handle is meant. */
const REACH = 8;

const moved = ({ doc: { map, view }, projection }: Scene, by: Point2, split: boolean) =>
  movedCorners(map, view.selection, projection.lift(by), split);

/** Drags corners or edges of selected solids; what falls together on the sheet moves as one. */
export const corners = gesture<Point2>({
  id: 'corners',
  begin({ doc: { view }, groups }, { at, sheet, shift }) {
    const group = groups
      .map((one) => ({ one, away: groupDistance(one, at) * sheet.scale }))
      .filter(({ away }) => away <= REACH)
      .sort((a, b) => a.away - b.away)[0]?.one;
    if (!group) return null;
    const { selection } = view;
    const chosen = shift ? [...selection.corners, ...group.corners] : group.corners;
    return { state: [0, 0], outcome: holds(selection, group) ? undefined : { selection: { ...selection, corners: chosen } } };
  },
  drag: (_by, scene, pointer) => dragBy(scene, pointer),
  commit(by, scene, { alt }) {
    const { map, view } = scene.doc;
    const edit = cornersEdit(map, moved(scene, by, alt));
    if (typeof edit === 'string') return { refusal: `${edit}${edit.includes('concave') ? ' (Hold Alt to split it.)' : ''}` };
    return { edit, selection: { ...view.selection, corners: [] } };
  },
  ghost(by, scene) {
    const results = Object.values(moved(scene, by, true));
    return { solids: results.flatMap((result) => ('reason' in result ? [] : result.solids)), lines: [] };
  },
  draw({ context, pointer: [x, y], colours }, by, scene) {
    const reason = Object.values(moved(scene, by, true)).find((result) => 'reason' in result)?.reason;
    drawLabel(context, reason ?? by.join(', '), x + 14, y - 14, colours.warm, colours.ground);
  },
});
