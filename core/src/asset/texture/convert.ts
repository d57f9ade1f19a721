/** From a picture to the KTX2 texture that a game loads, a preview, and what was noticed. */

import { encode as encodePng } from 'fast-png';
import type { Finding, Fix } from '../../finding.ts';
import { hexOfLinear, linearToSrgb } from '../../math/srgb.ts';
import type { Profile } from '../../profile/schema.ts';
import { encodeKtx2, encodeLight } from './encodeKtx2.ts';
import { mipmaps } from './mipmaps.ts';
import { normalFromHeight, normalQuality } from './normalMap.ts';
import { DEFAULT_TEXTURE_OPTIONS, roleOf, useOfRole, type TextureOptions } from './options.ts';
import { packChannels, type ChannelSources } from './packChannels.ts';
import type { LightPicture, Picture } from './picture.ts';
import { readImage } from './readImage.ts';
import { isExr, isHdr, readLight } from './readLight.ts';
import { meanColour, resizeLight, resizePicture, type Meaning } from './resize.ts';
import { seamError } from './tiling.ts';

export interface ConvertedTexture {
  ktx2: Uint8Array;
  /** PNG of at most 256 pixels along either side. */
  preview: Uint8Array;
  /** The picture as encoded, for comparisons. Skies: brought into range. */
  picture: Picture;
  /** As resolved: `use` is never "auto". */
  options: TextureOptions;
  sourceWidth: number;
  sourceHeight: number;
  /** Mean colour, #rrggbb. */
  colour: string;
  /** See `seamError`. */
  seam: number;
  findings: Finding[];
}

const nearestPowerOfTwo = (n: number): number => 2 ** Math.round(Math.log2(n));
const PREVIEW = 256;
/** Above this a seam is seen at once when the texture repeats. */
const SEAM_SHOWS = 3;

const stemOf = (file: string): string =>
  file
    .split('/')
    .pop()!
    .replace(/\.[^.]+$/, '');

/** The size that the profile allows for a picture, and what had to change. */
export function fittedSize(
  profile: Profile,
  width: number,
  height: number,
  maxSize: number,
): { width: number; height: number; odd: boolean; large: boolean } {
  const limit = maxSize > 0 ? Math.min(maxSize, profile.textures.maxSize) : profile.textures.maxSize;
  const fitted = profile.textures.powerOfTwo ? [nearestPowerOfTwo(width), nearestPowerOfTwo(height)] : [width, height];
  const odd = fitted[0] !== width || fitted[1] !== height;
  const factor = Math.min(1, limit / Math.max(...fitted));
  return { width: Math.max(1, Math.round(fitted[0] * factor)), height: Math.max(1, Math.round(fitted[1] * factor)), odd, large: factor < 1 };
}

const MEANING: Record<Exclude<TextureOptions['use'], 'auto'>, Meaning> = {
  colour: 'colour',
  normal: 'normal',
  height: 'data',
  data: 'data',
  sky: 'colour',
};

export async function convertTexture(
  profile: Profile,
  file: string,
  bytes: Uint8Array,
  given: Partial<TextureOptions> = {},
): Promise<ConvertedTexture> {
  if (isHdr(bytes) || isExr(bytes)) return convertSky(profile, file, readLight(bytes, file), { ...DEFAULT_TEXTURE_OPTIONS, ...given, use: 'sky' });
  return convertPicture(profile, file, await readImage(bytes, file), given);
}

/** Occlusion, roughness and metalness maps as one texture. */
export async function convertPacked(profile: Profile, file: string, sources: ChannelSources): Promise<ConvertedTexture> {
  return convertPicture(profile, file, packChannels(sources), { use: 'data' });
}

