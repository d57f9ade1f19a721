/** What lies under a point of the plan. */

import { groundHeight, inBand } from '@violet-crate/core/map/onGround';
import { copyOf } from '@violet-crate/core/map/prefab';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Box3 } from '@violet-crate/core/math/box3';
import { insideOutline, shapeOf, type Point2 } from '@violet-crate/core/solid/shape';
import type { SheetPointer } from './pointer.ts';
import { LINE_KINDS, memberLook } from '../../member/members.ts';
import type { MemberKind } from '@violet-crate/core/document/members';
import { isShown, type Selection, type ViewState } from '../../../state/viewSlice.ts';

export interface Picked {
  kind: MemberKind;
  id: string;
}

/** How a solid lies to the height at which the plan is cut; over ground the cut follows it. */
export function planRelation(box: Box3, cut: number, map?: Pick<GameMap, 'terrains' | 'tiles'>): 'cut' | 'below' | 'above' {
  const over = map ? cut + groundHeight(map, (box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2) : cut;
  if (box.max[2] <= over) return 'below';
  return box.min[2] >= over ? 'above' : 'cut';
}

/** Whether a member of the whole map belongs to what is selected. */
export function isChosen(map: GameMap, selection: Selection, kind: 'solids' | 'objects', id: string): boolean {
  if (selection[kind].includes(id)) return true;
  if (selection.copies.length === 0) return false;
  const copy = copyOf(map, id);
  return copy !== null && selection.copies.includes(copy);
}

const PICK_REACH = 9;

/** Distance from a point to a segment. */
export function segmentDistance(p: Point2, a: Point2, b: Point2): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const size = dx * dx + dy * dy;
  const t = size === 0 ? 0 : Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / size));
  return Math.hypot(a[0] + dx * t - p[0], a[1] + dy * t - p[1]);
}

/** Pixels within which a line is meant. */
const LINE_REACH = 6;

/** Members drawn as lines near a point of a sheet. */
export const linesNear = (
  map: GameMap,
  kinds: readonly MemberKind[],
  view: Pick<ViewState, 'hidden' | 'hiddenLayers'>,
  project: (p: readonly number[]) => Point2,
  at: Point2,
  scale: number,
): Picked[] =>
  kinds.flatMap((kind) =>
    Object.entries(map[kind]).flatMap(([id, member]): Picked[] => {
      if (!isShown(view, kind, id)) return [];
      const lines = memberLook(kind).lines?.(member as never) ?? [];
      return lines.some(([a, b]) => segmentDistance(at, project(a), project(b)) * scale <= LINE_REACH) ? [{ kind, id }] : [];
    }),
  );

/** A member of the whole map as what can be selected: what a copy stands for selects the copy. */
function selectable(map: GameMap, kind: 'solids' | 'objects', id: string): Picked {
  const copy = copyOf(map, id);
  return copy ? { kind: 'copies', id: copy } : { kind, id };
}

/** All under a point, what one most likely means first: objects, lines, walls, then floors from the top. */
export function pickPlan(
  map: GameMap,
  whole: GameMap,
  { at, sheet }: Pick<SheetPointer, 'at' | 'sheet'>,
  cut: number,
  band: { bottom: number; top: number },
  view: Pick<ViewState, 'hidden' | 'hiddenLayers'>,
): Picked[] {
  const objects = Object.entries(whole.objects)
    .filter(([id, o]) => inBand(map, band, o.position) && isShown(view, 'objects', id, o.layer))
    .map(([id, o]) => ({ id, away: Math.hypot(o.position[0] - at[0], o.position[1] - at[1]) * sheet.scale }))
    .filter((o) => o.away <= PICK_REACH)
    .sort((a, b) => a.away - b.away)
    .map(({ id }) => selectable(map, 'objects', id));
  const lines = linesNear(map, LINE_KINDS, view, (p) => [p[0], p[1]], at, sheet.scale);
  const order = { cut: 0, below: 1, above: 2 };
  const solids = Object.entries(whole.solids)
    .filter(([id, solid]) => {
      const { box, outline } = shapeOf(solid);
      if (at[0] < box.min[0] || at[0] > box.max[0] || at[1] < box.min[1] || at[1] > box.max[1]) return false;
      return isShown(view, 'solids', id, solid.layer) && insideOutline(outline, at);
    })
    .sort(
      ([, a], [, b]) =>
        order[planRelation(shapeOf(a).box, cut, map)] - order[planRelation(shapeOf(b).box, cut, map)] ||
        shapeOf(b).box.max[2] - shapeOf(a).box.max[2],
    )
    .map(([id]) => selectable(map, 'solids', id));
  const seen = new Set<string>();
  return [...objects, ...lines, ...solids].filter(({ kind, id }) => {
    const key = `${kind}/${id}`;
    return !seen.has(key) && seen.add(key);
  });
}

