/** Writes KTX 2.0 textures: Basis Universal for pictures, half floats for skies. */

import {
  createDefaultContainer,
  KHR_DF_MODEL_RGBSDA,
  KHR_SUPERCOMPRESSION_ZSTD,
  read,
  VK_FORMAT_R16G16B16A16_SFLOAT,
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
export async function encodeLight(picture: LightPicture): Promise<Uint8Array> {
  const halves = Uint16Array.from(picture.light, (value) => DataUtils.toHalfFloat(Math.min(65504, value)));
  const container = createDefaultContainer();
  container.vkFormat = VK_FORMAT_R16G16B16A16_SFLOAT;
  container.typeSize = 2;
  container.pixelWidth = picture.width;
  container.pixelHeight = picture.height;
  const [descriptor] = container.dataFormatDescriptor;
  descriptor.colorModel = KHR_DF_MODEL_RGBSDA;
  descriptor.transferFunction = 1;
  descriptor.bytesPlane[0] = 8;
  // Four samples of 16 bits, signed floats (Khronos Data Format 1.3); channel 15 is alpha.
  descriptor.samples = [0, 1, 2, 15].map((channel, i) => ({
    bitOffset: i * 16,
    bitLength: 15,
    channelType: channel | 0xc0,
    samplePosition: [0, 0, 0, 0],
    sampleLower: 0xbf800000,
    sampleUpper: 0x3f800000,
  }));
  const levelData = new Uint8Array(halves.buffer);
  container.levels = [{ levelData, uncompressedByteLength: levelData.length }];
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
