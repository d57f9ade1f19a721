/** The settings of a model's conversion, kept with the asset so that it can be converted again. */

import type { Vec3 } from '../../../math/vec3.ts';
import type { Profile } from '../../../profile/schema.ts';
import type { OptionTable } from '../../option/option.ts';

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

const partsOnly = (options: Readonly<Record<string, unknown>>): boolean => options.collision === 'parts';

export const MODEL_OPTIONS: OptionTable<ModelOptions> = [
  { key: 'unit', flag: 'unit', label: 'Unit of the file', explains: 'unit of length of the file', rule: { kind: 'choice', of: UNITS } },
  { key: 'upAxis', flag: 'up', label: 'Up axis', explains: 'axis that points up in the file', rule: { kind: 'choice', of: UP_AXES } },
  {
    key: 'handedness',
    flag: 'handedness',
    label: 'Axes of the file',
    explains: 'handedness of the file’s axes',
    rule: { kind: 'choice', of: HANDEDNESS, words: { right: 'right-handed', left: 'left-handed' } },
  },
  {
    key: 'pivot',
    flag: 'pivot',
    label: 'Pivot',
    explains: 'where the origin goes',
    rule: {
      kind: 'choice',
      of: PIVOTS,
      words: { file: 'as in the file', base: 'middle of the base', world: 'origin of the file’s world', point: 'picked point' },
    },
  },
  {
    key: 'pivotPoint',
    flag: 'pivot-point',
    label: 'Pivot point',
    explains: 'pivot in game units from the file’s origin',
    rule: { kind: 'numbers', least: 3, most: 3, min: -1e6, max: 1e6, example: '0,0,16' },
    elsewhere: true,
  },
  {
    key: 'normals',
    flag: 'normals',
    label: 'Normals',
    explains: 'normals of the file, smooth or flat ones',
    rule: { kind: 'choice', of: NORMAL_MODES },
  },
  {
    key: 'smoothAngle',
    flag: 'smooth-angle',
    label: 'Smooth under',
    explains: 'faces that meet under less are smoothed',
    rule: { kind: 'number', min: 0, max: 180, unit: 'degrees' },
  },
  {
    key: 'weld',
    flag: 'weld',
    label: 'Weld within',
    explains: 'points nearer than this (game units) become one; -1 keeps all',
    rule: { kind: 'number', min: -1, max: 1e6, unit: 'units' },
  },
  { key: 'tangents', flag: 'tangents', label: 'Tangents', explains: 'tangents for normal maps', rule: { kind: 'choice', of: TANGENT_MODES } },
  { key: 'winding', flag: 'winding', label: 'Sides of faces', explains: 'which side of faces is seen', rule: { kind: 'choice', of: WINDINGS } },
  {
    key: 'lods',
    flag: 'lods',
    label: 'Levels of detail',
    explains: 'share of the triangles that each level keeps',
    rule: { kind: 'numbers', least: 0, most: 6, min: 0.001, max: 0.999, falling: true, example: '0.5,0.25' },
  },
  {
    key: 'collision',
    flag: 'collision',
    label: 'Collision shape',
    explains: 'what stops players and bodies',
    rule: { kind: 'choice', of: COLLISIONS },
  },
  {
    key: 'collisionParts',
    flag: 'collision-parts',
    label: 'Convex parts at most',
    explains: 'most convex parts',
    rule: { kind: 'number', min: 1, max: 64, whole: true },
    matters: partsOnly,
  },
  {
    key: 'mass',
    flag: 'mass',
    label: 'Mass (0: by volume)',
    explains: '0 takes it from the volume',
    rule: { kind: 'number', min: 0, max: 1e6, unit: 'kg' },
  },
  { key: 'movable', flag: 'movable', label: 'Movable', explains: 'whether physics moves it', rule: { kind: 'switch' } },
  { key: 'tidy', flag: 'tidy', label: 'Drop useless faces', explains: 'drops faces without area and second copies', rule: { kind: 'switch' } },
  {
    key: 'materials',
    flag: 'material',
    label: 'Materials',
    explains: 'material of each slot',
    rule: { kind: 'words', most: 500, example: 'SLOT=NAME' },
    elsewhere: true,
  },
  {
    key: 'variantOf',
    flag: 'variant-of',
    label: 'Variant of',
    explains: 'common name of the variants of a model',
    rule: { kind: 'text', most: 80 },
    elsewhere: true,
  },
  {
    key: 'variant',
    flag: 'variant',
    label: 'Variant',
    explains: 'what this variant is called',
    rule: { kind: 'text', most: 80 },
    elsewhere: true,
  },
];
