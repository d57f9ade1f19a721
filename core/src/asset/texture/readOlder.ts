/** Picture formats that one call of a library decodes: WebP, BMP, TGA and TIFF. */

import webp from '@cwasm/webp';
import { decode as decodeBmp } from 'bmp-ts';
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js';
import UTIF from 'utif2';
import { hushed } from '../hushed.ts';
import { damaged, guardSize, type Picture } from './picture.ts';

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

const FEWER = 'it holds fewer pixels than it declares';

/** Runs a decoder; whatever it throws becomes a message about the file. */
function decodeWith(bytes: Uint8Array, file: string, decode: () => Picture): Picture {
  let picture: Picture;
  try {
    picture = decode();
    if (picture.data.length !== picture.width * picture.height * 4) throw new Error(FEWER);
  } catch (error) {
    throw error instanceof Error && error.name === 'UnreadableInput' ? error : damaged(file, error, bytes.length);
  }
  return picture;
}

export function readWebp(bytes: Uint8Array, file: string): Picture {
  return decodeWith(bytes, file, () => {
    const view = viewOf(bytes);
    const chunk = String.fromCharCode(...bytes.subarray(12, 16));
    const u24 = (at: number) => view.getUint16(at, true) | (view.getUint8(at + 2) << 16);
    // Sizes as RFC 9649 places them in the three kinds of first chunk.
    if (chunk === 'VP8X') guardSize(u24(24) + 1, u24(27) + 1, file, 24);
    else if (chunk === 'VP8L') guardSize((view.getUint32(21, true) & 0x3fff) + 1, ((view.getUint32(21, true) >> 14) & 0x3fff) + 1, file, 21);
    else guardSize(view.getUint16(26, true) & 0x3fff, view.getUint16(28, true) & 0x3fff, file, 26);
    const { width, height, data } = webp.decode(bytes);
    return { width, height, data: new Uint8Array(data) };
  });
}

/** The calls that the BMP decoder makes of a Node buffer, little-endian; reading past the end throws a RangeError. */
class BmpBytes {
  private readonly view: DataView;
  constructor(private readonly bytes: Uint8Array) {
    this.view = viewOf(bytes);
  }
  get length(): number {
    return this.bytes.length;
  }
  readUInt8 = (at: number): number => this.view.getUint8(at);
  readUInt16LE = (at: number): number => this.view.getUint16(at, true);
  readUInt32LE = (at: number): number => this.view.getUint32(at, true);
  readInt32LE = (at: number): number => this.view.getInt32(at, true);
  toString(_encoding: string, from: number, to: number): string {
    return String.fromCharCode(...this.bytes.subarray(from, to));
  }
}

export function readBmp(bytes: Uint8Array, file: string): Picture {
  return decodeWith(bytes, file, () => {
    const view = viewOf(bytes);
    guardSize(Math.abs(view.getInt32(18, true)), Math.abs(view.getInt32(22, true)), file, 18);
    const bits = view.getUint16(28, true);
    const { width, height, data } = decodeBmp(new BmpBytes(bytes) as never, { toRGBA: true });
    // Bitmaps below 32 bits have no alpha; the library leaves that byte at 0.
    const pixels = new Uint8Array(data);
    if (bits < 32 || pixels.every((v, i) => i % 4 !== 3 || v === 0)) for (let i = 3; i < pixels.length; i += 4) pixels[i] = 255;
    return { width: Math.abs(width), height: Math.abs(height), data: pixels };
  });
}

export function readTga(bytes: Uint8Array, file: string): Picture {
  return decodeWith(bytes, file, () => {
    const view = viewOf(bytes);
    guardSize(view.getUint16(12, true), view.getUint16(14, true), file, 12);
    needTgaPixels(bytes);
    const { width, height, data } = hushed(() => new TGALoader().parse(bytes.slice().buffer)) as unknown as Picture;
    return { width, height, data: new Uint8Array(data) };
  });
}

/** Looks whether all pixels that the header declares are in the file, before room for them is taken (Truevision TGA 2.0, fields 2 to 8). */
function needTgaPixels(bytes: Uint8Array): void {
  const view = viewOf(bytes);
  const type = bytes[2];
  const pixels = view.getUint16(12, true) * view.getUint16(14, true);
  const each = Math.ceil(bytes[16] / 8);
  const map = bytes[1] === 1 ? view.getUint16(5, true) * Math.ceil(bytes[7] / 8) : 0;
  let at = 18 + bytes[0] + map;
  if (type < 8) {
    if (at + pixels * each > bytes.length) throw new Error(FEWER);
    return;
  }
  // Packets of up to 128 pixels: one value for all of them, or one for each.
  for (let found = 0; found < pixels;) {
    const count = ((bytes[at] ?? 0) & 0x7f) + 1;
    at += 1 + each * ((bytes[at] ?? 0) & 0x80 ? 1 : count);
    if (at > bytes.length) throw new Error(FEWER);
    found += count;
  }
}

