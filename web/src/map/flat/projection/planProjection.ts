import { byKind, countMembers } from '@violet-crate/core/document/members';
import { membersBox } from '@violet-crate/core/map/member/members';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { insideOutline, shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import { surfaceUnder } from '../../editing/edits.ts';
import type { Doc } from '../../editing/useDocument.ts';
import { isShown } from '../../../state/viewSlice.ts';
import { memberLook } from '../../member/members.ts';
import { withinRect } from './handles.ts';
import { pickPlan, pickPlanFace, planRelation, snapToCorners } from './planPick.ts';
import type { Projection } from './projection.ts';

/** The height at which the plan cuts what stands in a band: a little above a table. */
export const planCut = ({ bottom, top }: { bottom: number; top: number }): number => bottom + (top - bottom) * 0.4;

/** The map seen from above, cut within the active band. */
export function planProjection({ map, whole, profile, view, band, snap, step }: Doc): Projection {
  const cut = planCut(band);
  const { selection } = view;
  const flat = (p: readonly number[]): Point2 => [p[0], p[1]];
  const box = view.mode === 'solids' && countMembers(selection) > 0 ? membersBox(map, profile, selection) : null;
  const onlySolids = selection.solids.length > 0 && countMembers(selection) === selection.solids.length;
  const inBand = (p: readonly number[]) => p[2] >= band.bottom - 1 && p[2] <= band.top;
  return {
    id: 'plan',
    project: flat,
    lift: ([u, v]) => [u, v, 0],
    pointAt: ([u, v]) => [u, v, surfaceUnder(whole, u, v, band.top - step / 2, band.bottom)],
    outline: (solid) => shapeOf(solid).outline,
    flat,
    sight: (at) => ({ origin: [at[0], at[1], cut], direction: [0, 0, -1] }),
    snapped: (at, scale) => (view.snapCorners ? snapToCorners(whole, at, 9 / scale, view) : null) ?? [snap(at[0]), snap(at[1])],
    pick: (pointer) => pickPlan(map, whole, pointer, cut, band, view),
    // Floors lie under everything: a press on one begins a marquee.
    grabs: ({ kind, id }) => kind !== 'solids' || planRelation(shapeOf(map.solids[id]).box, cut, map) === 'cut',
    pickFace: (pointer) => pickPlanFace(map, pointer, cut, view),
    pushes: ({ solid, face }) => Math.abs(map.solids[solid].faces[face].normal[2]) < 0.01,
    within: (rect) =>
      byKind((kind) =>
        Object.entries(map[kind]).flatMap(([id, member]) => {
          const points = memberLook(kind).points(member as never);
          const shown = isShown(view, kind, id, (member as { layer?: string }).layer);
          return shown && points.every((p) => withinRect(rect, p)) && (kind !== 'objects' || points.every(inBand)) ? [id] : [];
        }),
      ),
    crossed: (from, to) =>
      Object.keys(map.solids).filter((id) => {
        const { outline, box } = shapeOf(map.solids[id]);
        if (planRelation(box, cut, map) === 'above' || !isShown(view, 'solids', id, map.solids[id].layer)) return false;
        return (
          outline.some((p, i) => crosses(from, to, p, outline[(i + 1) % outline.length])) ||
          (insideOutline(outline, from) && insideOutline(outline, to))
        );
      }),
    plane(from, to) {
      const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
      const normal: Vec3 = [-(to[1] - from[1]) / length, (to[0] - from[0]) / length, 0];
      return { normal, distance: normal[0] * from[0] + normal[1] * from[1] };
    },
    box: ({ min, max }) => ({ min: [...min, band.bottom], max: [...max, band.top] }),
    frame: box && { rect: { min: flat(box.min), max: flat(box.max) }, resizes: [onlySolids, onlySolids], turns: true },
    resized: ({ min, max }, rect) => ({ min: [...rect.min, min[2]], max: [...rect.max, max[2]] }),
  };
}

/** Whether two segments cross. */
function crosses(a: Point2, b: Point2, c: Point2, d: Point2): boolean {
  const side = (p: Point2, q: Point2, r: Point2) => (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
  return side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
}
