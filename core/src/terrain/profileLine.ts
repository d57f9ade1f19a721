/** The ground along a line: its true profile, as a section shows it. */

import type { Ground } from './ground.ts';

export interface ProfilePoint {
  /** Units along the line from its start. */
  along: number;
  height: number;
}

/** Most points of one profile. */
const MOST = 20_000;

/**
 * Heights at every edge of the triangulation that the line crosses, so that the profile is the surface's own. Gaps (holes, and what
 * lies beside the ground) end a piece.
 */
export function groundProfile(ground: Ground, from: readonly [number, number], to: readonly [number, number], step = 1): ProfilePoint[][] {
  const far = Math.hypot(to[0] - from[0], to[1] - from[1]);
  if (far === 0) return [];
  const [u0, v0] = ground.sampleOf(...from);
  const [u1, v1] = ground.sampleOf(...to);
  const stops: number[] = [0, 1];
  // Edges of the triangulation lie where i, j or i + j is whole.
  for (const [a, b] of [
    [u0, u1],
    [v0, v1],
    [u0 + v0, u1 + v1],
  ]) {
    if (a === b) continue;
    const [low, high] = [Math.min(a, b), Math.max(a, b)];
    const first = Math.ceil(low / step) * step;
    if ((high - low) / step > MOST) continue;
    for (let k = first; k <= high; k += step) stops.push((k - a) / (b - a));
  }
  stops.sort((a, b) => a - b);
  const pieces: ProfilePoint[][] = [];
  let piece: ProfilePoint[] = [];
  let last = -1;
  for (const t of stops) {
    if (t - last < 1e-9) continue;
    last = t;
    const height = ground.heightAt(from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t);
    if (height === null) {
      if (piece.length > 1) pieces.push(piece);
      piece = [];
    } else piece.push({ along: far * t, height });
  }
  if (piece.length > 1) pieces.push(piece);
  return pieces;
}
