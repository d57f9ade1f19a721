/**
 * Chance by place instead of by sequence: what particle `birth` of a seed draws for one purpose is the same whoever was
 * born before it, so that a change of one emitter changes nothing of another.
 */

/** Purposes that draw. */
export const LANE = { life: 1, speed: 2, coneAngle: 3, coneTurn: 4, x: 5, y: 6, z: 7, w: 8, size: 9, turn: 10, turnRate: 11, frame: 12 } as const;

/** A whole number of 32 bits. The mixing is that of MurmurHash3's end (Austin Appleby, public domain), from memory. */
export function mix(seed: number, birth: number, lane: number): number {
  let h = (seed ^ Math.imul(birth + 1, 0x9e3779b1) ^ Math.imul(lane, 0x85ebca77)) | 0;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** 0 to below 1. */
export const roll = (seed: number, birth: number, lane: number): number => mix(seed, birth, lane) / 4294967296;

export const rollIn = ([least, most]: readonly [number, number], seed: number, birth: number, lane: number): number =>
  least + (most - least) * roll(seed, birth, lane);
