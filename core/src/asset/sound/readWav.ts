/**
 * Reads WAV (RIFF): whole numbers of 8, 16, 24 and 32 bits and floats of 32 and 64, with the loop of a
 * `smpl` chunk. Not handled: compressed WAV (A-law, ADPCM and the like), which is refused by name.
 */

import { UnreadableInput } from '../../unreadable.ts';
import type { Sound } from './sound.ts';

const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;

export function readWav(bytes: Uint8Array, file: string): Sound {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const fail = (message: string, byte: number): never => {
    throw new UnreadableInput('sound-damaged', `${file}: ${message} (byte ${byte}).`, { file, byte }, 'Export it again as WAV with 16 or 24 bits.');
  };
  const name = (at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));
  if (bytes.length < 12 || name(0) !== 'RIFF' || name(8) !== 'WAVE') fail('not a WAV file', 0);
  let format: { kind: number; channels: number; rate: number; bits: number } | null = null;
  let data: { from: number; length: number } | null = null;
  let loop: Sound['loop'];
  for (let at = 12; at + 8 <= bytes.length;) {
    const length = view.getUint32(at + 4, true);
    const from = at + 8;
    const chunk = name(at);
    if (chunk === 'fmt ') {
      if (length < 16 || from + 16 > bytes.length) fail('its format is cut off', at);
      let kind = view.getUint16(from, true);
      if (kind === EXTENSIBLE && length >= 26 && from + 26 <= bytes.length) kind = view.getUint16(from + 24, true);
      format = { kind, channels: view.getUint16(from + 2, true), rate: view.getUint32(from + 4, true), bits: view.getUint16(from + 14, true) };
    } else if (chunk === 'data') {
      // Recorders that were switched off leave a length of 0 or of the largest number.
      data = { from, length: Math.min(length === 0 || length === 0xffffffff ? Infinity : length, bytes.length - from) };
      if (length !== 0 && length !== 0xffffffff && from + length > bytes.length)
        fail(`cut off: its data declares ${length} bytes, ${bytes.length - from} are left`, bytes.length);
    } else if (chunk === 'smpl' && from + 36 + 24 <= bytes.length && view.getUint32(from + 28, true) > 0) {
      loop = { start: view.getUint32(from + 44, true), end: view.getUint32(from + 48, true) + 1 };
    }
    at = from + length + (length & 1);
  }
  if (!format) return fail('it has no format', 12);
  if (!data) return fail('it has no data', bytes.length);
  const { kind, channels, rate, bits } = format;
  const width = bits / 8;
  if (kind !== PCM && kind !== FLOAT) fail(`compressed with method ${kind}; only plain samples are read`, 20);
  if (!(kind === FLOAT ? [32, 64] : [8, 16, 24, 32]).includes(bits)) fail(`samples of ${bits} bits are not known`, 34);
  if (channels < 1 || channels > 8) fail(`${channels} channels; 1 to 8 are read`, 22);
  if (rate < 1000 || rate > 768_000) fail(`${rate} samples per second; 1,000 to 768,000 are read`, 24);
  const count = Math.floor(data.length / (width * channels));
  if (count === 0) fail('it holds no samples', data.from);
  const read: (at: number) => number =
    kind === FLOAT
      ? bits === 32
        ? (at) => view.getFloat32(at, true)
        : (at) => view.getFloat64(at, true)
      : bits === 8
        ? (at) => (view.getUint8(at) - 128) / 128
        : bits === 16
          ? (at) => view.getInt16(at, true) / 32768
          : bits === 24
            ? (at) => ((view.getInt8(at + 2) << 16) | view.getUint16(at, true)) / 8388608
            : (at) => view.getInt32(at, true) / 2147483648;
  const out = Array.from({ length: channels }, () => new Float32Array(count));
  for (let i = 0; i < count; i++)
    for (let c = 0; c < channels; c++) {
      const at = data.from + (i * channels + c) * width;
      const value = read(at);
      if (!Number.isFinite(value)) fail(`sample ${i} is not a number`, at);
      out[c][i] = value;
    }
  return { sampleRate: rate, channels: out, loop: loop && loop.start < loop.end && loop.end <= count ? loop : undefined };
}
