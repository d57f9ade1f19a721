import { encodeToKTX2 } from 'ktx2-encoder';
import type { Picture } from './readImage.ts';

/**
 * Encodes to KTX 2.0 with UASTC blocks, a full chain of mipmaps and Zstandard supercompression.
 * Data is taken as sRGB. The encoder reports to the console, which is silenced meanwhile, since the
 * command line's standard output belongs to its result.
 */
export async function encodeKtx2(picture: Picture): Promise<Uint8Array> {
  const log = console.log;
  console.log = () => {};
  try {
    return await encodeToKTX2(new Uint8Array([0]), {
      imageDecoder: () => Promise.resolve({ width: picture.width, height: picture.height, data: picture.data }),
      isUASTC: true,
      uastcLDRQualityLevel: 1,
      generateMipmap: true,
      isKTX2File: true,
      isSetKTX2SRGBTransferFunc: true,
      isPerceptual: true,
      needSupercompression: true,
      enableDebug: false,
    });
  } finally {
    console.log = log;
  }
}
