/** A sky as light: the half floats of a converted HDR picture, or a picture of colours read as sRGB. */

import { read, VK_FORMAT_R16G16B16A16_SFLOAT } from 'ktx-parse';
import { DataUtils } from 'three';
import { srgbToLinear } from '../../math/srgb.ts';
import { damaged, guardSize, type LightPicture } from './picture.ts';
import { isKtx2, readKtx2 } from './readKtx2.ts';
import { readImage } from './readImage.ts';
import { expanded } from './zstd.ts';

export async function readSky(bytes: Uint8Array, file: string): Promise<LightPicture> {
  const halves = isKtx2(bytes) ? await halfFloats(bytes, file) : null;
  if (halves) return halves;
  const { width, height, data } = isKtx2(bytes) ? await readKtx2(bytes, file) : await readImage(bytes, file);
  return { width, height, light: Float32Array.from(data, (v, i) => (i % 4 === 3 ? v / 255 : srgbToLinear(v / 255))) };
}

/** The first level of a texture of 16-bit floats; null where it is of another kind. */
async function halfFloats(bytes: Uint8Array, file: string): Promise<LightPicture | null> {
  try {
    const container = read(bytes);
    if (container.vkFormat !== VK_FORMAT_R16G16B16A16_SFLOAT) return null;
    const { pixelWidth: width, pixelHeight: height } = container;
    guardSize(width, height, file, 20);
    const raw = await expanded(container.levels[0].levelData, container.supercompressionScheme, width * height * 8);
    const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    return {
      width,
      height,
      light: Float32Array.from({ length: width * height * 4 }, (_, i) => DataUtils.fromHalfFloat(view.getUint16(i * 2, true))),
    };
  } catch (error) {
    throw damaged(file, error, bytes.length);
  }
}
