/** Reads a picture by what it is, not by what it is called. */

import { UnreadableInput } from '../../unreadable.ts';
import { isKtx2, readKtx2 } from './readKtx2.ts';
import type { Picture } from './picture.ts';
import { readJpeg } from './readJpeg.ts';
import { readGif } from './readGif.ts';
import { looksLikeTga, readBmp, readTga, readTiff, readWebp } from './readOlder.ts';
import { PNG_SIGNATURE, readPng } from './readPng.ts';

export const IMAGE_FILE = /\.(png|jpe?g|webp|tga|bmp|gif|tiff?|hdr|exr|ktx2)$/i;

const startsWith = (bytes: Uint8Array, ...values: number[]): boolean => values.every((value, i) => bytes[i] === value);

export async function readImage(bytes: Uint8Array, file: string): Promise<Picture> {
  if (startsWith(bytes, ...PNG_SIGNATURE)) return readPng(bytes, file);
  if (startsWith(bytes, 0xff, 0xd8, 0xff)) return readJpeg(bytes, file);
  if (startsWith(bytes, 0x52, 0x49, 0x46, 0x46) && bytes[8] === 0x57 && bytes[9] === 0x45) return readWebp(bytes, file);
  if (startsWith(bytes, 0x47, 0x49, 0x46, 0x38)) return readGif(bytes, file);
  if (startsWith(bytes, 0x42, 0x4d)) return readBmp(bytes, file);
  if (startsWith(bytes, 0x49, 0x49, 0x2a, 0) || startsWith(bytes, 0x4d, 0x4d, 0, 0x2a)) return readTiff(bytes, file);
  if (isKtx2(bytes)) return await readKtx2(bytes, file);
  if (/\.tga$/i.test(file) && looksLikeTga(bytes)) return readTga(bytes, file);
  const ending = /\.([^.]+)$/.exec(file)?.[1].toUpperCase().replace('JPG', 'JPEG') ?? 'picture';
  const first = [...bytes.subarray(0, 4)].map((b) => b.toString(16).padStart(2, '0')).join(' ') || 'missing';
  throw new UnreadableInput(
    'image-kind',
    `${file} is not a ${IMAGE_FILE.test(file) ? ending : 'picture'} file: its first bytes are ${first} (byte 0).`,
    { file, byte: 0 },
    'Save the picture as PNG or JPEG; renaming a file does not convert it.',
  );
}
