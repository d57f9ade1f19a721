/** Reads PNG: 1 to 16 bits, grey, colour and palette, interlaced too; into 8-bit RGBA. */

import { convertIndexedToRgb, decode } from 'fast-png';
import { UnreadableInput } from '../../finding.ts';
import { damaged, guardSize, type Picture } from './picture.ts';

export const PNG_SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

export function readPng(bytes: Uint8Array, file: string): Picture {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 33)
    throw new UnreadableInput('image-damaged', `${file} is cut off after ${bytes.length} bytes (byte ${bytes.length}).`, {
      file,
      byte: bytes.length,
    });
  guardSize(view.getUint32(16), view.getUint32(20), file, 16);
  let image;
  try {
    image = decode(bytes, { checkCrc: true });
    if (image.data.length === 0) throw new Error('it holds no pixels');
  } catch (error) {
    throw damaged(file, error, damageOf(bytes));
  }
  const { width, height } = image;
  let { channels } = image;
  let samples: ArrayLike<number> = image.data;
  let high = image.depth === 16;
  if (image.palette) {
    samples = convertIndexedToRgb(image);
    channels = image.palette[0].length === 4 ? 4 : 3;
    high = false;
  } else if (image.depth < 8) samples = unpackBits(image.data as Uint8Array, width, height, image.depth);
  const data = new Uint8Array(width * height * 4);
  const grey = channels < 3;
  for (let i = 0; i < width * height; i++) {
    const at = (k: number) => (high ? samples[i * channels + k] >> 8 : samples[i * channels + k]);
    data[i * 4] = at(0);
    data[i * 4 + 1] = grey ? at(0) : at(1);
    data[i * 4 + 2] = grey ? at(0) : at(2);
    data[i * 4 + 3] = channels === 4 ? at(3) : channels === 2 ? at(1) : 255;
  }
  return { width, height, data };
}

/** Greys of 1, 2 or 4 bits, spread to 0..255; rows begin on whole bytes. */
function unpackBits(packed: Uint8Array, width: number, height: number, depth: number): Uint8Array {
  const rowBytes = Math.ceil((width * depth) / 8);
  const top = 2 ** depth - 1;
  const out = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const bit = x * depth;
      out[y * width + x] = (((packed[y * rowBytes + (bit >> 3)] >> (8 - depth - (bit & 7))) & top) * 255) / top;
    }
  }
  return out;
}

/** The byte at which the chunks of a PNG stop making sense, or its end. */
function damageOf(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 8;
  while (at + 12 <= bytes.length) {
    const length = view.getUint32(at);
    if (at + 12 + length > bytes.length) return at;
    at += 12 + length;
  }
  return Math.min(at, bytes.length);
}
