/**
 * All decals of a map laid on what they lie on: which come over which, and how far each is lifted off.
 *
 * A piece lies in the plane of its surface. It is kept from flickering twice. Whoever draws it with `glPolygonOffset(-1, -r)` has it in
 * front by at least r times "the smallest value guaranteed to produce a resolvable difference in window coordinate depth values"
 * (OpenGL 4.6 specification, 14.6.5). For viewers that cannot, it is lifted by `LIFT` for every piece that it lies over: with a depth buffer
 * of 24 bits, whose steps at distance z are z² / (near · 2²⁴), that is more than one step as far as √(LIFT · cos θ · near · 2²⁴),
 * 40 m at near = 0.1 m and θ = 60°.
 */

import { boxesTouch, boxOfPoints, type Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import { addScaled, type Vec3 } from '../math/vec3.ts';
import { windingArea, type Winding } from '../solid/winding.ts';
import type { DecalPiece } from './clip.ts';
import { throwing, type Lying } from './throwing.ts';

/** Metres by which a piece is lifted for every one that it lies over, itself included. */
export const LIFT = 1 / 512;

/** Something flat that decals can lie on. */
export interface DecalHost {
  winding: Winding;
  /** Unit normal. */
  normal: Vec3;
}

export interface LaidPiece extends DecalPiece {
  decal: string;
  /** Index of its host. */
  host: number;
  normal: Vec3;
  /** 1 on the bare surface, one more for every piece below it. */
  rank: number;
  /** What is of one level and one material may be drawn in one go, after all of lower levels. */
  level: number;
}

/** Edge of a grid's cells, units, so that the middle one of the boxes lies in a few. */
function cellFor(boxes: readonly Box3[]): number {
  const sizes = boxes.map(({ min, max }) => Math.max(max[0] - min[0], max[1] - min[1])).sort((a, b) => a - b);
  return Math.max((sizes[sizes.length >> 1] ?? 1) * 2, 1e-3);
}

/** Ids in the order in which they are drawn. */
export const drawnOrder = (decals: Readonly<Record<string, Lying>>): string[] =>
  Object.keys(decals).sort(
    (a, b) => decals[a].order - decals[b].order || Number(a.replace(/\D/g, '')) - Number(b.replace(/\D/g, '')) || (a < b ? -1 : 1),
  );

/** Hosts that can be asked for what lies within a box. */
export interface Hosts {
  at(index: number): DecalHost;
  near(box: Box3): Iterable<number>;
}

/** Polygons by the places where they lie. */
export function hostsOf(list: readonly DecalHost[]): Hosts {
  const boxes = list.map(({ winding }) => boxOfPoints(winding));
  const grid = new BoxGrid<number>(cellFor(boxes));
  boxes.forEach((box, index) => grid.add(box, index));
  return { at: (index) => list[index], near: (box) => grid.near(box).filter((index) => boxesTouch(boxes[index], box)) };
}

/** All pieces in the order in which they are drawn. */
export function layDecals(decals: Readonly<Record<string, Lying>>, hosts: Hosts): LaidPiece[] {
  const ids = drawnOrder(decals);
  const boxes = ids.map((id) => throwing(decals[id]).box);
  const laid: LaidPiece[] = [];
  // What lies on one surface and touches by its boxes counts as lying over each other.
  const placed = new BoxGrid<Pick<LaidPiece, 'host' | 'rank' | 'level'> & { material: string; box: Box3 }>(cellFor(boxes));
  ids.forEach((id, n) => {
    const thrower = throwing(decals[id]);
    const mine: { host: number; pieces: DecalPiece[]; box: Box3 }[] = [];
    for (const host of hosts.near(boxes[n])) {
      const { winding, normal } = hosts.at(host);
      const pieces = thrower.on(winding, normal);
      if (pieces.length > 0) mine.push({ host, pieces, box: boxOfPoints(pieces.flatMap((piece) => piece.winding)) });
    }
    // One rank for all of it, so that no step shows where it goes over an edge between two polygons.
    let [rank, level] = [1, 0];
    const { material } = decals[id];
    for (const { host, box } of mine)
      for (const below of placed.near(box)) {
        if (below.host !== host || !boxesTouch(below.box, box)) continue;
        rank = Math.max(rank, below.rank + 1);
        level = Math.max(level, below.level + (below.material === material ? 0 : 1));
      }
    for (const { host, pieces, box } of mine) {
      placed.add(box, { host, rank, level, material, box });
      const { normal } = hosts.at(host);
      for (const piece of pieces) laid.push({ ...piece, decal: id, host, normal, rank, level });
    }
  });
  return laid;
}

/** Where a piece is drawn: lifted off its surface. @param metres of a unit */
export const lifted = ({ winding, normal, rank }: Pick<LaidPiece, 'winding' | 'normal' | 'rank'>, metres: number): Winding =>
  winding.map((point) => addScaled(point, normal, (rank * LIFT) / metres));

/** What was laid, in numbers: areas in square units. */
export function layCounts(laid: readonly LaidPiece[]): { pieces: number; area: number; layers: number } {
  return {
    pieces: laid.length,
    area: laid.reduce((sum, { winding }) => sum + windingArea(winding), 0),
    layers: laid.reduce((most, { rank }) => Math.max(most, rank), 0),
  };
}
