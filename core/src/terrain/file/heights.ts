/**
 * Heights from files of others: PNG with 16 bits, TIFF with 16 bits or 32-bit numbers, raw little-endian numbers. What a file does not
 * say (its range, the distance of samples, the size of raw ones) is asked for by a refusal that names what is missing.
 */

import { decode, encode } from 'fast-png';
import UTIF from 'utif2';
import { UnreadableInput } from '../../unreadable.ts';
import { MOST_SAMPLES } from '../../document/schema.ts';

export interface HeightFile {
  /** Samples along x and y; the first row has the greatest y, as pictures have it. */
  width: number;
  height: number;
  /** Numbers as the file has them, row by row. */
  values: Float32Array;
  /** The numbers are heights already; else they are shares of a range: 0 lowest, 65535 highest. */
  inUnits: boolean;
}

/** How raw files are read: they say nothing of themselves. */
export interface RawSettings {
  width?: number;
  depth?: 'u16' | 'f32';
}

export type HeightFormat = 'png' | 'tiff' | 'raw';

export function heightFormat(file: string): HeightFormat | null {
  const ending = /\.([a-z0-9]+)$/i.exec(file)?.[1].toLowerCase();
  if (ending === 'png') return 'png';
  if (ending === 'tif' || ending === 'tiff') return 'tiff';
  if (ending === 'raw' || ending === 'r16' || ending === 'r32' || ending === 'bin') return 'raw';
  return null;
}

const refuse = (code: string, message: string, file: string, hint: string): never => {
  throw new UnreadableInput(code, message, { file }, hint);
};

/**
 * @throws UnreadableInput `heights-format`, `heights-depth`, `heights-size`, `heights-ask` (something has to be stated) or
 *   `heights-damaged`
 */
export function readHeights(bytes: Uint8Array, file: string, raw: RawSettings = {}): HeightFile {
  const format = heightFormat(file);
  if (!format)
    return refuse(
      'heights-format',
      `${file} is no file of heights that can be read.`,
      file,
      'Use PNG with 16 bits, TIFF with 16 or 32 bits, or raw numbers (.r16, .r32, .raw).',
    );
  const read = format === 'png' ? readPngHeights(bytes, file) : format === 'tiff' ? readTiffHeights(bytes, file) : readRaw(bytes, file, raw);
  const { width, height } = read;
  if (width < 2 || height < 2 || width > MOST_SAMPLES || height > MOST_SAMPLES)
    refuse(
      'heights-size',
      `${file} has ${width} × ${height} samples; a terrain has 2 to ${MOST_SAMPLES.toLocaleString('en')} along a side.`,
      file,
      'Scale the picture down, or cut it into several terrains.',
    );
  const bad = read.values.findIndex((v) => !Number.isFinite(v));
  if (bad >= 0)
    refuse(
      'heights-damaged',
      `${file}: the sample in column ${(bad % width) + 1}, row ${Math.floor(bad / width) + 1} is no number.`,
      file,
      'Fill gaps before exporting.',
    );
  return read;
}

