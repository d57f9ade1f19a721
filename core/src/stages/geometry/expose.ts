/**
 * The visible boundary of a set of overlapping solids: every face is cut by all solids that hide a part
 * of it. Coplanar faces that look the same way are kept once (the earlier solid wins); faces that touch
 * face to face vanish on both sides.
 *
 * Not handled here: merging of coplanar fragments (`merge.ts`) and welding of T-junctions (`weld.ts`).
 */

import type { Solid } from '../../document/schema.ts';
import { boxesTouch, boxOfPoints, type Box3 } from '../../math/box3.ts';
import { solidPolygons, type SolidPolygon } from '../../solid/solid.ts';
import { Fragments } from './fragments.ts';
import { flipPlane, ON_PLANE, samePlane, splitWinding, windingArea, type Plane, type Winding } from '../../solid/winding.ts';

export interface ExposedPolygon {
  /** Index into the given solids, and of the face within that solid. */
  solid: number;
  face: number;
  winding: Winding;
}

interface Prepared {
  index: number;
  planes: Plane[];
  polygons: SolidPolygon[];
  box: Box3;
  hides: boolean;
}

/** Area below which a fragment is a sliver of rounding, in units squared. */
const SLIVER = 1e-4;

/**
 * @param hides whether the solid hides what lies inside it (false for translucent ones)
 * @param onProgress called with a fraction now and then; may throw to cancel
 */
export function exposeFaces(
  solids: readonly Solid[],
  hides: (solid: Solid) => boolean = () => true,
  onProgress: (fraction: number) => void = () => {},
): ExposedPolygon[] {
  const prepared = solids.map((solid, index): Prepared => {
    const polygons = solidPolygons(solid);
    return {
      index,
      polygons,
      planes: polygons.map((p) => solid.faces[p.face]),
      box: boxOfPoints(polygons.flatMap((p) => p.winding)),
      hides: hides(solid),
    };
  });
  const neighbours = touchingPairs(prepared);
  const exposed: ExposedPolygon[] = [];
  for (const own of prepared) {
    if (own.index % 64 === 0) onProgress(own.index / prepared.length);
    for (const polygon of own.polygons) {
      const plane = solids[own.index].faces[polygon.face];
      const fragments = new Fragments(polygon.winding);
      for (const other of neighbours[own.index]) {
        if (!other.hides || !boxesTouch(fragments.box, other.box, ON_PLANE)) continue;
        const keepsShared = own.index < other.index || !own.hides;
        fragments.cut(other.box, (winding) => outsideOf(winding, plane, other.planes, keepsShared && own.hides));
        if (fragments.none) break;
      }
      for (const winding of fragments.windings()) {
        if (windingArea(winding) > SLIVER) exposed.push({ solid: own.index, face: polygon.face, winding });
      }
    }
  }
  return exposed;
}

/** The pieces of a winding outside the convex volume bounded by `planes`. */
function outsideOf(winding: Winding, plane: Plane, planes: readonly Plane[], keepsShared: boolean): Winding[] {
  const rest: Winding[] = [];
  let inside = winding;
  for (const cut of planes) {
    if (samePlane(cut, plane)) {
      if (keepsShared) return [winding];
      continue;
    }
    if (samePlane(flipPlane(cut), plane)) continue;
    const split = splitWinding(inside, cut);
    if (split.on) continue;
    if (!split.back) return [winding];
    if (split.front) rest.push(split.front);
    inside = split.back;
  }
  return rest;
}

/** For every solid those whose boxes touch its own: a sweep along x. */
function touchingPairs(prepared: readonly Prepared[]): Prepared[][] {
  const neighbours: Prepared[][] = prepared.map(() => []);
  const order = [...prepared].sort((a, b) => a.box.min[0] - b.box.min[0]);
  let active: Prepared[] = [];
  for (const current of order) {
    active = active.filter((other) => other.box.max[0] >= current.box.min[0] - ON_PLANE);
    for (const other of active) {
      if (!boxesTouch(other.box, current.box, ON_PLANE)) continue;
      neighbours[current.index].push(other);
      neighbours[other.index].push(current);
    }
    active.push(current);
  }
  for (const list of neighbours) list.sort((a, b) => a.index - b.index);
  return neighbours;
}

/** Volume enclosed by exposed polygons (divergence theorem), and their area. */
export function measureExposed(solids: readonly Solid[], exposed: readonly ExposedPolygon[]): { volume: number; area: number } {
  let volume = 0;
  let area = 0;
  for (const polygon of exposed) {
    const a = windingArea(polygon.winding);
    area += a;
    volume += (a * solids[polygon.solid].faces[polygon.face].distance) / 3;
  }
  return { volume, area };
}
