/** Boxes by the cells of an even grid over x and y that they reach into: those near a box are found without asking all. */

import type { Box3 } from './box3.ts';

export class BoxGrid<T> {
  private readonly cells = new Map<string, number[]>();
  private readonly items: { box: Box3; value: T }[] = [];
  /** Boxes over so many cells are asked always: a terrain, the floor of a hall. */
  private readonly large: number[] = [];

  /** @param size of a cell, in the units of the boxes */
  constructor(private readonly size: number) {}

  add(box: Box3, value: T): void {
    const index = this.items.push({ box, value }) - 1;
    const cells = this.cellsOf(box, 0);
    if (!cells) this.large.push(index);
    else
      for (const cell of cells) {
        const there = this.cells.get(cell);
        if (there) there.push(index);
        else this.cells.set(cell, [index]);
      }
  }

  /** Everything whose box may come nearer than `slack` along x and y, in the order in which it was added. */
  near(box: Box3, slack = 0): T[] {
    const cells = this.cellsOf(box, slack);
    if (!cells) return this.items.map((item) => item.value);
    const found = new Set(this.large);
    for (const cell of cells) for (const index of this.cells.get(cell) ?? []) found.add(index);
    return [...found].sort((a, b) => a - b).map((index) => this.items[index].value);
  }

  private cellsOf({ min, max }: Box3, slack: number): string[] | null {
    const from = [0, 1].map((axis) => Math.floor((min[axis] - slack) / this.size));
    const to = [0, 1].map((axis) => Math.floor((max[axis] + slack) / this.size));
    if (!((to[0] - from[0] + 1) * (to[1] - from[1] + 1) <= MOST_CELLS)) return null;
    const cells: string[] = [];
    for (let x = from[0]; x <= to[0]; x++) for (let y = from[1]; y <= to[1]; y++) cells.push(`${x},${y}`);
    return cells;
  }
}

const MOST_CELLS = 64;
