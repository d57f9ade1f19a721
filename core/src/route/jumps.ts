/** Kickers along a ribbon: where a rider leaves the ground, and whether it comes down well. */

import type { GameMap } from '../document/schema.ts';
import { fly, type Flight, type TakeOff } from './flight.ts';
import type { Ribbon } from './ribbon.ts';

export interface Jump {
  /** Units along the ribbon. */
  along: number;
  takeOff: TakeOff;
  flight: Flight;
}

/** Percent by which the way has to fall away within a short distance to throw a rider. */
const FALLS = 9;

/** Jumps at a speed, in units per second: the ends of rises after which the way falls away. */
export function jumpsOf(map: Pick<GameMap, 'terrains' | 'tiles'>, { stations }: Ribbon, speed: number, gravity: number, metres: number): Jump[] {
  const jumps: Jump[] = [];
  for (let n = 2; n < stations.length - 2; n++) {
    const [before, after] = [stations[n].gradient, stations[n + 1].gradient];
    if (before - after < FALLS) continue;
    const [a, b] = [stations[n - 1].at, stations[n].at];
    const takeOff: TakeOff = {
      at: b,
      speed,
      heading: Math.atan2(b[1] - a[1], b[0] - a[0]),
      pitch: Math.atan(before / 100),
    };
    const flight = fly(map, takeOff, gravity, metres);
    // A hop of a moment is no jump.
    if (flight.seconds < 0.35) continue;
    if (jumps.length > 0 && stations[n].along - jumps[jumps.length - 1].along < 20 / metres) continue;
    jumps.push({ along: stations[n].along, takeOff, flight });
  }
  return jumps;
}
