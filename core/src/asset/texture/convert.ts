/** From a picture to the KTX2 texture that a game loads, a preview, and what was noticed. */

import { encode as encodePng } from 'fast-png';
import type { Finding } from '../../finding.ts';
import { hexOfLinear } from '../../math/srgb.ts';
import type { Profile } from '../../profile/schema.ts';
import { encodeKtx2 } from './encodeKtx2.ts';
import { readImage, type Picture } from './readImage.ts';
import { meanColour, resizePicture } from './resize.ts';

export interface ConvertedTexture {
  ktx2: Uint8Array;
  /** PNG of at most 256 pixels along either side. */
  preview: Uint8Array;
  /** The picture as encoded, for comparisons. */
  picture: Picture;
  sourceWidth: number;
  sourceHeight: number;
  /** Mean colour, #rrggbb. */
  colour: string;
  findings: Finding[];
}

const nearestPowerOfTwo = (n: number): number => 2 ** Math.round(Math.log2(n));
const PREVIEW = 256;

export async function convertTexture(profile: Profile, file: string, bytes: Uint8Array): Promise<ConvertedTexture> {
  const source = readImage(bytes, file);
  const findings: Finding[] = [];
  const place = { file };
  let [width, height] = [source.width, source.height];
  const { maxSize, powerOfTwo } = profile.textures;
  if (powerOfTwo && (nearestPowerOfTwo(width) !== width || nearestPowerOfTwo(height) !== height)) {
    [width, height] = [nearestPowerOfTwo(width), nearestPowerOfTwo(height)];
    findings.push({
      code: 'texture-power-of-two',
      severity: 'warning',
      stage: 'assets',
      message: `${file} is ${source.width} × ${source.height}, not powers of two; it was resized to ${Math.min(width, maxSize)} × ${Math.min(height, maxSize)}.`,
      hint: 'Save it in a size like 256, 512 or 1024 to keep it sharp.',
      place,
    });
  }
  if (width > maxSize || height > maxSize) {
    findings.push({
      code: 'texture-large',
      severity: 'warning',
      stage: 'assets',
      message: `${file} is ${source.width} × ${source.height}; ${profile.title} takes up to ${maxSize}. It was reduced.`,
      place,
    });
    const factor = maxSize / Math.max(width, height);
    [width, height] = [Math.max(1, Math.round(width * factor)), Math.max(1, Math.round(height * factor))];
  }
  const picture = resizePicture(source, width, height);
  const shrink = Math.min(1, PREVIEW / Math.max(width, height));
  const small = resizePicture(picture, Math.max(1, Math.round(width * shrink)), Math.max(1, Math.round(height * shrink)));
  return {
    ktx2: await encodeKtx2(picture),
    preview: encodePng({ width: small.width, height: small.height, data: small.data, channels: 4, depth: 8 }),
    picture,
    sourceWidth: source.width,
    sourceHeight: source.height,
    colour: hexOfLinear(meanColour(picture)),
    findings,
  };
}
