/** Corners and edges of solids as they coincide in a view: what looks like one point or line moves as one. */

import type { GameMap } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { moveCorners, skeletonOf, type Reshaped } from '@violet-crate/core/solid/reshape';
import type { Point2 } from '@violet-crate/core/solid/shape';
import { freshId, type Change, type MapEdit } from '@violet-crate/core/document/edit';
import type { Selection } from '../../state/viewSlice.ts';

export interface HandleGroup {
  /** One point for corners, two for edges, in the view's coordinates. */
  ends: Point2[];
  corners: { solid: string; corner: number }[];
}

const near = (a: Point2, b: Point2) => Math.abs(a[0] - b[0]) < 0.02 && Math.abs(a[1] - b[1]) < 0.02;

/** Groups of the selected solids' corners, or edges, that fall together in a view. */
export function handleGroups(map: GameMap, solids: readonly string[], mode: 'corners' | 'edges', project: (p: Vec3) => Point2): HandleGroup[] {
  const groups: HandleGroup[] = [];
  for (const solid of solids) {
    if (!map.solids[solid]) continue;
    const { corners, edges } = skeletonOf(map.solids[solid]);
    const flat = corners.map(project);
    const add = (ends: Point2[], members: number[]) => {
      const known = groups.find(
        (g) =>
          g.corners[0].solid === solid &&
          g.ends.length === ends.length &&
          ((near(g.ends[0], ends[0]) && near(g.ends.at(-1)!, ends.at(-1)!)) || (near(g.ends[0], ends.at(-1)!) && near(g.ends.at(-1)!, ends[0]))),
      );
      const target = known ?? { ends, corners: [] };
      if (!known) groups.push(target);
      for (const corner of members) if (!target.corners.some((c) => c.corner === corner)) target.corners.push({ solid, corner });
    };
    if (mode === 'corners') flat.forEach((point, i) => add([point], [i]));
    else
      for (const [a, b] of edges) {
        if (near(flat[a], flat[b])) continue;
        add([flat[a], flat[b]], [a, b]);
      }
  }
  return groups;
}

/** Whether all corners of a group are selected. */
export const holds = (selection: Selection, group: HandleGroup): boolean =>
  group.corners.every((c) => selection.corners.some((s) => s.solid === c.solid && s.corner === c.corner));

/** Distance in the view from a point to a group's point or line. */
export function groupDistance({ ends }: HandleGroup, p: Point2): number {
  const [a, b = a] = ends;
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const size = dx * dx + dy * dy;
  const t = size === 0 ? 0 : Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / size));
  return Math.hypot(a[0] + dx * t - p[0], a[1] + dy * t - p[1]);
}

/** The selected corners of every solid moved; a reason where one of them would not stay a solid. */
export function movedCorners(map: GameMap, selection: Selection, by: Vec3, split: boolean): Record<string, Reshaped> {
  const bySolid = new Map<string, number[]>();
  for (const { solid, corner } of selection.corners) bySolid.set(solid, [...(bySolid.get(solid) ?? []), corner]);
  return Object.fromEntries(
    [...bySolid].filter(([id]) => map.solids[id]).map(([id, corners]) => [id, moveCorners(map.solids[id], corners, by, split)]),
  );
}

/** The edit of moved corners; the first reason where one is refused. Parts of a split solid follow the first under new ids. */
export function cornersEdit(map: GameMap, moved: Record<string, Reshaped>): MapEdit | string {
  const changes: Change[] = [];
  const taken = new Set<string>();
  for (const [id, result] of Object.entries(moved)) {
    if ('reason' in result) return result.reason;
    result.solids.forEach((to, i) => {
      const target = i === 0 ? id : freshId(map.solids, 's', taken);
      taken.add(target);
      changes.push({ of: 'solids', id: target, to });
    });
  }
  return changes.length > 0 ? { name: 'move corners', changes } : 'Nothing would move.';
}