/** TGA has no signature: its header has to make sense. */
export function looksLikeTga(bytes: Uint8Array): boolean {
  if (bytes.length < 18) return false;
  const [, map, type] = bytes;
  return map <= 1 && [1, 2, 3, 9, 10, 11].includes(type) && [8, 15, 16, 24, 32].includes(bytes[16]);
}

export function readTiff(bytes: Uint8Array, file: string): Picture {
  return decodeWith(bytes, file, () => {
    const { buffer } = plainTiff(bytes);
    const [first] = UTIF.decode(buffer);
    if (!first) throw new Error('it holds no picture');
    const tag = (name: string) => Number((first[name] as number[] | undefined)?.[0] ?? 0);
    guardSize(tag('t256'), tag('t257'), file, 4);
    needTiffPixels(first as Record<string, unknown>, bytes.length);
    UTIF.decodeImage(buffer, first);
    return { width: first.width, height: first.height, data: UTIF.toRGBA8(first) };
  });
}

/** No packing of TIFF makes more of a byte than this: DEFLATE at most 1,032 (RFC 1951), LZW with codes of 12 bits some 2,700. */
const MOST_UNPACKED = 3000;

/** Looks whether the strips or tiles lie in the file and can hold the picture: the decoder leaves out what is missing (TIFF 6.0, sections 4 and 15). */
function needTiffPixels(first: Record<string, unknown>, length: number): void {
  const list = (name: string) => ((first[name] as number[] | undefined) ?? []).map(Number);
  const one = (name: string, otherwise: number) => list(name)[0] ?? otherwise;
  const tiled = first.t324 !== undefined;
  const [offsets, counts] = tiled ? [list('t324'), list('t325')] : [list('t273'), list('t279')];
  const [width, height] = [one('t256', 0), one('t257', 0)];
  const pieces = tiled
    ? Math.ceil(width / one('t322', width)) * Math.ceil(height / one('t323', height))
    : Math.ceil(height / Math.min(one('t278', height), height));
  const planes = one('t284', 1) === 2 ? one('t277', 1) : 1;
  if (offsets.length < pieces * planes || counts.length < offsets.length) throw new Error(FEWER);
  let sum = 0;
  offsets.forEach((offset, i) => {
    if (offset + counts[i] > length) throw new Error(FEWER);
    sum += counts[i];
  });
  const bits = (first.t258 as number[] | undefined)?.reduce((all, next) => all + Number(next), 0) ?? 1;
  const wanted = (width * height * bits) / 8;
  const packing = one('t259', 1);
  // JPEG and fax have bounds of their own, which their decoders hold.
  if ([1, 5, 8, 32773, 32946].includes(packing) && sum * (packing === 1 ? 1 : packing === 32773 ? 128 : MOST_UNPACKED) < wanted)
    throw new Error(FEWER);
}

/** Bytes of one value by TIFF 6.0's field types 1 to 12. */
const TIFF_SIZES = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8];
/** Tags that point to further directories. */
const TIFF_POINTERS = new Set([330, 34665, 34853, 40965]);
const MAX_SAMPLES = 8;

/**
 * A copy with only the first directory, whose entries have to lie within the file: the decoder follows
 * counts and pointers without looking.
 */
function plainTiff(bytes: Uint8Array): Uint8Array<ArrayBuffer> {
  const copy = bytes.slice() as Uint8Array<ArrayBuffer>;
  const view = viewOf(copy);
  const little = bytes[0] === 0x49;
  const at = view.getUint32(4, little);
  const count = view.getUint16(at, little);
  if (count === 0) throw new Error('it holds no picture');
  for (let i = 0; i < count; i++) {
    const entry = at + 2 + i * 12;
    const tag = view.getUint16(entry, little);
    const size = (TIFF_SIZES[view.getUint16(entry + 2, little)] ?? 0) * view.getUint32(entry + 4, little);
    if (size > bytes.length || (size > 4 && view.getUint32(entry + 8, little) + size > bytes.length))
      throw new Error(`entry ${tag} lies outside the file`);
    if (TIFF_POINTERS.has(tag)) view.setUint16(entry, 0xffff, little);
    // Samples per pixel and bits per sample decide how much memory is taken.
    const value = view.getUint16(entry + 8, little);
    if ((tag === 277 && value > MAX_SAMPLES) || (tag === 258 && size <= 4 && value > 64)) throw new Error(`entry ${tag} is ${value}`);
  }
  view.setUint32(at + 2 + count * 12, 0, little);
  return copy;
}
