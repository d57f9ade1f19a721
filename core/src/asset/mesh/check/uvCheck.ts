import type { ModelPart } from '../model/model.ts';
import { doubleArea } from '../geometry/surface.ts';

/** Texels along either side of the square on which lightmap coordinates are tried for overlaps. */
const GRID = 512;
/** Share of the covered texels that may be covered twice: neighbours share texels along their edges. */
export const OVERLAP_SHOWS = 0.02;

/** Triangles of a part that have area in space but none in the texture. */
export function collapsedUvs(part: ModelPart): number[] {
  const { uvs, indices, positions } = part;
  if (!uvs) return [];
  const out: number[] = [];
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [indices[t], indices[t + 1], indices[t + 2]];
    const area = (uvs[b * 2] - uvs[a * 2]) * (uvs[c * 2 + 1] - uvs[a * 2 + 1]) - (uvs[c * 2] - uvs[a * 2]) * (uvs[b * 2 + 1] - uvs[a * 2 + 1]);
    if (Math.abs(area) < 1e-12 && doubleArea(positions, a, b, c) > 0) out.push(t / 3);
  }
  return out;
}

/**
 * How much of the lightmap is claimed by more than one triangle, over all parts: a texel belongs to every
 * triangle that holds its middle, so charts that merely touch do not count.
 */
export function lightmapOverlap(parts: readonly ModelPart[]): { share: number; triangles: number[]; outside: number } {
  const owner = new Int32Array(GRID * GRID).fill(-1);
  const twice = new Set<number>();
  let [covered, doubled, outside, number] = [0, 0, 0, 0];
  for (const part of parts) {
    const uvs = part.lightUvs;
    for (let t = 0; t < part.indices.length; t += 3, number++) {
      if (!uvs) continue;
      const [ax, ay, bx, by, cx, cy] = [0, 1, 2].flatMap((k) => [uvs[part.indices[t + k] * 2] * GRID, uvs[part.indices[t + k] * 2 + 1] * GRID]);
      if (Math.min(ax, ay, bx, by, cx, cy) < -0.01 || Math.max(ax, ay, bx, by, cx, cy) > GRID + 0.01) {
        outside++;
        continue;
      }
      const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      if (area === 0) continue;
      for (let y = Math.floor(Math.min(ay, by, cy)); y < Math.min(GRID, Math.ceil(Math.max(ay, by, cy))); y++) {
        for (let x = Math.floor(Math.min(ax, bx, cx)); x < Math.min(GRID, Math.ceil(Math.max(ax, bx, cx))); x++) {
          const [px, py] = [x + 0.5, y + 0.5];
          const u = ((px - ax) * (cy - ay) - (py - ay) * (cx - ax)) / area;
          const v = ((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / area;
          // Strictly inside, so that a shared edge through a middle counts once.
          if (u <= 1e-6 || v <= 1e-6 || u + v >= 1 - 1e-6) continue;
          const at = y * GRID + x;
          if (owner[at] < 0) {
            owner[at] = number;
            covered++;
          } else {
            doubled++;
            twice.add(owner[at]);
            twice.add(number);
          }
        }
      }
    }
  }
  return { share: covered > 0 ? doubled / covered : 0, triangles: [...twice], outside };
}
