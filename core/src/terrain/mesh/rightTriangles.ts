/**
 * Ground as right triangles that are halved where it is not flat (W. Evans, D. Kirkpatrick, G. Townsend, "Right-triangulated
 * irregular networks", Algorithmica 30 (2001)), by an error bound. The error of a triangle is the largest vertical distance, at the
 * middle of its long side, of itself and of all that it can be halved into; both triangles at a long side share it, so that the mesh
 * has no cracks. Within a triangle that is not halved a sample may lie farther off than its middle, by half the bound or so:
 * `farthest` measures it. Errors lie in one grid over the whole ground, not one per block: neither are there cracks between blocks.
 *
 * Levels of detail are one mesh per block and bound. Along the border of a block every level is as fine as the finest, so that
 * neighbours of different levels meet exactly.
 */

import { TILE } from '../../document/schema.ts';
import type { Ground } from '../ground.ts';

/** Quads along a side of a block. */
export const BLOCK = TILE;

/** Triangles of one block that can be halved, finest first: the ends of the long side, then the corner opposite, x and y each. */
const HALVED: Uint8Array = (() => {
  const levels: number[][] = [];
  const visit = (depth: number, ax: number, ay: number, bx: number, by: number, cx: number, cy: number) => {
    if (Math.abs(ax - cx) + Math.abs(ay - cy) <= 1) return;
    (levels[depth] ??= []).push(ax, ay, bx, by, cx, cy);
    const [mx, my] = [(ax + bx) / 2, (ay + by) / 2];
    visit(depth + 1, cx, cy, ax, ay, mx, my);
    visit(depth + 1, bx, by, cx, cy, mx, my);
  };
  visit(0, 0, 0, BLOCK, BLOCK, BLOCK, 0);
  visit(0, BLOCK, BLOCK, 0, 0, 0, BLOCK);
  return Uint8Array.from(levels.reverse().flat());
})();

/** Triangles of `HALVED` by level, as its halves lie in it: all blocks take a level before the next is begun. */
const LEVEL_ENDS: number[] = (() => {
  const ends: number[] = [];
  const legs = (n: number) => Math.hypot(HALVED[n] - HALVED[n + 4], HALVED[n + 1] - HALVED[n + 5]);
  for (let n = 6; n <= HALVED.length; n += 6) if (n === HALVED.length || legs(n) !== legs(n - 6)) ends.push(n);
  return ends;
})();

export interface GroundMesh {
  /** Samples and heights: i, j and units in turn. */
  vertices: Float32Array;
  indices: Uint32Array;
}

/** A block of the ground at one level of detail. */
export interface BlockMesh extends GroundMesh {
  x: number;
  y: number;
  level: number;
}

export class RightTriangles {
  readonly blocksX: number;
  readonly blocksY: number;
  private readonly columns: number;
  private readonly rows: number;
  private readonly heights: Float32Array;

  constructor(private readonly ground: Pick<Ground, 'nx' | 'ny' | 'at' | 'isThere'>) {
    this.blocksX = Math.ceil((ground.nx - 1) / BLOCK);
    this.blocksY = Math.ceil((ground.ny - 1) / BLOCK);
    this.columns = this.blocksX * BLOCK + 1;
    this.rows = this.blocksY * BLOCK + 1;
    this.heights = new Float32Array(this.columns * this.rows);
    for (let j = 0; j < this.rows; j++) for (let i = 0; i < this.columns; i++) this.heights[j * this.columns + i] = ground.at(i, j);
  }

  /**
   * One mesh per block and bound.
   *
   * @param bounds largest vertical distance from the samples, units, finest first
   */
  meshes(bounds: readonly number[], onProgress: (done: number) => void = () => {}): BlockMesh[] {
    const missing = this.missing();
    const finest = this.errors(missing, null);
    const out: BlockMesh[] = [];
    bounds.forEach((bound, level) => {
      const errors = level === 0 ? finest : this.errors(missing, { finest, bound: bounds[0] });
      for (let y = 0; y < this.blocksY; y++)
        for (let x = 0; x < this.blocksX; x++) {
          const mesh = this.block(x, y, errors, bound, missing);
          if (mesh.indices.length > 0) out.push({ x, y, level, ...mesh });
        }
      onProgress((level + 1) / bounds.length);
    });
    return out;
  }

  /** Quads that are not there: holes, and what fills the last blocks up. */
  private missing(): Uint8Array | null {
    const { columns, rows, ground } = this;
    const out = new Uint8Array(columns * rows);
    let any = false;
    for (let j = 0; j < rows - 1; j++)
      for (let i = 0; i < columns - 1; i++)
        if (!ground.isThere(i, j)) {
          out[j * columns + i] = 1;
          any = true;
        }
    return any ? out : null;
  }

