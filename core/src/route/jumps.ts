/** Kickers along a ribbon: where a rider leaves the ground, and whether it comes down well. */

import type { GameMap } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { groundBelow, groundsOf } from '../terrain/ground.ts';
import { fly, type Flight, type TakeOff } from './flight.ts';
import { placeAlong, type Ribbon } from './ribbon.ts';

export interface Jump {
  /** Units along the ribbon. */
  along: number;
  takeOff: TakeOff;
  flight: Flight;
}

/** By how much the way has to fall away within a short distance to throw a rider, rise over run. */
const FALLS = 0.09;
/** Metres before and behind a lip over which its slopes are measured: about a vehicle's length. */
const ABOUT = 3;
/** A hop of a moment is no jump, seconds; and metres within which there is one only. */
const MOMENT = 0.35;
const APART = 20;

/** Places between two points of the even line at which a lip is looked for: flights begin at its very edge, or end in what still rises. */
const FINER = 6;

/** Jumps at a speed, in units per second: the ends of rises after which the way falls away. */
export function jumpsOf(map: Pick<GameMap, 'terrains' | 'tiles'>, ribbon: Ribbon, speed: number, gravity: number, metres: number): Jump[] {
  const jumps: Jump[] = [];
  const grounds = groundsOf(map);
  const on = (along: number): Vec3 => {
    const [x, y, z] = placeAlong(ribbon, along).at;
    return [x, y, groundBelow(grounds, x, y)?.height ?? z];
  };
  const takeOffAt = (along: number): TakeOff => {
    const [a, b] = [on(along - about), on(along)];
    return { at: b, speed, heading: Math.atan2(b[1] - a[1], b[0] - a[0]), pitch: Math.atan2(b[2] - a[2], about) };
  };
  const about = ABOUT / metres;
  const step = about / 2;
  const heights: number[] = [];
  for (let along = 0; along <= ribbon.length; along += step) heights.push(on(along)[2]);
  for (let n = 2; n < heights.length - 2; n++) {
    // What is two points away is `about` away.
    const [behind, here, ahead] = [heights[n - 2], heights[n], heights[n + 2]];
    if ((2 * here - behind - ahead) / about < FALLS) continue;
    if (jumps.length > 0 && n * step - jumps[jumps.length - 1].along < APART / metres) continue;
    for (let k = 0; k < FINER; k++) {
      const along = n * step + (k * step) / FINER;
      const takeOff = takeOffAt(along);
      const flight = fly(map, takeOff, gravity, metres);
      if (flight.seconds < MOMENT) continue;
      jumps.push({ along, takeOff, flight });
      break;
    }
  }
  return jumps;
}
