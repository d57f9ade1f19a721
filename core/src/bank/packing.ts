/** Packed parts of a bank: blocks of LZ4, and DEFLATE (RFC 1951). Unpacking never grows beyond what was said to come out. */

import { deflateSync, inflateSync } from 'fflate';
import { UnreadableInput } from '../unreadable.ts';

export type Packing = 'lz4' | 'deflate';

/** Bytes that a packed part may come to. */
export const MOST_UNPACKED = 1 << 24;

/** @param at of the packed bytes in their file, for the message. @throws UnreadableInput `bank-packed` */
export function unpack(by: Packing, packed: Uint8Array, length: number, at: number): Uint8Array {
  const damaged = (): never => {
    throw new UnreadableInput('bank-packed', `What is packed at byte ${at} is damaged.`, { byte: at }, 'Take the bank from your own install again.');
  };
  if (length > MOST_UNPACKED)
    throw new UnreadableInput('bank-packed', `What is packed at byte ${at} would come to ${length} bytes; at most ${MOST_UNPACKED} are taken.`, {
      byte: at,
    });
  if (by === 'lz4') return unpackLz4(packed, length) ?? damaged();
  try {
    const out = inflateSync(packed, { out: new Uint8Array(length) });
    return out.length === length ? out : damaged();
  } catch (error) {
    if (error instanceof UnreadableInput) throw error;
    return damaged();
  }
}

export const pack = (by: Packing, bytes: Uint8Array): Uint8Array => (by === 'lz4' ? packLz4(bytes) : deflateSync(bytes, { level: 9 }));

/** Source: "LZ4 Block Format Description" (lz4_Block_format.md of the LZ4 project, 2022). @returns null where the block is damaged */
export function unpackLz4(block: Uint8Array, length: number): Uint8Array | null {
  const out = new Uint8Array(length);
  let [i, o] = [0, 0];
  const more = (least: number): number => {
    let sum = least;
    if (least !== 15) return sum;
    for (;;) {
      if (i >= block.length) return NaN;
      sum += block[i];
      if (block[i++] !== 255) return sum;
    }
  };
  while (i < block.length) {
    const token = block[i++];
    const literals = more(token >> 4);
    if (!(i + literals <= block.length) || o + literals > length) return null;
    out.set(block.subarray(i, i + literals), o);
    i += literals;
    o += literals;
    if (i === block.length) break;
    if (i + 2 > block.length) return null;
    const offset = block[i] | (block[i + 1] << 8);
    i += 2;
    const match = more(token & 15) + 4;
    if (offset === 0 || offset > o || !(o + match <= length)) return null;
    // Byte by byte: a match may reach into what it writes.
    for (let n = 0; n < match; n++, o++) out[o] = out[o - offset];
  }
  return o === length ? out : null;
}

const HASH_BITS = 14;
/** The format's rules for its end: the last five bytes are literals, and no match begins in the last twelve. */
const LAST_LITERALS = 5;
const NO_MATCH = 12;

export function packLz4(bytes: Uint8Array): Uint8Array {
  const out: number[] = [];
  const seen = new Int32Array(1 << HASH_BITS).fill(-1);
  const four = (at: number): number => bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24);
  let anchor = 0;
  const length = (rest: number): void => {
    for (; rest >= 255; rest -= 255) out.push(255);
    out.push(rest);
  };
  const emit = (to: number, match: number, offset: number): void => {
    const literals = to - anchor;
    out.push((Math.min(15, literals) << 4) | (match === 0 ? 0 : Math.min(15, match - 4)));
    if (literals >= 15) length(literals - 15);
    for (let i = anchor; i < to; i++) out.push(bytes[i]);
    if (match === 0) return;
    out.push(offset & 255, offset >> 8);
    if (match - 4 >= 15) length(match - 4 - 15);
  };
  for (let i = 0; i + NO_MATCH < bytes.length;) {
    const word = four(i);
    const slot = Math.imul(word, 2654435761) >>> (32 - HASH_BITS);
    const from = seen[slot];
    seen[slot] = i;
    if (from < 0 || i - from > 65535 || four(from) !== word) {
      i++;
      continue;
    }
    let match = 4;
    const most = bytes.length - LAST_LITERALS - i;
    while (match < most && bytes[from + match] === bytes[i + match]) match++;
    emit(i, match, i - from);
    i += match;
    anchor = i;
  }
  emit(bytes.length, 0, 0);
  return Uint8Array.from(out);
}