function readPngHeights(bytes: Uint8Array, file: string): HeightFile {
  const signature = [0x89, 0x50, 0x4e, 0x47];
  if (bytes.length < 33 || signature.some((v, i) => bytes[i] !== v))
    refuse('heights-damaged', `${file} is no PNG: its first bytes are others.`, file, 'Export it again.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [width, height, depth, colour] = [view.getUint32(16), view.getUint32(20), bytes[24], bytes[25]];
  if (depth !== 16)
    refuse(
      'heights-depth',
      `${file} has ${depth} bits a sample, which gives ${2 ** depth} heights: ground made of it would have steps.`,
      file,
      'Export the picture with 16 bits, in grey. To use the steps on purpose, press it in with the brush “Stamp”.',
    );
  if (colour !== 0 && colour !== 4)
    refuse('heights-depth', `${file} is in colour; heights are grey.`, file, 'Export one channel in grey with 16 bits.');
  guardSize(width, height, file);
  try {
    const { data, channels } = decode(bytes, { checkCrc: true });
    const values = Float32Array.from({ length: width * height }, (_, i) => data[i * channels]);
    return { width, height, values, inUnits: false };
  } catch {
    return refuse('heights-damaged', `${file} is damaged: its pixels cannot be unpacked.`, file, 'Export it again.');
  }
}

/** Before anything is unpacked. */
function guardSize(width: number, height: number, file: string): void {
  if (width > MOST_SAMPLES || height > MOST_SAMPLES)
    refuse(
      'heights-size',
      `${file} has ${width} × ${height} samples; a terrain has 2 to ${MOST_SAMPLES.toLocaleString('en')} along a side.`,
      file,
      'Scale the picture down, or cut it into several terrains.',
    );
}

function readTiffHeights(bytes: Uint8Array, file: string): HeightFile {
  const damaged = () => refuse('heights-damaged', `${file} is damaged: its TIFF directory or pixels cannot be read.`, file, 'Export it again.');
  let directory: UTIF.IFD | undefined;
  const buffer = bytes.slice().buffer;
  try {
    directory = UTIF.decode(buffer)[0];
  } catch {
    return damaged();
  }
  const number = (tag: string, otherwise: number): number => {
    const value: unknown = (directory as unknown as Record<string, unknown>)?.[tag];
    return Array.isArray(value) && typeof value[0] === 'number' ? value[0] : otherwise;
  };
  const [width, height] = [number('t256', 0), number('t257', 0)];
  if (!directory || width === 0 || height === 0) return damaged();
  guardSize(width, height, file);
  const [bits, samples, form] = [number('t258', 1), number('t277', 1), number('t339', 1)];
  if (samples !== 1) refuse('heights-depth', `${file} has ${samples} channels; heights have one.`, file, 'Export one channel.');
  if (!(bits === 16 && form === 1) && !(bits === 32 && form === 3))
    refuse(
      'heights-depth',
      `${file} has samples of ${bits} bits (format ${form}); heights have 16-bit whole numbers or 32-bit numbers.`,
      file,
      'Export it with 32-bit floating point samples, or 16 bits unsigned.',
    );
  try {
    UTIF.decodeImage(buffer, directory);
  } catch {
    return damaged();
  }
  const data = directory.data as Uint8Array | undefined;
  const size = width * height * (bits / 8);
  if (!data || data.length < size) return damaged();
  // The decoder leaves samples in the file's own order of bytes.
  const little = bytes[0] === 0x49;
  const view = new DataView(data.buffer, data.byteOffset, size);
  const values = Float32Array.from({ length: width * height }, (_, i) =>
    bits === 16 ? view.getUint16(i * 2, little) : view.getFloat32(i * 4, little),
  );
  return { width, height, values, inUnits: bits === 32 };
}

function readRaw(bytes: Uint8Array, file: string, { width, depth }: RawSettings): HeightFile {
  const known = depth ?? (/\.r32$/i.test(file) ? 'f32' : /\.r16$/i.test(file) ? 'u16' : undefined);
  if (!known)
    return refuse('heights-ask', `${file} does not say what its numbers are.`, file, 'State whether they have 16 bits or are 32-bit numbers.');
  const each = known === 'u16' ? 2 : 4;
  const count = bytes.length / each;
  if (!Number.isInteger(count) || count === 0)
    return refuse(
      'heights-size',
      `${file} has ${bytes.length} bytes, which is no whole number of ${each * 8}-bit samples.`,
      file,
      'State the depth that it was exported with.',
    );
  const side = Math.round(Math.sqrt(count));
  const columns = width ?? (side * side === count ? side : undefined);
  if (columns === undefined)
    return refuse('heights-ask', `${file} has ${count.toLocaleString('en')} samples, which is no square.`, file, 'State how many samples a row has.');
  if (count % columns !== 0)
    return refuse(
      'heights-size',
      `${file} has ${count.toLocaleString('en')} samples, which are no whole rows of ${columns}.`,
      file,
      'State the width that it was exported with.',
    );
  guardSize(columns, count / columns, file);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const values = Float32Array.from({ length: count }, (_, i) => (known === 'u16' ? view.getUint16(i * 2, true) : view.getFloat32(i * 4, true)));
  return { width: columns, height: count / columns, values, inUnits: known === 'f32' };
}

/** Rows from the least y, in units. @throws UnreadableInput `heights-ask` where a range is needed and none is stated */
export function heightsInUnits(read: HeightFile, range: readonly [number, number] | null, file: string): Float32Array {
  const { width, height, values, inUnits } = read;
  if (!inUnits && !range)
    return refuse(
      'heights-ask',
      `${file} has shares of a range, and does not say which heights they mean.`,
      file,
      'State the heights of black (0) and white (65,535).',
    );
  const out = new Float32Array(width * height);
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const value = values[(height - 1 - j) * width + i];
      out[j * width + i] = inUnits ? value : range![0] + ((range![1] - range![0]) * value) / 65535;
    }
  return out;
}

/** Heights as files of others have them: rows from the greatest y. */
const turned = (heights: Float32Array, width: number, height: number): Float32Array =>
  Float32Array.from({ length: width * height }, (_, k) => heights[(height - 1 - Math.floor(k / width)) * width + (k % width)]);

const shares = (heights: Float32Array, [low, high]: readonly [number, number]): Uint16Array =>
  Uint16Array.from(heights, (h) => Math.round(Math.min(1, Math.max(0, (h - low) / (high - low))) * 65535));

/** @param heights rows from the least y, units */
export const writePngHeights = (heights: Float32Array, width: number, height: number, range: readonly [number, number]): Uint8Array =>
  encode({ width, height, data: shares(turned(heights, width, height), range), depth: 16, channels: 1 });

export function writeRawHeights(
  heights: Float32Array,
  width: number,
  height: number,
  depth: 'u16' | 'f32',
  range: readonly [number, number],
): Uint8Array {
  const rows = turned(heights, width, height);
  const out = new Uint8Array(rows.length * (depth === 'u16' ? 2 : 4));
  const view = new DataView(out.buffer);
  if (depth === 'u16') shares(rows, range).forEach((v, i) => view.setUint16(i * 2, v, true));
  else rows.forEach((v, i) => view.setFloat32(i * 4, v, true));
  return out;
}

/** TIFF 6.0 with one strip of 32-bit numbers (sample format 3 of its supplement), little endian. */
export function writeTiffHeights(heights: Float32Array, width: number, height: number): Uint8Array {
  const rows = turned(heights, width, height);
  const tags: [tag: number, type: 3 | 4, value: number][] = [
    [256, 4, width],
    [257, 4, height],
    [258, 3, 32],
    [259, 3, 1],
    [262, 3, 1],
    [273, 4, 0],
    [277, 3, 1],
    [278, 4, height],
    [279, 4, rows.length * 4],
    [339, 3, 3],
  ];
  const start = 8 + 2 + tags.length * 12 + 4;
  const out = new Uint8Array(start + rows.length * 4);
  const view = new DataView(out.buffer);
  out.set([0x49, 0x49, 42, 0]);
  view.setUint32(4, 8, true);
  view.setUint16(8, tags.length, true);
  tags.forEach(([tag, type, value], n) => {
    const at = 10 + n * 12;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, 1, true);
    if (type === 3) view.setUint16(at + 8, value, true);
    else view.setUint32(at + 8, tag === 273 ? start : value, true);
  });
  rows.forEach((v, i) => view.setFloat32(start + i * 4, v, true));
  return out;
}
