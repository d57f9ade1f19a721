/** Reads pictures of light for skies: Radiance HDR (RGBE) and OpenEXR, as linear floats. */

import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { UnreadableInput } from '../../unreadable.ts';
import { damaged, guardSize, withEnding, type LightPicture } from './picture.ts';

export const isHdr = (bytes: Uint8Array): boolean => bytes[0] === 0x23 && bytes[1] === 0x3f;
export const isExr = (bytes: Uint8Array): boolean => bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01;

export function readLight(bytes: Uint8Array, file: string): LightPicture {
  if (isHdr(bytes)) {
    const head = new TextDecoder('latin1').decode(bytes.subarray(0, 4096));
    const size = /[-+]Y (\d+) [-+]X (\d+)/.exec(head);
    if (!size) throw new UnreadableInput('image-damaged', `${file} has no size line in its first 4096 bytes (byte 0).`, { file, byte: 0 });
    guardSize(Number(size[2]), Number(size[1]), file, size.index);
  } else checkExrHeader(bytes, file);
  const loader = isHdr(bytes) ? new HDRLoader() : new EXRLoader();
  try {
    const read = loader.setDataType(FloatType).parse((isExr(bytes) ? withEnding(bytes) : bytes.slice()).buffer as ArrayBuffer) as {
      width: number;
      height: number;
      data: Float32Array;
    };
    if (!read?.data || read.data.length < read.width * read.height) throw new Error('it cannot be decoded');
    return toRgba(read, isExr(bytes));
  } catch (error) {
    throw damaged(file, error, bytes.length);
  }
}

/** Brings one to four channels to four, rows from the top. three's EXR loader fills rows from the bottom. */
function toRgba({ width, height, data }: { width: number; height: number; data: Float32Array }, upsideDown: boolean): LightPicture {
  const channels = data.length / (width * height);
  const light = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const from = ((upsideDown ? height - 1 - y : y) * width + x) * channels;
      const to = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) {
        const value = data[from + (channels >= 3 ? k : 0)];
        light[to + k] = Number.isFinite(value) ? Math.max(0, value) : 0;
      }
      light[to + 3] = 1;
    }
  }
  return { width, height, light };
}

/** Bytes of the attribute types that the loader reads without regard to their declared size. */
const SIZES: Record<string, number> = {
  float: 4,
  int: 4,
  v2f: 8,
  v2i: 8,
  v3f: 12,
  box2i: 16,
  box2f: 16,
  compression: 1,
  lineOrder: 1,
  chromaticities: 32,
  timecode: 8,
  rational: 8,
  double: 8,
  tiledesc: 9,
  envmap: 1,
};

/** Names with 16 bytes after each, and a 0 at the end. */
function isChannelList(list: Uint8Array): boolean {
  let at = 0;
  while (at < list.length - 1) {
    const end = list.indexOf(0, at);
    if (end <= at) return false;
    at = end + 17;
  }
  return at === list.length - 1 && list[at] === 0;
}

/** Rows of one block by compression: none, RLE, ZIPS, ZIP, PIZ, PXR24, B44, B44A, DWAA, DWAB (OpenEXR file layout). */
const LINES = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];

/**
 * Walks the attributes of an OpenEXR header (name, type, size, value) within the file's bounds: the loader
 * follows sizes without looking, and for ever where one of them is negative.
 */
function checkExrHeader(bytes: Uint8Array, file: string): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = 8;
  const fail = (message: string): never => {
    throw damaged(file, message, at);
  };
  // Bit 3 of the second flag byte is deep data, bit 4 several parts (OpenEXR file layout).
  if (bytes.length < 9 || (bytes[5] & 0x18) !== 0) throw damaged(file, 'only plain OpenEXR pictures of one part are read', 5);
  const word = (): string => {
    const end = bytes.indexOf(0, at);
    if (end < 0 || end - at > 255) fail('its header is cut off');
    const text = new TextDecoder('latin1').decode(bytes.subarray(at, end));
    at = end + 1;
    return text;
  };
  let rows = 0;
  let lines = 1;
  for (let name = word(); name !== ''; name = word()) {
    const type = word();
    if (at + 4 > bytes.length) fail('its header is cut off');
    const size = view.getInt32(at, true);
    if (size < 0 || at + 4 + size > bytes.length) fail(`the attribute "${name}" has ${size} bytes`);
    if ((SIZES[type] ?? size) !== size || (type === 'chlist' && !isChannelList(bytes.subarray(at + 4, at + 4 + size))))
      fail(`the attribute "${name}" has ${size} bytes`);
    if (name === 'dataWindow' && size === 16) {
      const [left, top, right, bottom] = [4, 8, 12, 16].map((offset) => view.getInt32(at + offset, true));
      guardSize(right - left + 1, bottom - top + 1, file, at + 4);
      rows = bottom - top + 1;
    }
    if (name === 'compression' && size === 1) lines = LINES[bytes[at + 4]] ?? fail(`compression ${bytes[at + 4]} is not known`);
    at += 4 + size;
  }
  if (rows === 0) fail('it has no data window');
  // The table of blocks follows at once; a file without room for it has none of them.
  if ((bytes[5] & 2) === 0 && at + Math.ceil(rows / lines) * 8 > bytes.length) fail('its table of blocks is cut off');
}
