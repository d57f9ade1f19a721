/**
 * Points no nearer to each other than a distance, filling an area (R. Bridson, "Fast Poisson disk sampling in arbitrary dimensions",
 * SIGGRAPH 2007 sketches): new points are tried in the ring around those there are, a grid of cells tells whether they are too near.
 */

import { chance } from '../../math/chance.ts';

const TRIES = 12;

/**
 * @param accept whether a point may stand; asked before it is kept
 * @returns x, y in turn within 0..width, 0..height
 */
export function poissonDisc(width: number, height: number, apart: number, seed: number, accept: (x: number, y: number) => boolean): Float64Array {
  const random = chance(seed);
  const cell = apart / Math.SQRT2;
  const [columns, rows] = [Math.max(1, Math.ceil(width / cell)), Math.max(1, Math.ceil(height / cell))];
  const grid = new Int32Array(columns * rows).fill(-1);
  const points: number[] = [];
  const active: number[] = [];
  const squared = apart * apart;

  const fits = (x: number, y: number): boolean => {
    const [cx, cy] = [Math.min(columns - 1, Math.floor(x / cell)), Math.min(rows - 1, Math.floor(y / cell))];
    for (let j = Math.max(0, cy - 2); j <= Math.min(rows - 1, cy + 2); j++)
      for (let i = Math.max(0, cx - 2); i <= Math.min(columns - 1, cx + 2); i++) {
        const other = grid[j * columns + i];
        if (other < 0) continue;
        const [dx, dy] = [points[other * 2] - x, points[other * 2 + 1] - y];
        if (dx * dx + dy * dy < squared) return false;
      }
    return true;
  };
  const put = (x: number, y: number): void => {
    const index = points.length / 2;
    points.push(x, y);
    grid[Math.min(rows - 1, Math.floor(y / cell)) * columns + Math.min(columns - 1, Math.floor(x / cell))] = index;
    active.push(index);
  };

  // Accepted ground may lie in islands, so that growth begins anew in every part of the area that is still empty.
  const blocks = Math.max(1, Math.ceil(Math.max(width, height) / (apart * 16)));
  for (let by = 0; by < blocks; by++)
    for (let bx = 0; bx < blocks; bx++) {
      for (let n = 0; n < 4; n++) {
        const x = ((bx + random()) / blocks) * width;
        const y = ((by + random()) / blocks) * height;
        if (accept(x, y) && fits(x, y)) put(x, y);
      }
      while (active.length > 0) {
        const pick = Math.floor(random() * active.length);
        const from = active[pick];
        let found = false;
        for (let n = 0; n < TRIES && !found; n++) {
          const angle = random() * 2 * Math.PI;
          const far = apart * (1 + random());
          const [x, y] = [points[from * 2] + far * Math.cos(angle), points[from * 2 + 1] + far * Math.sin(angle)];
          if (x < 0 || y < 0 || x >= width || y >= height || !fits(x, y) || !accept(x, y)) continue;
          put(x, y);
          found = true;
        }
        if (found) continue;
        active[pick] = active[active.length - 1];
        active.pop();
      }
    }
  return Float64Array.from(points);
}
