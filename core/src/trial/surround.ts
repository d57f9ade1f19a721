/** The broad phase of a test run: which obstacles may matter near a box, however many there are. */

import { boxesTouch, type Box3 } from '../math/box3.ts';
import { BoxGrid } from '../math/boxGrid.ts';
import type { Obstacle } from './collide.ts';

export class Surround {
  private readonly fixed = new Map<string, Obstacle[]>();
  private grid: BoxGrid<Obstacle> | null = null;

  /** @param cell side of a cell of the grid in units: a few times what is looked for */
  constructor(private readonly cell: number) {}

  /** What stands still from now on, in place of what had its id. */
  set(id: string, obstacles: readonly Obstacle[]): void {
    if (obstacles.length > 0) this.fixed.set(id, [...obstacles]);
    else this.fixed.delete(id);
    this.grid = null;
  }

  of(id: string): readonly Obstacle[] {
    return this.fixed.get(id) ?? [];
  }

  *all(): Iterable<Obstacle> {
    for (const list of this.fixed.values()) yield* list;
  }

  /** What stands still and touches the box. */
  near(box: Box3): Obstacle[] {
    this.grid ??= this.gridOf();
    return this.grid.near(box).filter((obstacle) => boxesTouch(obstacle.box, box));
  }

  private gridOf(): BoxGrid<Obstacle> {
    const grid = new BoxGrid<Obstacle>(this.cell);
    for (const obstacle of this.all()) grid.add(obstacle.box, obstacle);
    return grid;
  }
}
