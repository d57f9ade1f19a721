/** How long a room sounds on: W. C. Sabine, "Collected Papers on Acoustics", 1922. */

import { chance } from '../math/chance.ts';
import type { Vec3 } from '../math/vec3.ts';

/** 24 ln 10 / c in seconds a metre, at 20 °C: 0.161 in every handbook. */
export const SABINE = (24 * Math.LN10) / 343;

/** Seconds in which sound falls by 60 dB. @param volume cubic metres; @param absorbing square metres of each surface with the share that it takes */
export function sabine(volume: number, absorbing: readonly { area: number; absorbs: number }[]): number {
  const sum = absorbing.reduce((all, { area, absorbs }) => all + area * absorbs, 0);
  return sum > 0 ? (SABINE * volume) / sum : Infinity;
}

export interface Room {
  /** Seconds to −60 dB. */
  seconds: number;
  /** Metres on average from one wall to the next: 4 V / S. */
  path: number;
  /** Share that walls take on average; openings take all. */
  absorbs: number;
}

/** What a ray meets: how far away, which way the surface looks, and what it takes; null for nothing. */
export type Bounce = (from: Vec3, direction: Vec3) => { distance: number; normal: Vec3; absorbs: number } | null;

/**
 * A room as sound finds it: rays that are thrown back evenly (by Lambert's law) meet walls as often as these are large, and go 4 V / S from one to the
 * next on average, whatever the form (C. W. Kosten, "The mean free path in room acoustics", Acustica 10, 1960). Sabine's formula in these is
 * T = 0.161 · path / (4 · absorbs).
 *
 * @param metres per unit of distances
 */
export function roomAt(from: Vec3, bounce: Bounce, metres: number, rays = 64, bounces = 24): Room | null {
  const random = chance(7);
  let [way, flights, taken, met] = [0, 0, 0, 0];
  const cosine = (n: Vec3): Vec3 => {
    const [u, v] = [random(), random() * 2 * Math.PI];
    const r = Math.sqrt(u);
    const side: Vec3 = Math.abs(n[2]) < 0.9 ? unit([n[1], -n[0], 0]) : unit([0, n[2], -n[1]]);
    const up: Vec3 = [n[1] * side[2] - n[2] * side[1], n[2] * side[0] - n[0] * side[2], n[0] * side[1] - n[1] * side[0]];
    const [a, b, c] = [r * Math.cos(v), r * Math.sin(v), Math.sqrt(1 - u)];
    return [0, 1, 2].map((k) => side[k] * a + up[k] * b + n[k] * c) as Vec3;
  };
  for (let ray = 0; ray < rays; ray++) {
    const z = random() * 2 - 1;
    const turn = random() * 2 * Math.PI;
    const flat = Math.sqrt(1 - z * z);
    let at = from;
    let direction: Vec3 = [flat * Math.cos(turn), flat * Math.sin(turn), z];
    for (let n = 0; n <= bounces; n++) {
      const hit = bounce(at, direction);
      if (!hit) {
        met++;
        taken += 1;
        break;
      }
      // The first flight begins somewhere in the room, not at a wall.
      if (n > 0) {
        way += hit.distance * metres;
        flights++;
      }
      met++;
      taken += hit.absorbs;
      const back = Math.max(0, hit.distance - 1e-3);
      at = [at[0] + direction[0] * back, at[1] + direction[1] * back, at[2] + direction[2] * back];
      direction = cosine(hit.normal);
    }
  }
  if (flights === 0) return null;
  const [path, absorbs] = [way / flights, taken / met];
  return { path, absorbs, seconds: absorbs > 0 ? (SABINE * path) / (4 * absorbs) : Infinity };
}

function unit(v: Vec3): Vec3 {
  const length = Math.hypot(...v) || 1;
  return [v[0] / length, v[1] / length, v[2] / length];
}
