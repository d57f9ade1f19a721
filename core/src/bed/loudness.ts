/** How loud the beds of a map are together at ear height, place by place. */

import type { Vec3 } from '../math/vec3.ts';
import type { HeardArea, Hearing } from './hear.ts';
import { cellAt, type SoundCells } from './space.ts';

export interface LoudnessPlan {
  /** Least x and y, and the width of a cell. Units. */
  from: [number, number];
  cell: number;
  columns: number;
  rows: number;
  /** LUFS, row by row from the least y; NaN where nobody can be, −Infinity where nothing is heard. */
  values: Float32Array;
}

/** Power of areas together. @param loudnessOf LUFS of a bed at its full volume */
export function loudnessAt(heard: readonly Pick<HeardArea, 'bed' | 'gain'>[], loudnessOf: (bed: string) => number): number {
  const power = heard.reduce((sum, { bed, gain }) => sum + 10 ** (loudnessOf(bed) / 10) * gain * gain, 0);
  return power > 0 ? 10 * Math.log10(power) : -Infinity;
}

/**
 * Works row by row, so that whoever asks can let others have their turn between two.
 * @param z height of the ears
 */
export function* planLoudness(
  hearing: Hearing,
  cells: SoundCells | null,
  { min, max }: { min: Vec3; max: Vec3 },
  z: number,
  loudnessOf: (bed: string) => number,
  most = 96,
): Generator<number, LoudnessPlan> {
  const [w, d] = [max[0] - min[0], max[1] - min[1]];
  const cell = Math.max(w, d, 1e-6) / most;
  const [columns, rows] = [Math.max(1, Math.ceil(w / cell)), Math.max(1, Math.ceil(d / cell))];
  const values = new Float32Array(columns * rows).fill(NaN);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const at: Vec3 = [min[0] + (column + 0.5) * cell, min[1] + (row + 0.5) * cell, z];
      if (cells && cellAt(cells, at) < 0) continue;
      values[row * columns + column] = loudnessAt(hearing.at(at), loudnessOf);
    }
    yield (row + 1) / rows;
  }
  return { from: [min[0], min[1]], cell, columns, rows, values };
}
