/**
 * What is left of one face while solids cut it. A floor under thousands of solids is soon in tens of thousands of pieces,
 * of which each further solid meets a few. Pieces hang below what they were cut from, so a search leaves out at
 * once all that lies in a piece which it does not touch.
 */

import { boxesTouch, boxOfPoints, type Box3 } from '../../math/box3.ts';
import { ON_PLANE, type Winding } from '../../solid/winding.ts';

interface Piece {
  winding: Winding;
  box: Box3;
  /** What it was cut into, once it has been. */
  parts: Piece[] | null;
}

const pieceOf = (winding: Winding): Piece => ({ winding, box: boxOfPoints(winding), parts: null });

export class Fragments {
  private readonly whole: Piece;
  /** Pieces that are left. */
  private left = 1;

  constructor(winding: Winding) {
    this.whole = pieceOf(winding);
  }

  get box(): Box3 {
    return this.whole.box;
  }

  get none(): boolean {
    return this.left === 0;
  }

  /** @param outside what is left of a winding; the winding itself where nothing of it goes */
  cut(box: Box3, outside: (winding: Winding) => Winding[]): void {
    const open = [this.whole];
    for (let piece = open.pop(); piece; piece = open.pop()) {
      if (!boxesTouch(piece.box, box, ON_PLANE)) continue;
      if (piece.parts) {
        open.push(...piece.parts);
        continue;
      }
      const rest = outside(piece.winding);
      if (rest[0] === piece.winding) continue;
      piece.parts = rest.map(pieceOf);
      this.left += rest.length - 1;
    }
  }

  /** In the order in which cutting piece by piece would have left them. */
  windings(): Winding[] {
    const found: Winding[] = [];
    const open = [this.whole];
    for (let piece = open.pop(); piece; piece = open.pop()) {
      if (piece.parts) open.push(...piece.parts.toReversed());
      else found.push(piece.winding);
    }
    return found;
  }
}
