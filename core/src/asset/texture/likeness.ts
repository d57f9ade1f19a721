/** Pictures that look the same at another size or compression have hashes that differ in few bits. */

import type { Picture } from './picture.ts';

const COLUMNS = 9;
const ROWS = 8;

/**
 * Difference hash: whether each of 8 × 8 areas is darker than the one right of it, as 16 hexadecimal digits. Method as
 * published by Krawetz, "Kind of like that" (2013). A picture of one colour has no gradients: null.
 */
export function likenessOf({ width, height, data }: Picture): string | null {
  const sums = new Float64Array(COLUMNS * ROWS);
  const counts = new Float64Array(COLUMNS * ROWS);
  for (let y = 0; y < height; y++) {
    const row = Math.floor((y * ROWS) / height) * COLUMNS;
    for (let x = 0; x < width; x++) {
      const cell = row + Math.floor((x * COLUMNS) / width);
      const at = (y * width + x) * 4;
      sums[cell] += 0.299 * data[at] + 0.587 * data[at + 1] + 0.114 * data[at + 2];
      counts[cell]++;
    }
  }
  const mean = Array.from(sums, (sum, i) => (counts[i] > 0 ? sum / counts[i] : 0));
  if (Math.max(...mean) - Math.min(...mean) < 2) return null;
  let digits = '';
  for (let row = 0; row < ROWS; row++) {
    let byte = 0;
    for (let x = 0; x < COLUMNS - 1; x++) byte = byte * 2 + (mean[row * COLUMNS + x] < mean[row * COLUMNS + x + 1] ? 1 : 0);
    digits += byte.toString(16).padStart(2, '0');
  }
  return digits;
}

/** In how many of 64 bits two hashes differ. */
export function likenessDistance(a: string, b: string): number {
  let bits = 0;
  for (let i = 0; i < a.length; i += 8) {
    let differing = (parseInt(a.slice(i, i + 8), 16) ^ parseInt(b.slice(i, i + 8), 16)) >>> 0;
    for (; differing > 0; differing &= differing - 1) {
      bits++;
      differing >>>= 0;
    }
  }
  return bits;
}
