/** Two exports of one mesh have the same hash, in whatever order their triangles are and under whatever names and materials. */

import type { Soup } from './surface.ts';

/** Steps along the longest side within which corners count as the same. */
const STEPS = 16384;

/** Of triangles by the places of their corners, from the least corner of the box around them: 16 hexadecimal digits. */
export function meshHash({ positions, indices }: Pick<Soup, 'positions' | 'indices'>): string {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    const k = i % 3;
    if (positions[i] < low[k]) low[k] = positions[i];
    if (positions[i] > high[k]) high[k] = positions[i];
  }
  const step = Math.max(high[0] - low[0], high[1] - low[1], high[2] - low[2]) / STEPS || 1;
  const place = (vertex: number): number =>
    [0, 1, 2].reduce((number, k) => number * (STEPS + 1) + Math.round((positions[vertex * 3 + k] - low[k]) / step), 0);
  // Added up, so that their order does not matter.
  const sums = [0, 0];
  for (let i = 0; i < indices.length; i += 3) {
    const corners = [place(indices[i]), place(indices[i + 1]), place(indices[i + 2])].sort((a, b) => a - b);
    for (let n = 0; n < sums.length; n++) sums[n] = (sums[n] + mixed(corners, n)) >>> 0;
  }
  return sums.map((sum) => sum.toString(16).padStart(8, '0')).join('');
}

/** FNV-1a over the halves of each number, from a start of its own. */
function mixed(numbers: readonly number[], start: number): number {
  let hash = Math.imul(0x811c9dc5 + start, 0x01000193);
  for (const number of numbers) {
    hash = Math.imul(hash ^ (number >>> 0), 0x01000193);
    hash = Math.imul(hash ^ Math.floor(number / 0x100000000) ^ (hash >>> 13), 0x01000193);
  }
  return (hash ^ (hash >>> 16)) >>> 0;
}

/**
 * How finely a picture lies on a model: repeats of it per unit of length, over all triangles by their area; null where it has
 * no coordinates for one.
 */
export function repeatsPerUnit(parts: readonly { positions: Float32Array; uvs: Float32Array | null; indices: Uint32Array }[]): number | null {
  let inSpace = 0;
  let inPicture = 0;
  for (const { positions: p, uvs, indices } of parts) {
    if (!uvs) continue;
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [indices[i], indices[i + 1], indices[i + 2]];
      const [ux, uy, uz] = [0, 1, 2].map((k) => p[b * 3 + k] - p[a * 3 + k]);
      const [vx, vy, vz] = [0, 1, 2].map((k) => p[c * 3 + k] - p[a * 3 + k]);
      inSpace += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
      const [su, sv, tu, tv] = [uvs[b * 2] - uvs[a * 2], uvs[b * 2 + 1] - uvs[a * 2 + 1], uvs[c * 2] - uvs[a * 2], uvs[c * 2 + 1] - uvs[a * 2 + 1]];
      inPicture += Math.abs(su * tv - sv * tu);
    }
  }
  return inSpace > 0 && inPicture > 0 ? Math.sqrt(inPicture / inSpace) : null;
}
