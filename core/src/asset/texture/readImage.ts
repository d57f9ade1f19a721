/** Reads PNG (8/16 bit, palette, grey) and baseline or progressive JPEG into 8-bit RGBA. */

import { convertIndexedToRgb, decode as decodePng } from 'fast-png';
import { decode as decodeJpeg } from 'jpeg-js';
import { UnreadableInput } from '../../finding.ts';

export interface Picture {
  width: number;
  height: number;
  /** Red, green, blue, alpha per pixel, rows from the top, sRGB. */
  data: Uint8Array;
}

/** Pixels that a picture may declare: 8192 × 8192. */
export const MAX_PIXELS = 8192 * 8192;
const PNG_SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

export function readImage(bytes: Uint8Array, file: string): Picture {
  if (PNG_SIGNATURE.every((value, i) => bytes[i] === value)) return readPng(bytes, file);
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff) return readJpeg(bytes, file);
  const wanted = /\.png$/i.test(file) ? 'a PNG' : /\.jpe?g$/i.test(file) ? 'a JPEG' : 'a PNG or JPEG';
  throw new UnreadableInput(
    'image-kind',
    `${file} is not ${wanted} file: its first bytes are ${[...bytes.subarray(0, 4)].map((b) => b.toString(16).padStart(2, '0')).join(' ') || 'missing'} (byte 0).`,
    { file, byte: 0 },
    'Save the picture as PNG or JPEG; renaming a file does not convert it.',
  );
}

function guardSize(width: number, height: number, file: string, byte: number): void {
  if (width < 1 || height < 1 || width * height > MAX_PIXELS) {
    throw new UnreadableInput(
      'image-too-large',
      `${file} declares ${width} × ${height} pixels; at most ${MAX_PIXELS} pixels are read (byte ${byte}).`,
      { file, byte },
    );
  }
}

function readPng(bytes: Uint8Array, file: string): Picture {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 33)
    throw new UnreadableInput('image-damaged', `${file} is cut off after ${bytes.length} bytes (byte ${bytes.length}).`, {
      file,
      byte: bytes.length,
    });
  guardSize(view.getUint32(16), view.getUint32(20), file, 16);
  let image;
  try {
    image = decodePng(bytes, { checkCrc: true });
  } catch (error) {
    throw new UnreadableInput(
      'image-damaged',
      `${file} is damaged: ${reason(error)} (byte ${pngDamage(bytes)}).`,
      { file, byte: pngDamage(bytes) },
      'Save or copy the picture again.',
    );
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
  for (let i = 0; i < width * height; i++) {
    const at = (k: number) => (high ? samples[i * channels + k] >> 8 : samples[i * channels + k]);
    const grey = channels < 3;
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
function pngDamage(bytes: Uint8Array): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 8;
  while (at + 12 <= bytes.length) {
    const length = view.getUint32(at);
    if (at + 12 + length > bytes.length) return at;
    at += 12 + length;
  }
  return Math.min(at, bytes.length);
}

function readJpeg(bytes: Uint8Array, file: string): Picture {
  // The frame header states the size before anything is unpacked.
  for (let at = 2; at + 9 < bytes.length && bytes[at] === 0xff;) {
    const marker = bytes[at + 1];
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker)) {
      guardSize((bytes[at + 7] << 8) | bytes[at + 8], (bytes[at + 5] << 8) | bytes[at + 6], file, at + 5);
      break;
    }
    at += 2 + ((bytes[at + 2] << 8) | bytes[at + 3]);
  }
  try {
    const image = decodeJpeg(bytes, { useTArray: true, formatAsRGBA: true, tolerantDecoding: false, maxMemoryUsageInMB: 1024 });
    return { width: image.width, height: image.height, data: image.data };
  } catch (error) {
    throw new UnreadableInput(
      'image-damaged',
      `${file} is damaged: ${reason(error)} (byte ${bytes.length}).`,
      { file, byte: bytes.length },
      'Save or copy the picture again.',
    );
  }
}

const reason = (error: unknown): string => (error instanceof Error ? error.message.replace(/\.$/, '') : String(error));
