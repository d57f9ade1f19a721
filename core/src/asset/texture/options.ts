/** The settings of a texture's conversion, kept with the asset. */

import type { OptionTable } from '../option/option.ts';

export const TEXTURE_USES = ['auto', 'colour', 'normal', 'height', 'data', 'sky'] as const;
export const COMPRESSIONS = ['auto', 'sharp', 'small'] as const;

export interface TextureOptions {
  /** What the numbers mean. "auto" goes by the ending of the name; "height" is made into a normal map. */
  use: (typeof TEXTURE_USES)[number];
  /** "sharp" is UASTC, "small" is ETC1S; "auto" takes small for data and sharp for all else. */
  compression: (typeof COMPRESSIONS)[number];
  /** Alpha is cut at one half: mipmaps keep the share that passes. */
  cutout: boolean;
  /** Most pixels along either side; 0 takes the profile's limit. */
  maxSize: number;
  /** For "height": rise of white over black in texels. */
  strength: number;
  /** Normal maps whose green points down the picture are turned to point up, as glTF has it. */
  flipGreen: boolean;
}

export const DEFAULT_TEXTURE_OPTIONS: TextureOptions = { use: 'auto', compression: 'auto', cutout: false, maxSize: 0, strength: 4, flipGreen: false };

/** Settings as a table; `pack` says which picture each channel of a packed texture came from. */
export const TEXTURE_OPTIONS: OptionTable<TextureOptions & { pack: Record<string, string> }> = [
  { key: 'use', flag: 'use', label: 'What it is', explains: 'what its numbers mean', rule: { kind: 'choice', of: TEXTURE_USES } },
  {
    key: 'compression',
    flag: 'compression',
    label: 'Compression',
    explains: 'sharp keeps detail, small takes a quarter',
    rule: { kind: 'choice', of: COMPRESSIONS },
  },
  {
    key: 'maxSize',
    flag: 'max-size',
    label: 'Largest side (0: the game’s)',
    explains: 'most pixels along a side; 0 takes the game’s limit',
    rule: { kind: 'number', min: 0, max: 8192, whole: true },
  },
  {
    key: 'strength',
    flag: 'strength',
    label: 'Height of white',
    explains: 'rise of a height map',
    rule: { kind: 'number', min: 0, max: 100, unit: 'texels' },
    matters: (options) => options.use === 'height',
  },
  {
    key: 'flipGreen',
    flag: 'flip-green',
    label: 'Turn green round',
    explains: 'turns the green of a normal map',
    rule: { kind: 'switch' },
    matters: (options) => options.use === 'normal',
  },
  { key: 'cutout', flag: 'cutout', label: 'Cut out by alpha', explains: 'alpha is cut at one half', rule: { kind: 'switch' } },
  {
    key: 'pack',
    label: 'Channels',
    explains: 'pictures of its channels',
    rule: { kind: 'words', most: 3, keys: ['occlusion', 'roughness', 'metalness'], example: 'roughness=FILE' },
    elsewhere: true,
  },
];

export type TextureRole = 'colour' | 'normal' | 'height' | 'roughness' | 'metalness' | 'occlusion' | 'emission';

/** Endings by which artists tell the pictures of one material apart (common practice). */
const SUFFIXES: [RegExp, TextureRole][] = [
  [/[_-](n|nrm|normal|normals)$/i, 'normal'],
  [/[_-](h|height|bump|disp)$/i, 'height'],
  [/[_-](r|rough|roughness)$/i, 'roughness'],
  [/[_-](m|metal|metalness|metallic)$/i, 'metalness'],
  [/[_-](ao|occ|occlusion)$/i, 'occlusion'],
  [/[_-](e|emit|emission|glow)$/i, 'emission'],
  [/[_-](c|d|a|col|color|colour|diff|diffuse|albedo|base)$/i, 'colour'],
];

/** The role of a picture by its name (without ending), and the name that the pictures of its material share. */
export function roleOf(stem: string): { role: TextureRole; base: string } {
  for (const [pattern, role] of SUFFIXES) {
    const base = stem.replace(pattern, '');
    if (base !== stem && base !== '') return { role, base };
  }
  return { role: 'colour', base: stem };
}

export const useOfRole = (role: TextureRole): Exclude<TextureOptions['use'], 'auto'> =>
  role === 'colour' || role === 'emission' ? 'colour' : role === 'normal' || role === 'height' ? role : 'data';
