/**
 * How samples lie in a tile: as base64 of raw deflate (RFC 1951) of
 *
 *     'u16'  residuals of heights: what the planar predictor west + south - southwest (0 beyond the tile) misses, modulo
 *            65536, zigzag coded; all low bytes, then all high bytes
 *     'f32'  the same of the bits of the numbers (IEEE 754, 32 bits) modulo 2³², in four planes of bytes
 *     bytes  the difference of each byte from the one before it, modulo 256
 *
 * Rows go along x, the first row has the least y. The predictor is that of lossless picture formats (west + north - northwest).
 */

import { deflateSync, Inflate } from 'fflate';
import { toBase64 } from '../base64.ts';
import { TILE } from '../document/schema.ts';

export const TILE_SAMPLES = TILE * TILE;

/** Level 1 is a third of the time of the usual one, for a tenth more bytes: strokes are packed while people draw. */
const LEVEL = 1;

const toText = (bytes: Uint8Array): string => toBase64(deflateSync(bytes, { level: LEVEL }));

/** Packed bytes that are unpacked at a time: they can grow a thousandfold. */
const PIECE = 2048;

/** @returns null where the text is damaged or holds more than `most` bytes */
function fromText(text: string, most: number): Uint8Array | null {
  const out = new Uint8Array(most);
  let [length, ended] = [0, false];
  const inflate = new Inflate((part, last) => {
    if (length + part.length > most) throw new RangeError('too long');
    out.set(part, length);
    length += part.length;
    ended ||= last;
  });
  try {
    const binary = atob(text);
    for (let from = 0; from < binary.length; from += PIECE) {
      const packed = new Uint8Array(Math.min(PIECE, binary.length - from));
      for (let i = 0; i < packed.length; i++) packed[i] = binary.charCodeAt(from + i);
      inflate.push(packed, from + PIECE >= binary.length);
    }
  } catch {
    return null;
  }
  return ended ? out.subarray(0, length) : null;
}

/** The same where it has to be just as long. */
function exactly(text: string, length: number): Uint8Array | null {
  const bytes = fromText(text, length);
  return bytes?.length === length ? bytes : null;
}

/** Bytes per sample of both depths. */
const WIDTHS = { u16: 2, f32: 4 } as const;

/** What a number of `width` bytes is predicted as from its neighbours, which come first. */
const predicted = (values: Uint32Array, i: number): number => {
  const first = i % TILE === 0;
  const west = first ? 0 : values[i - 1];
  const south = i < TILE ? 0 : values[i - TILE];
  return west + south - (first || i < TILE ? 0 : values[i - TILE - 1]);
};

/** @param values one number of the given width per sample */
export function packNumbers(values: Uint32Array, depth: 'u16' | 'f32'): string {
  const width = WIDTHS[depth];
  const bits = width * 8;
  const bytes = new Uint8Array(TILE_SAMPLES * width);
  for (let i = 0; i < TILE_SAMPLES; i++) {
    // Into the width, with its sign, then zigzag: small misses of either sign become small numbers.
    const miss = ((values[i] - predicted(values, i)) << (32 - bits)) >> (32 - bits);
    const coded = (miss << 1) ^ (miss >> 31);
    for (let b = 0; b < width; b++) bytes[b * TILE_SAMPLES + i] = coded >>> (b * 8);
  }
  return toText(bytes);
}

export function unpackNumbers(text: string, depth: 'u16' | 'f32'): Uint32Array | null {
  const width = WIDTHS[depth];
  const bytes = exactly(text, TILE_SAMPLES * width);
  if (!bytes) return null;
  const mask = width === 4 ? 0xffffffff : 0xffff;
  const values = new Uint32Array(TILE_SAMPLES);
  for (let i = 0; i < TILE_SAMPLES; i++) {
    let coded = 0;
    for (let b = 0; b < width; b++) coded |= bytes[b * TILE_SAMPLES + i] << (b * 8);
    const miss = (coded >>> 1) ^ -(coded & 1);
    values[i] = (predicted(values, i) + miss) & mask;
  }
  return values;
}

/** Any bytes, as weights and masks have them. */
export function packBytes(values: Uint8Array): string {
  const bytes = new Uint8Array(values.length);
  for (let i = 0; i < values.length; i++) bytes[i] = values[i] - (i > 0 ? values[i - 1] : 0);
  return toText(bytes);
}

export function unpackBytes(text: string, length: number): Uint8Array | null {
  const bytes = exactly(text, length);
  if (!bytes) return null;
  for (let i = 1; i < length; i++) bytes[i] += bytes[i - 1];
  return bytes;
}

/** Most things on one tile. */
export const MOST_THINGS = 16_384;
const THING_BYTES = 8;

/** A thing on a tile: the number of its kind, its place within the tile in quads, its turn (0..1 of a circle) and its size (0..1 of its range). */
export interface TileThing {
  kind: number;
  x: number;
  y: number;
  turn: number;
  size: number;
}

/** Eight bytes a thing: u8 kind, u16 x, u16 y (of 128 quads), u8 turn, u8 size, u8 zero; little endian, deflated, base64. */
export function packThings(things: readonly TileThing[]): string {
  const bytes = new Uint8Array(things.length * THING_BYTES);
  const view = new DataView(bytes.buffer);
  things.forEach(({ kind, x, y, turn, size }, i) => {
    const at = i * THING_BYTES;
    view.setUint8(at, kind);
    view.setUint16(at + 1, Math.min(65535, Math.round((x / TILE) * 65536)), true);
    view.setUint16(at + 3, Math.min(65535, Math.round((y / TILE) * 65536)), true);
    view.setUint8(at + 5, Math.round(turn * 256) & 255);
    view.setUint8(at + 6, Math.round(size * 255));
  });
  return toText(bytes);
}

export function unpackThings(text: string): TileThing[] | null {
  const bytes = fromText(text, MOST_THINGS * THING_BYTES);
  if (!bytes || bytes.length % THING_BYTES !== 0) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return Array.from({ length: bytes.length / THING_BYTES }, (_, i) => {
    const at = i * THING_BYTES;
    return {
      kind: view.getUint8(at),
      x: (view.getUint16(at + 1, true) / 65536) * TILE,
      y: (view.getUint16(at + 3, true) / 65536) * TILE,
      turn: view.getUint8(at + 5) / 256,
      size: view.getUint8(at + 6) / 255,
    };
  });
}