async function convertPicture(profile: Profile, file: string, source: Picture, given: Partial<TextureOptions>): Promise<ConvertedTexture> {
  const wanted = { ...DEFAULT_TEXTURE_OPTIONS, ...given };
  const options = { ...wanted, use: wanted.use === 'auto' ? useOfRole(roleOf(stemOf(file)).role) : wanted.use };
  const findings: Finding[] = [];
  const reconvert = (label: string, change: Partial<TextureOptions>): Fix => ({ kind: 'reconvert', label, file, options: { ...options, ...change } });
  const note = (code: string, severity: Finding['severity'], message: string, hint?: string, fix?: Fix) =>
    findings.push({ code, severity, stage: 'assets', message, hint, place: { file }, fix });

  const size = fittedSize(profile, source.width, source.height, options.maxSize);
  const declared = `${file} is ${source.width} × ${source.height}`;
  if (size.odd)
    note(
      'texture-power-of-two',
      'warning',
      `${declared}, not powers of two; it was resized to ${size.width} × ${size.height}.`,
      'Save it in a size like 256, 512 or 1024 to keep it sharp.',
    );
  if (size.large && !(options.maxSize > 0))
    note('texture-large', 'warning', `${declared}; ${profile.title} takes up to ${profile.textures.maxSize}. It was reduced.`);
  let picture = resizePicture(source, size.width, size.height, MEANING[options.use]);
  if (options.use === 'height') picture = normalFromHeight(picture, options.strength);
  if (options.flipGreen && options.use === 'normal') {
    if (picture === source) picture = { ...picture, data: picture.data.slice() };
    for (let i = 1; i < picture.data.length; i += 4) picture.data[i] = 255 - picture.data[i];
  }
  if (options.use === 'normal') {
    const { length, z } = normalQuality(picture);
    if (z < 0.3 || Math.abs(length - 1) > 0.25)
      note(
        'texture-not-normal',
        'warning',
        `${file} is used as a normal map, but its colours are not directions.`,
        'Normal maps are mostly light blue. If it is a height map, a normal map can be made from it.',
        reconvert('Make a normal map from it', { use: 'height' }),
      );
  }
  const alpha = alphaOf(picture);
  if (options.cutout && alpha === 'none')
    note(
      'texture-no-alpha',
      'warning',
      `${file} is a cut-out, but no pixel of it is transparent.`,
      'Save it with an alpha channel.',
      reconvert('Treat it as opaque', { cutout: false }),
    );
  const seam = seamError(picture);
  if (options.use === 'colour' && alpha === 'none' && seam > SEAM_SHOWS)
    note(
      'texture-seam',
      'note',
      `${file} shows a seam where it repeats: the step there is ${seam.toFixed(1)} times that inside.`,
      'Fine for a picture or a decal; a wall needs one that tiles.',
    );

  const colour = options.use === 'colour' || options.use === 'sky';
  const small = options.compression === 'small' || (options.compression === 'auto' && options.use === 'data');
  const levels = mipmaps(picture, options.use === 'height' ? 'normal' : MEANING[options.use], options.cutout);
  return {
    ktx2: await encodeKtx2(levels, {
      form: small && !options.cutout ? 'etc1s' : 'uastc',
      srgb: colour,
      normal: options.use === 'normal' || options.use === 'height',
    }),
    preview: previewOf(picture, MEANING[options.use]),
    picture,
    options,
    sourceWidth: source.width,
    sourceHeight: source.height,
    colour: hexOfLinear(meanColour(picture)),
    seam,
    findings,
  };
}

async function convertSky(profile: Profile, file: string, source: LightPicture, options: TextureOptions): Promise<ConvertedTexture> {
  const findings: Finding[] = [];
  if (source.width !== source.height * 2)
    findings.push({
      code: 'texture-sky-shape',
      severity: 'note',
      stage: 'assets',
      message: `${file} is ${source.width} × ${source.height}; a picture of the whole sky is twice as wide as high.`,
      hint: 'It will be stretched around the sky.',
      place: { file },
    });
  const size = fittedSize(profile, source.width, source.height, options.maxSize);
  const light = resizeLight(source, size.width, size.height);
  const picture = inRange(light);
  return {
    ktx2: await encodeLight(light),
    preview: previewOf(picture, 'colour'),
    picture,
    options,
    sourceWidth: source.width,
    sourceHeight: source.height,
    colour: hexOfLinear(meanColour(picture)),
    seam: seamError(picture),
    findings,
  };
}

/** Light brought into the range of a screen: L / (1 + L) per channel (Reinhard et al. 2002). */
function inRange({ width, height, light }: LightPicture): Picture {
  const data = new Uint8Array(light.length);
  for (let i = 0; i < light.length; i++) data[i] = i % 4 === 3 ? 255 : Math.round(linearToSrgb(light[i] / (1 + light[i])) * 255);
  return { width, height, data };
}

function alphaOf(picture: Picture): 'none' | 'some' {
  for (let i = 3; i < picture.data.length; i += 4) if (picture.data[i] < 255) return 'some';
  return 'none';
}

export function previewOf(picture: Picture, meaning: Meaning = 'colour'): Uint8Array {
  const shrink = Math.min(1, PREVIEW / Math.max(picture.width, picture.height));
  const small = resizePicture(picture, Math.max(1, Math.round(picture.width * shrink)), Math.max(1, Math.round(picture.height * shrink)), meaning);
  return encodePng({ width: small.width, height: small.height, data: small.data, channels: 4, depth: 8 });
}
