/** Reads PNG: 1 to 16 bits, grey, colour and palette, interlaced too; into 8-bit RGBA. */

import { convertIndexedToRgb, decode } from 'fast-png';
import { Unzlib, zlibSync } from 'fflate';
import { UnreadableInput } from '../../unreadable.ts';
import { crc32 } from '../archive/zip.ts';
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
    image = decode(bare(bytes, file), { checkCrc: true });
    if (image.data.length === 0) throw new Error('it holds no pixels');
  } catch (error) {
    if (error instanceof UnreadableInput) throw error;
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

/** What pixels need. All else (profiles, texts, animation) may be packed a thousandfold, and is not looked into. */
const NEEDED = new Set(['IHDR', 'PLTE', 'tRNS', 'IDAT', 'IEND']);
/** Samples per pixel by colour type (PNG, 11.2.2). */
const SAMPLES: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
/** Bytes of packed pixels that are unpacked at a time. */
const PIECE = 1 << 16;

/**
 * The PNG without chunks that pixels do not need, its pixels unpacked to no more than its size calls for and stored
 * as they are: whatever decodes it cannot be made to hold more.
 */
function bare(bytes: Uint8Array, file: string): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks: Uint8Array[] = [bytes.subarray(0, 8)];
  const packed: Uint8Array[] = [];
  let at = 8;
  let ended = false;
  while (!ended && at + 12 <= bytes.length) {
    const length = view.getUint32(at);
    if (at + 12 + length > bytes.length) throw new Error('a chunk is cut off');
    const name = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    const chunk = bytes.subarray(at, at + 12 + length);
    if (NEEDED.has(name) && crc32(chunk.subarray(4, 8 + length)) !== view.getUint32(at + 8 + length))
      throw new UnreadableInput('image-damaged', `${file} is damaged: its part ${name} does not match its checksum (byte ${at}).`, {
        file,
        byte: at,
      });
    if (name === 'IDAT') packed.push(chunk.subarray(8, 8 + length));
    else if (name === 'IEND') ended = true;
    else if (NEEDED.has(name)) chunks.push(chunk);
    at += 12 + length;
  }
  if (!ended) throw new Error('its end is missing');
  chunks.push(chunkOf('IDAT', zlibSync(unpacked(packed, rawSize(view)), { level: 0 })), chunkOf('IEND', new Uint8Array()));
  const out = new Uint8Array(chunks.reduce((sum, chunk) => sum + chunk.length, 0));
  let to = 0;
  for (const chunk of chunks) {
    out.set(chunk, to);
    to += chunk.length;
  }
  return out;
}

/** Bytes of all rows with their filter bytes; of interlaced pictures those of the seven passes (PNG, 8.2). */
function rawSize(view: DataView): number {
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  const bits = view.getUint8(24) * (SAMPLES[view.getUint8(25)] ?? 4);
  const rows = (w: number, h: number) => (w === 0 || h === 0 ? 0 : h * (1 + Math.ceil((w * bits) / 8)));
  if (view.getUint8(28) !== 1) return rows(width, height);
  const passes = [
    [0, 0, 8, 8],
    [4, 0, 8, 8],
    [0, 4, 4, 8],
    [2, 0, 4, 4],
    [0, 2, 2, 4],
    [1, 0, 2, 2],
    [0, 1, 1, 2],
  ];
  return passes.reduce((sum, [x, y, dx, dy]) => sum + rows(Math.ceil((width - x) / dx), Math.ceil((height - y) / dy)), 0);
}

/** Unpacks up to so many bytes; what goes beyond is not pixels. */
function unpacked(packed: readonly Uint8Array[], size: number): Uint8Array {
  const raw = new Uint8Array(size);
  let length = 0;
  const inflate = new Unzlib((piece) => {
    raw.set(piece.subarray(0, Math.max(0, size - length)), Math.min(length, size));
    length += piece.length;
  });
  for (const chunk of packed) for (let at = 0; at < chunk.length && length < size; at += PIECE) inflate.push(chunk.subarray(at, at + PIECE), false);
  return length < size ? raw.subarray(0, length) : raw;
}

function chunkOf(name: string, data: Uint8Array): Uint8Array {
  const chunk = new Uint8Array(12 + data.length);
  const view = new DataView(chunk.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) chunk[4 + i] = name.charCodeAt(i);
  chunk.set(data, 8);
  view.setUint32(8 + data.length, crc32(chunk.subarray(4, 8 + data.length)));
  return chunk;
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
