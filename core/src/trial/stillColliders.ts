/**
 * What stands still, for the physics: Rapier looks through all its colliders in every step, so that it is given only those
 * of cells that something moving has come near. A cell stays once it was needed.
 */

import type { Collider } from '@dimforge/rapier3d-deterministic-compat';
import { boxesTouch, type Box3 } from '../math/box3.ts';
import type { Obstacle } from './collide.ts';
import { Surround } from './surround.ts';

export class StillColliders {
  private readonly still: Surround;
  private readonly live = new Map<string, Collider[]>();
  /** Cells that are given to the physics, by their numbers along x and y. */
  private readonly cells = new Map<string, Box3>();

  /**
   * @param cell side of a cell in units
   * @param make a collider for an obstacle, or null where it has no shape
   */
  constructor(
    private readonly cell: number,
    private readonly make: (obstacle: Obstacle) => Collider | null,
    private readonly drop: (collider: Collider) => void,
  ) {
    this.still = new Surround(cell);
  }

  /** What stands under an id from now on; what moves nearby meets it at once. */
  set(id: string, obstacles: readonly Obstacle[]): void {
    this.live.get(id)?.forEach(this.drop);
    this.live.delete(id);
    this.still.set(id, obstacles);
    const cells = [...this.cells.values()];
    if (obstacles.some(({ box }) => cells.some((cell) => boxesTouch(cell, box)))) this.bringIn(id, obstacles);
  }

  /** Something moves within a box, which is no larger than a few cells. */
  wake({ min, max }: Box3): void {
    const { cell } = this;
    for (let x = Math.floor(min[0] / cell); x <= Math.floor(max[0] / cell); x++)
      for (let y = Math.floor(min[1] / cell); y <= Math.floor(max[1] / cell); y++) {
        const key = `${x},${y}`;
        if (this.cells.has(key)) continue;
        const space: Box3 = { min: [x * cell, y * cell, -Infinity], max: [(x + 1) * cell, (y + 1) * cell, Infinity] };
        this.cells.set(key, space);
        for (const { id } of this.still.near(space)) this.bringIn(id, this.still.of(id));
      }
  }

  private bringIn(id: string, obstacles: readonly Obstacle[]): void {
    if (this.live.has(id)) return;
    this.live.set(
      id,
      obstacles.flatMap((obstacle) => this.make(obstacle) ?? []),
    );
  }
}
