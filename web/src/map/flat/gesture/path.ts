import { freshId } from '@violet-crate/core/document/edit';
import { freeName } from '@violet-crate/core/crate/naming';
import type { GameMap } from '@violet-crate/core/document/schema';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import { clickOnly, type Outcome } from './gesture.ts';

/** The path of the points so far, where there are enough of them. */
export function finishedPath(map: GameMap, points: Vec3[], loop: boolean): Outcome {
  const view = { pathDraft: [], tool: 'select' };
  if (points.length < 2) return { view };
  const id = freshId(map.paths, 'w');
  const name = freeName(
    'path',
    Object.values(map.paths).map((p) => p.name),
  );
  return { edit: { name: 'draw path', changes: [{ of: 'paths', id, to: { name, points, loop } }] }, selection: { kind: 'paths', ids: [id] }, view };
}

/** Adds a point to a path; a click on its first point closes it. */
export const pathPoint = clickOnly('path', ({ doc: { map, view }, projection }, { at: where, sheet }) => {
  const at = projection.snapped(where, sheet.scale);
  const draft = view.pathDraft;
  const first = draft[0] && projection.project(draft[0]);
  if (draft.length > 2 && Math.hypot(first[0] - at[0], first[1] - at[1]) * sheet.scale < 9) return finishedPath(map, draft, true);
  return { view: { pathDraft: [...draft, projection.pointAt(at)] } };
});
