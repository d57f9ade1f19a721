/** Writes KTX 2.0 textures: Basis Universal for pictures, half floats for skies. */

import {
  createDefaultContainer,
  KHR_DF_MODEL_RGBSDA,
  KHR_SUPERCOMPRESSION_ZSTD,
  read,
  VK_FORMAT_R16G16B16A16_SFLOAT,
  VK_FORMAT_R8G8B8A8_UNORM,
  write,
  type KTX2Container,
} from 'ktx-parse';
import { DataUtils } from 'three';
import { hushedUntil } from '../hushed.ts';
import { encodeBasis } from './basis.ts';
import type { LightPicture, Picture } from './picture.ts';
import { compressed } from './zstd.ts';

export interface Ktx2Options {
  /** UASTC keeps detail; ETC1S makes files about a quarter as large. */
  form: 'uastc' | 'etc1s';
  srgb: boolean;
  normal: boolean;
}

async function encodeLevels(picture: Picture, options: Ktx2Options, generate: boolean): Promise<KTX2Container> {
  const bytes = await hushedUntil(() =>
    encodeBasis(new Uint8Array([0]), {
      imageDecoder: () => Promise.resolve({ width: picture.width, height: picture.height, data: picture.data }),
      isUASTC: options.form === 'uastc',
      uastcLDRQualityLevel: 1,
      qualityLevel: 200,
      compressionLevel: 2,
      generateMipmap: generate,
      isKTX2File: true,
      isNormalMap: options.normal,
      isSetKTX2SRGBTransferFunc: options.srgb,
      isPerceptual: options.srgb,
      needSupercompression: false,
      enableDebug: false,
    }),
  );
  return read(bytes);
}

/**
 * @param levels from full size to one pixel. UASTC blocks know nothing of each other, so every level is
 * encoded as it is given; ETC1S shares its palettes between levels, so the codec makes its own from the first.
 */
export async function encodeKtx2(levels: readonly Picture[], options: Ktx2Options): Promise<Uint8Array> {
  if (options.form === 'etc1s') return write(await encodeLevels(levels[0], options, true));
  const container = await encodeLevels(levels[0], options, false);
  for (const level of levels.slice(1)) container.levels.push(...(await encodeLevels(level, options, false)).levels);
  return await supercompressed(container);
}

/** A picture of light as 16-bit floats, one level. */
export async function encodeLight({ width, height, light }: LightPicture): Promise<Uint8Array> {
  const halves = Uint16Array.from(light, (value) => DataUtils.toHalfFloat(Math.min(65504, value)));
  // Signed floats: what is lowest and highest are the bits of -1 and 1.
  const samples = { bits: 16, flags: 0xc0, lower: 0xbf800000, upper: 0x3f800000 };
  return await plainRgba({ width, height, format: VK_FORMAT_R16G16B16A16_SFLOAT, data: new Uint8Array(halves.buffer), samples });
}

/** Four channels of 8 bits as they are, linear, one level: for numbers that have to come back exactly. */
export async function encodePixels({ width, height, data }: Picture): Promise<Uint8Array> {
  const samples = { bits: 8, flags: 0, lower: 0, upper: 255 };
  return await plainRgba({ width, height, format: VK_FORMAT_R8G8B8A8_UNORM, data: Uint8Array.from(data), samples });
}

interface PlainRgba {
  width: number;
  height: number;
  format: KTX2Container['vkFormat'];
  data: Uint8Array<ArrayBuffer>;
  /** Bits of a channel, what kind of numbers they are, and the lowest and highest of them (Khronos Data Format 1.3). */
  samples: { bits: number; flags: number; lower: number; upper: number };
}

/** Red, green, blue and alpha that no codec has touched, linear. */
async function plainRgba({ width, height, format, data, samples: { bits, flags, lower, upper } }: PlainRgba): Promise<Uint8Array> {
  const container = createDefaultContainer();
  container.vkFormat = format;
  container.typeSize = bits / 8;
  container.pixelWidth = width;
  container.pixelHeight = height;
  const [descriptor] = container.dataFormatDescriptor;
  descriptor.colorModel = KHR_DF_MODEL_RGBSDA;
  descriptor.transferFunction = 1;
  descriptor.bytesPlane[0] = bits / 2;
  // Channel 15 is alpha.
  descriptor.samples = [0, 1, 2, 15].map((channel, i) => ({
    bitOffset: i * bits,
    bitLength: bits - 1,
    channelType: channel | flags,
    samplePosition: [0, 0, 0, 0],
    sampleLower: lower,
    sampleUpper: upper,
  }));
  container.levels = [{ levelData: data, uncompressedByteLength: data.length }];
  return await supercompressed(container);
}

async function supercompressed(container: KTX2Container): Promise<Uint8Array> {
  container.levelCount = container.levels.length;
  container.supercompressionScheme = KHR_SUPERCOMPRESSION_ZSTD;
  const levels = container.levels.map(async ({ levelData }) => ({
    levelData: await compressed(levelData),
    uncompressedByteLength: levelData.length,
  }));
  container.levels = await Promise.all(levels);
  return write(container);
}
