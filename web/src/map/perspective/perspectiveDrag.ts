/**
 * Dragging in the perspective: what is selected slides over the ground (with Shift it rises and sinks), a face is
 * pushed along its normal, corners and edges are moved. Points are in map units; a ray begins at the eye.
 */

import { dot, type Vec3 } from '@violet-crate/core/math/vec3';
import type { MapEdit } from '@violet-crate/core/document/edit';
import type { GameMap } from '@violet-crate/core/document/schema';
import { pushFace } from '@violet-crate/core/solid/cut';
import { skeletonOf } from '@violet-crate/core/solid/reshape';
import { moveSelection } from '../editing/edits.ts';
import { cornersEdit, movedCorners, type HandleGroup } from '../editing/handleGroups.ts';
import type { Ray } from './perspectivePick.ts';
import type { Selection } from '../../state/viewSlice.ts';

export interface Grab {
  what: 'members' | 'corners' | { solid: string; face: number };
  /** The point of the world that was taken hold of. */
  at: Vec3;
}

/** How far along a line the point lies that is nearest to a ray; null where the two run alike. */
export function alongLine({ origin, direction }: Ray, at: Vec3, line: Vec3): number | null {
  const between: Vec3 = [at[0] - origin[0], at[1] - origin[1], at[2] - origin[2]];
  const [dd, ll, dl] = [dot(direction, direction), dot(line, line), dot(direction, line)];
  const size = dd * ll - dl * dl;
  if (size < 1e-3 * dd * ll) return null;
  return (dl * dot(direction, between) - dd * dot(line, between)) / size;
}

/** By how much the pointer has carried what it holds; null where the ray runs too flat to tell. */
export function dragged(grab: Grab, map: GameMap, ray: Ray, upright: boolean, snap: (v: number) => number): Vec3 | null {
  if (typeof grab.what === 'object' || upright) {
    const line: Vec3 = typeof grab.what === 'object' ? map.solids[grab.what.solid].faces[grab.what.face].normal : [0, 0, 1];
    const along = alongLine(ray, grab.at, line);
    if (along === null) return null;
    const by = snap(along);
    return [line[0] * by, line[1] * by, line[2] * by];
  }
  const { origin, direction } = ray;
  const t = (grab.at[2] - origin[2]) / direction[2];
  if (!(t > 0) || Math.abs(direction[2]) < 0.03) return null;
  return [snap(origin[0] + direction[0] * t - grab.at[0]), snap(origin[1] + direction[1] * t - grab.at[1]), 0];
}

/** The edit that a drag would make, or why it cannot; null where nothing has moved. */
export function draggedEdit(grab: Grab, map: GameMap, selection: Selection, by: Vec3, split: boolean): MapEdit | string | null {
  if (by.every((v) => v === 0)) return null;
  if (grab.what === 'members') return moveSelection(map, selection, by);
  if (grab.what === 'corners') return cornersEdit(map, movedCorners(map, selection, by, split));
  const { solid, face } = grab.what;
  const next = pushFace(map.solids[solid], face, dot(map.solids[solid].faces[face].normal, by));
  return typeof next === 'string' ? next : { name: 'push face', changes: [{ of: 'solids', id: solid, to: next }] };
}

/** The middle of a handle's corners, by which it is taken hold of. */
export function middleOf(map: GameMap, { corners }: HandleGroup): Vec3 {
  const points = corners.map(({ solid, corner }) => skeletonOf(map.solids[solid]).corners[corner]);
  return [0, 1, 2].map((k) => points.reduce((sum, p) => sum + p[k], 0) / points.length) as Vec3;
}