  private errors(missing: Uint8Array | null, border: { finest: Float32Array; bound: number } | null): Float32Array {
    const { columns, rows, heights, blocksX, blocksY } = this;
    const errors = new Float32Array(columns * rows);
    // Whatever meets a quad that is not there is halved to its end, so that it can be left out whole.
    if (missing)
      for (let k = 0; k < missing.length; k++) if (missing[k]) for (const other of [k, k + 1, k + columns, k + columns + 1]) errors[other] = Infinity;
    if (border) {
      const { finest, bound } = border;
      for (let j = 0; j < rows; j++)
        for (let i = 0; i < columns; i++)
          if ((i % BLOCK === 0 || j % BLOCK === 0) && finest[j * columns + i] > bound) errors[j * columns + i] = Infinity;
    }
    let from = 0;
    for (const end of LEVEL_ENDS) {
      for (let by = 0; by < blocksY; by++)
        for (let bx = 0; bx < blocksX; bx++) {
          const origin = by * BLOCK * columns + bx * BLOCK;
          for (let n = from; n < end; n += 6) {
            const a = origin + HALVED[n + 1] * columns + HALVED[n];
            const b = origin + HALVED[n + 3] * columns + HALVED[n + 2];
            const c = origin + HALVED[n + 5] * columns + HALVED[n + 4];
            const middle = (a + b) / 2;
            let error = Math.max(errors[middle], Math.abs((heights[a] + heights[b]) / 2 - heights[middle]));
            // Halves whose own long sides have a middle.
            if (from > 0) error = Math.max(error, errors[(a + c) / 2], errors[(b + c) / 2]);
            errors[middle] = error;
          }
        }
      from = end;
    }
    return errors;
  }

  private block(x: number, y: number, errors: Float32Array, bound: number, missing: Uint8Array | null): GroundMesh {
    const { columns, heights } = this;
    const [i0, j0] = [x * BLOCK, y * BLOCK];
    const numbers = new Int32Array((BLOCK + 1) ** 2).fill(-1);
    const vertices: number[] = [];
    const indices: number[] = [];
    const vertex = (i: number, j: number): number => {
      const key = (j - j0) * (BLOCK + 1) + i - i0;
      if (numbers[key] < 0) {
        numbers[key] = vertices.length / 3;
        vertices.push(i, j, heights[j * columns + i]);
      }
      return numbers[key];
    };
    const visit = (ax: number, ay: number, bx: number, by: number, cx: number, cy: number): void => {
      const [mx, my] = [(ax + bx) >> 1, (ay + by) >> 1];
      if (Math.abs(ax - cx) + Math.abs(ay - cy) > 1 && errors[my * columns + mx] > bound) {
        visit(cx, cy, ax, ay, mx, my);
        visit(bx, by, cx, cy, mx, my);
      } else if (!missing?.[Math.min(ay, by, cy) * columns + Math.min(ax, bx, cx)]) {
        indices.push(vertex(ax, ay), vertex(cx, cy), vertex(bx, by));
      }
    };
    visit(i0, j0, i0 + BLOCK, j0 + BLOCK, i0 + BLOCK, j0);
    visit(i0 + BLOCK, j0 + BLOCK, i0, j0, i0, j0 + BLOCK);
    return { vertices: Float32Array.from(vertices), indices: Uint32Array.from(indices) };
  }
}

/** The largest vertical distance of any sample from the meshes of a level, units. */
export function farthest(ground: Pick<Ground, 'at'>, meshes: readonly BlockMesh[]): number {
  let worst = 0;
  for (const { vertices, indices } of meshes)
    for (let t = 0; t < indices.length; t += 3) {
      const [a, b, c] = [indices[t] * 3, indices[t + 1] * 3, indices[t + 2] * 3];
      const [ax, ay, az] = [vertices[a], vertices[a + 1], vertices[a + 2]];
      const [bx, by, bz] = [vertices[b] - ax, vertices[b + 1] - ay, vertices[b + 2] - az];
      const [cx, cy, cz] = [vertices[c] - ax, vertices[c + 1] - ay, vertices[c + 2] - az];
      const area = bx * cy - cx * by;
      for (let j = Math.min(0, by, cy); j <= Math.max(0, by, cy); j++)
        for (let i = Math.min(0, bx, cx); i <= Math.max(0, bx, cx); i++) {
          const [s, u] = [(i * cy - cx * j) / area, (bx * j - i * by) / area];
          if (s >= 0 && u >= 0 && s + u <= 1) worst = Math.max(worst, Math.abs(az + bz * s + cz * u - ground.at(ax + i, ay + j)));
        }
    }
  return worst;
}