/** The face under a point: a side seen edge-on within reach, else the top of the uppermost solid there. */
export function pickPlanFace(
  map: GameMap,
  { at, sheet }: Pick<SheetPointer, 'at' | 'sheet'>,
  cut: number,
  view: Pick<ViewState, 'hidden' | 'hiddenLayers'>,
): { solid: string; face: number } | null {
  let best: { solid: string; face: number } | null = null;
  let nearest = 7 / sheet.scale;
  let top: { solid: string; face: number; z: number } | null = null;
  for (const [solid, value] of Object.entries(map.solids)) {
    const { box, polygons, outline } = shapeOf(value);
    const reach = 7 / sheet.scale;
    if (at[0] < box.min[0] - reach || at[0] > box.max[0] + reach || at[1] < box.min[1] - reach || at[1] > box.max[1] + reach) continue;
    if (planRelation(box, cut, map) === 'above' || !isShown(view, 'solids', solid, value.layer)) continue;
    for (const { face, winding } of polygons) {
      if (Math.abs(value.faces[face].normal[2]) > 0.01) continue;
      for (let i = 0; i < winding.length; i++) {
        const [p, q] = [winding[i], winding[(i + 1) % winding.length]];
        if (p[0] === q[0] && p[1] === q[1]) continue;
        const away = segmentDistance(at, [p[0], p[1]], [q[0], q[1]]);
        if (away < nearest) {
          nearest = away;
          best = { solid, face };
        }
      }
    }
    if (!insideOutline(outline, at)) continue;
    const upper = polygons
      .filter(({ face }) => value.faces[face].normal[2] > 0.01)
      .sort((a, b) => value.faces[b.face].normal[2] - value.faces[a.face].normal[2])[0];
    const cutBonus = planRelation(box, cut, map) === 'cut' ? 1e6 : 0;
    if (upper && (!top || box.max[2] + cutBonus > top.z)) top = { solid, face: upper.face, z: box.max[2] + cutBonus };
  }
  return best ?? (top && { solid: top.solid, face: top.face });
}

/** The nearest corner of an outline, or point of its sides, within reach; null where there is none. */
export function snapToOutlines(outlines: readonly (readonly Point2[])[], at: Point2, reach: number): Point2 | null {
  let corner: Point2 | null = null;
  let edge: Point2 | null = null;
  let [nearCorner, nearEdge] = [reach, reach];
  for (const outline of outlines)
    outline.forEach((p, i) => {
      const away = Math.hypot(p[0] - at[0], p[1] - at[1]);
      if (away < nearCorner) [corner, nearCorner] = [p, away];
      const q = outline[(i + 1) % outline.length];
      const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
      const t = Math.min(1, Math.max(0, ((at[0] - p[0]) * dx + (at[1] - p[1]) * dy) / (dx * dx + dy * dy || 1)));
      const on: Point2 = [p[0] + dx * t, p[1] + dy * t];
      const off = Math.hypot(on[0] - at[0], on[1] - at[1]);
      if (off < nearEdge) [edge, nearEdge] = [on, off];
    });
  return corner ?? edge;
}

/** The same for the shown solids near a point of the plan. */
export function snapToCorners(whole: GameMap, at: Point2, reach: number, view: Pick<ViewState, 'hidden' | 'hiddenLayers'>): Point2 | null {
  const near = Object.entries(whole.solids).flatMap(([id, solid]) => {
    const { box, outline } = shapeOf(solid);
    if (at[0] < box.min[0] - reach || at[0] > box.max[0] + reach || at[1] < box.min[1] - reach || at[1] > box.max[1] + reach) return [];
    return isShown(view, 'solids', id, solid.layer) ? [outline] : [];
  });
  return snapToOutlines(near, at, reach);
}
