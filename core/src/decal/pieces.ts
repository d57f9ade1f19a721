/** Decals of a map that is being edited, laid on the solids and the ground around them: after an edit only what it can have changed is laid anew. */

import type { Solid } from '../document/schema.ts';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import type { Vec3 } from '../math/vec3.ts';
import { shapeOf } from '../solid/shape.ts';
import type { DecalPiece } from './clip.ts';
import type { Ground } from '../terrain/ground.ts';
import { groundHosts } from './onGround.ts';
import { throwing, type Lying } from './throwing.ts';

export interface ShownPiece extends DecalPiece {
  normal: Vec3;
}

interface Laid {
  of: Lying;
  box: Box3;
  pieces: ShownPiece[];
}

export class DecalPieces {
  private laid = new Map<string, Laid>();
  private solids: Readonly<Record<string, Solid>> = {};
  private grounds: readonly Ground[] = [];
  private list: { of: unknown; ids: string[]; boxes: Box3[] } = { of: null, ids: [], boxes: [] };

  get(id: string): readonly ShownPiece[] {
    return this.laid.get(id)?.pieces ?? [];
  }

  /** Brings all up to date; answers the ids of decals whose pieces are other ones than before, those that are gone among them. */
  update(decals: Readonly<Record<string, Lying>>, solids: Readonly<Record<string, Solid>>, grounds: readonly Ground[] = []): Set<string> {
    const touched: Box3[] = [];
    if (solids !== this.solids) {
      for (const id in solids) if (solids[id] !== this.solids[id]) touched.push(shapeOf(solids[id]).box);
      for (const id in this.solids) if (solids[id] !== this.solids[id]) touched.push(shapeOf(this.solids[id]).box);
    }
    // A ground that was changed is another one.
    for (const [one, other] of [
      [grounds, this.grounds],
      [this.grounds, grounds],
    ])
      for (const ground of one) if (!other.includes(ground)) touched.push(ground.box);
    const anew = new Set<string>();
    for (const id of this.laid.keys()) if (!decals[id]) anew.add(id);
    for (const id in decals) {
      const known = this.laid.get(id);
      if (!known || known.of !== decals[id] || touched.some((box) => boxesTouch(box, known.box))) anew.add(id);
    }
    const near = this.finder(solids, anew.size);
    for (const id of anew) {
      const of = decals[id];
      if (!of) {
        this.laid.delete(id);
        continue;
      }
      const box = throwing(of).box;
      this.laid.set(id, { of, box, pieces: [...piecesOn(of, near(box), solids), ...piecesOnGround(of, box, grounds)] });
    }
    this.solids = solids;
    this.grounds = grounds;
    return anew;
  }

  /** What finds the solids within a box: by asking all where it is asked seldom. */
  private finder(solids: Readonly<Record<string, Solid>>, times: number): (box: Box3) => string[] {
    if (times < 16) {
      if (this.list.of !== solids)
        this.list = { of: solids, ids: Object.keys(solids), boxes: Object.values(solids).map((solid) => shapeOf(solid).box) };
      const { ids, boxes } = this.list;
      return (box) => ids.filter((_, i) => boxesTouch(boxes[i], box));
    }
    const grid = new BoxGrid<string>(128);
    for (const id in solids) grid.add(shapeOf(solids[id]).box, id);
    return (box) => grid.near(box).filter((id) => boxesTouch(shapeOf(solids[id]).box, box));
  }
}

/** One decal on the faces of solids, before anything of them is hidden. */
export function piecesOn(decal: Lying, ids: readonly string[], solids: Readonly<Record<string, Solid>>): ShownPiece[] {
  const thrower = throwing(decal);
  return ids.flatMap((solid) =>
    shapeOf(solids[solid]).polygons.flatMap(({ winding, face }) => {
      const { normal } = solids[solid].faces[face];
      return thrower.on(winding, normal).map((piece) => ({ ...piece, normal }));
    }),
  );
}

/** One decal on the triangles of ground. */
function piecesOnGround(decal: Lying, box: Box3, grounds: readonly Ground[]): ShownPiece[] {
  const thrower = throwing(decal);
  return groundHosts(grounds, [box]).flatMap(({ winding, normal }) => thrower.on(winding, normal).map((piece) => ({ ...piece, normal })));
}
