/** Decodes the largest level of a KTX 2.0 texture in Basis Universal form (UASTC or ETC1S). */

import { RGBA32, startBasis } from './basis.ts';
import { damaged, guardSize, type Picture } from './picture.ts';

const SIGNATURE = [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb];

export const isKtx2 = (bytes: Uint8Array): boolean => SIGNATURE.every((value, i) => bytes[i] === value);

export async function readKtx2(bytes: Uint8Array, file: string): Promise<Picture> {
  if (bytes.length < 80) throw damaged(file, 'it is cut off', bytes.length);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  guardSize(view.getUint32(20, true), view.getUint32(24, true), file, 20);
  const { KTX2File } = await startBasis();
  const texture = new KTX2File(bytes);
  try {
    if (!texture.isValid() || !texture.startTranscoding()) throw new Error('it is not a Basis Universal texture that can be decoded');
    const [width, height] = [texture.getWidth(), texture.getHeight()];
    const data = new Uint8Array(texture.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32));
    if (data.length !== width * height * 4 || !texture.transcodeImage(data, 0, 0, 0, RGBA32, 0, -1, -1))
      throw new Error('its pixels cannot be decoded');
    return { width, height, data };
  } catch (error) {
    throw damaged(file, error, bytes.length);
  } finally {
    texture.close();
    texture.delete();
  }
}
