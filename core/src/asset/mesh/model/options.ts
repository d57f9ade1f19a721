/** The settings of a model's conversion, kept with the asset so that it can be converted again. */

import type { Vec3 } from '../../../math/vec3.ts';
import type { Profile } from '../../../profile/schema.ts';

/** Metres per unit of length. "game" stands for the profile's own. */
export const LENGTH_UNITS: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, ft: 0.3048 };

/** "auto" takes what the file states, else the profile's unit, else the one that fits the player figure. */
export const UNITS = ['auto', 'game', ...Object.keys(LENGTH_UNITS)];
export const UP_AXES = ['auto', 'y', 'z'] as const;
export const HANDEDNESS = ['right', 'left'] as const;
export const PIVOTS = ['file', 'base', 'centre', 'world', 'point'] as const;
export const NORMAL_MODES = ['keep', 'smooth', 'flat'] as const;
export const TANGENT_MODES = ['auto', 'make', 'none'] as const;
export const WINDINGS = ['keep', 'flip', 'repair'] as const;
export const COLLISIONS = ['none', 'box', 'hull', 'parts', 'exact'] as const;

export interface ModelOptions {
  /** One of UNITS; stored as resolved. */
  unit: string;
  upAxis: (typeof UP_AXES)[number];
  /** Handedness of the source's axes; left-handed ones are mirrored and their triangles turned. */
  handedness: (typeof HANDEDNESS)[number];
  /**
   * Where the origin goes: as in the file (the one object's own origin), the middle of the base, the
   * middle of the box, the origin of the file's world, or `pivotPoint`.
   */
  pivot: (typeof PIVOTS)[number];
  /** For "point": game units from the world's origin, z up. */
  pivotPoint: Vec3;
  normals: (typeof NORMAL_MODES)[number];
  /** Degrees under which neighbouring faces are smoothed. */
  smoothAngle: number;
  /** Points nearer than this (game units) become one; 0 merges identical vertices only, below 0 none. */
  weld: number;
  tangents: (typeof TANGENT_MODES)[number];
  winding: (typeof WINDINGS)[number];
  /** Drops triangles without area and second copies of a triangle. */
  tidy: boolean;
  /** Levels of detail: share of the triangles that each keeps, falling. */
  lods: number[];
  collision: (typeof COLLISIONS)[number];
  /** Most convex parts for "parts". */
  collisionParts: number;
  movable: boolean;
  /** Kilograms; 0 takes the collision shape's volume as timber. */
  mass: number;
  /** Material slot → material of the crate or game, chosen by hand. "" keeps the file's own. */
  materials: Record<string, string>;
  /** Variants of one model: its common name, and what this one is called. */
  variantOf: string;
  variant: string;
}

/** Kilograms per cubic metre of seasoned timber; common practice, from memory. */
export const TIMBER = 600;

/** The settings that apply where the user chose none. */
export function defaultModelOptions(profile: Profile): ModelOptions {
  return {
    unit: 'auto',
    upAxis: 'auto',
    handedness: 'right',
    pivot: 'file',
    pivotPoint: [0, 0, 0],
    normals: 'keep',
    smoothAngle: 40,
    weld: 0,
    tangents: 'auto',
    winding: 'keep',
    tidy: false,
    lods: profile.models.lods ?? [],
    collision: profile.models.collision ?? 'none',
    collisionParts: 8,
    movable: false,
    mass: 0,
    materials: {},
    variantOf: '',
    variant: '',
  };
}
