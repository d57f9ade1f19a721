/** A built ground as a surface that can be stood on: what the test run and the probes of light ask. */

import { HeightField } from '../../terrain/heightField.ts';
import { HOLE, type BuiltGround } from './stage.ts';

export type FieldGround = Pick<BuiltGround, 'id' | 'nx' | 'ny' | 'origin' | 'spacing' | 'heights' | 'covers'>;

export class BuiltField extends HeightField {
  constructor(private readonly ground: FieldGround) {
    super(ground.nx, ground.ny, ground.origin, ground.spacing);
  }

  at(i: number, j: number): number {
    const x = i < 0 ? 0 : i >= this.nx ? this.nx - 1 : i;
    const y = j < 0 ? 0 : j >= this.ny ? this.ny - 1 : j;
    return this.ground.heights[y * this.nx + x];
  }

  isThere(i: number, j: number): boolean {
    return i >= 0 && j >= 0 && i < this.nx - 1 && j < this.ny - 1 && this.ground.covers[j * this.nx + i] !== HOLE;
  }

  /** Number of the surface about a point. */
  coverAt(x: number, y: number): number {
    const [u, v] = this.sampleOf(x, y);
    const i = Math.min(this.nx - 1, Math.max(0, Math.round(u)));
    const j = Math.min(this.ny - 1, Math.max(0, Math.round(v)));
    const cover = this.ground.covers[j * this.nx + i];
    return cover === HOLE ? 0 : cover;
  }
}
