/** The lights of a map and how far they reach. */

import { boxCentre } from '../math/box3.ts';
import { linearOfHex } from '../math/srgb.ts';
import type { Vec3 } from '../math/vec3.ts';
import { hasPart, type Profile } from '../profile/schema.ts';
import { classBox } from './objectBox.ts';
import type { GameMap, MapObject } from '../document/schema.ts';

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

/** E/π below which a surface of middling brightness can no longer be read beside lit ones. Common practice: 1/50. */
export const READABLE = 0.02;

/** Where a spot points: its turn about z, and `tilt` degrees above (below when negative) the horizontal. */
export function spotDirection(object: MapObject): Vec3 {
  return bearing(object.turn, Number(object.properties.tilt ?? -90));
}

/** The unit vector at a turn and a height over the horizon, both in degrees. */
export function bearing(turn: number, height: number): Vec3 {
  const [t, h] = [(turn * Math.PI) / 180, (height * Math.PI) / 180];
  const tidy = (v: number) => Math.round(v * 1e12) / 1e12;
  return [tidy(Math.cos(t) * Math.cos(h)), tidy(Math.sin(t) * Math.cos(h)), tidy(Math.sin(h))];
}

/** A point or spot light as an object says it is. */
export function pointLightOf(profile: Profile, object: MapObject): PointLight {
  const light: PointLight = {
    position: boxCentre(classBox(profile, object)),
    colour: linearOfHex(String(object.properties.colour)),
    intensity: Number(object.properties.intensity),
    reach: Number(object.properties.reach),
  };
  const radius = Number(object.properties.radius ?? 0);
  if (radius > 0) light.radius = radius;
  if (!hasPart(profile, object.class, 'spot')) return light;
  const half = Math.min(89.9, Number(object.properties.cone ?? 60) / 2);
  const soft = Math.min(1, Math.max(0, Number(object.properties.soft ?? 0.3)));
  const cosine = (degrees: number) => Math.cos((degrees * Math.PI) / 180);
  return { ...light, cone: { direction: spotDirection(object), outer: cosine(half), inner: Math.min(1, cosine(half * (1 - soft)) + 1e-6) } };
}

/** A sun as an object says it is: it stands at the object's turn, `height` degrees over the horizon. */
export const sunLightOf = (object: MapObject): SunLight => ({
  towards: bearing(object.turn, Number(object.properties.height ?? 45)),
  colour: linearOfHex(String(object.properties.colour)),
  intensity: Number(object.properties.intensity),
  size: (Number(object.properties.size ?? 0.53) * Math.PI) / 180,
});

/** Point and spot lights that are lit when the map starts. */
export const mapLights = (profile: Profile, map: GameMap): PointLight[] =>
  Object.values(map.objects)
    .filter((object) => hasPart(profile, object.class, 'light') && object.properties.lit === true)
    .map((object) => pointLightOf(profile, object));

export const mapSuns = (profile: Profile, map: GameMap): SunLight[] =>
  Object.values(map.objects)
    .filter((object) => hasPart(profile, object.class, 'sun'))
    .map(sunLightOf);

/**
 * Distance in units at which a light of `intensity` candela falls below `level` (E/π) on a surface that faces
 * it: √(I / (π · level)) metres by the inverse square law, cut at the light's own reach.
 */
export function readableReach(intensity: number, reach: number, metresPerUnit: number, level = READABLE): number {
  const free = Math.sqrt(Math.max(0, intensity) / (Math.PI * level)) / metresPerUnit;
  if (reach <= 0) return free;
  // With the window (1 - (d/r)⁴)² the level is met a little before; bisection finds where.
  const value = (d: number) => (intensity / (d * metresPerUnit) ** 2 / Math.PI) * (1 - (d / reach) ** 4) ** 2;
  let [near, far] = [1e-6, Math.min(free, reach)];
  for (let i = 0; i < 40; i++) {
    const middle = (near + far) / 2;
    if (value(middle) > level) near = middle;
    else far = middle;
  }
  return near;
}

/** The intensity, in candela, with which a light is readable up to `distance` units; the inverse of `readableReach` without a window. */
export const intensityForReach = (distance: number, metresPerUnit: number, level = READABLE): number =>
  Math.PI * level * (distance * metresPerUnit) ** 2;
