/** Sources of light, as the lighting stage takes them. */

import { linearOfHex } from '../math/srgb.ts';
import type { Vec3 } from '../math/vec3.ts';

export interface PointLight {
  position: Vec3;
  /** Linear red, green, blue in 0..1. */
  colour: [number, number, number];
  /** Candela. */
  intensity: number;
  /** Units; 0 for no limit. */
  reach: number;
  /** Radius of the glowing ball, in units; 0 or none for a point with sharp shadows. */
  radius?: number;
  /** Light only within a cone about `direction` (unit, away from the light), fading from the cosine `inner` to `outer`. */
  cone?: { direction: Vec3; inner: number; outer: number };
}

/** Parallel light, as from the sun: `colour` × `intensity` is E/π of a surface that faces it. */
export interface SunLight {
  /** Unit vector towards the sun. */
  towards: Vec3;
  colour: [number, number, number];
  intensity: number;
  /** Angle that the disc of the sun is wide, in radians; 0 for sharp shadows. */
  size: number;
}

/** `lit`: whether it gives its light when the map starts. */
export type Light = { kind: 'point'; lit: boolean; light: PointLight } | { kind: 'sun'; lit: boolean; light: SunLight };

/** The unit vector at a turn and a height over the horizon, both in degrees. */
export function bearing(turn: number, height: number): Vec3 {
  const [t, h] = [(turn * Math.PI) / 180, (height * Math.PI) / 180];
  const tidy = (v: number) => Math.round(v * 1e12) / 1e12;
  return [tidy(Math.cos(t) * Math.cos(h)), tidy(Math.sin(t) * Math.cos(h)), tidy(Math.sin(h))];
}

export const colourOf = (value: unknown): [number, number, number] => linearOfHex(String(value));
