/** The best runs of a race on this machine, to ride against. */

import type { Vec3 } from '@violet-crate/core/math/vec3';

export interface GhostTrack {
  /** Seconds to the finish. */
  seconds: number;
  /** x, y, z and heading in turn, `EVERY` seconds apart from the start of the clock on; units and radians. */
  track: number[];
}

/** Seconds between two places of a track. */
export const EVERY = 0.2;

/** Runs that are kept, and places of one. */
const KEPT = 3;
const LONGEST = 3000;

const keyOf = (crateId: string, map: string) => `violet-crate-ghosts/${crateId}/${map}`;

export function loadGhosts(crateId: string, map: string): GhostTrack[] {
  try {
    const read = JSON.parse(localStorage.getItem(keyOf(crateId, map)) ?? '[]') as GhostTrack[];
    return read.filter(({ seconds, track }) => Number.isFinite(seconds) && Array.isArray(track) && track.every(Number.isFinite)).slice(0, KEPT);
  } catch {
    return [];
  }
}

/** Keeps a finished run where it is among the best. Answers its rank from 1, or null. */
export function keepGhost(crateId: string, map: string, run: GhostTrack): number | null {
  const all = [...loadGhosts(crateId, map), { seconds: run.seconds, track: run.track.slice(0, LONGEST * 4).map((v) => Math.round(v * 100) / 100) }]
    .sort((a, b) => a.seconds - b.seconds)
    .slice(0, KEPT);
  const rank = all.findIndex(({ seconds }) => seconds === run.seconds);
  try {
    localStorage.setItem(keyOf(crateId, map), JSON.stringify(all));
  } catch {
    // No room left in the browser: the run counts, but is not ridden against.
    return null;
  }
  return rank < 0 ? null : rank + 1;
}

/** Where a ghost is at a time of its race; null once it has finished. */
export function ghostAt({ track }: GhostTrack, time: number): { at: Vec3; heading: number } | null {
  const n = time / EVERY;
  const i = Math.floor(n);
  if (i < 0 || (i + 1) * 4 + 3 >= track.length) return null;
  const t = n - i;
  const mix = (k: number) => track[i * 4 + k] + (track[(i + 1) * 4 + k] - track[i * 4 + k]) * t;
  const turn = track[(i + 1) * 4 + 3] - track[i * 4 + 3];
  return { at: [mix(0), mix(1), mix(2)], heading: track[i * 4 + 3] + Math.atan2(Math.sin(turn), Math.cos(turn)) * t };
}
