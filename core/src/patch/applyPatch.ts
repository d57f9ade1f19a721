/** Applies a patch in VCDIFF (RFC 3284). Nothing is written beyond what the patch says that it makes, and no more than is allowed. */

import { UnreadableInput } from '../unreadable.ts';
import {
  ADD,
  adler32,
  AddressCache,
  CODE_TABLE,
  COPY,
  FIRST_SAME,
  MAGIC,
  NOOP,
  VCD_ADLER32,
  VCD_APPHEADER,
  VCD_SOURCE,
  VCD_TARGET,
} from './codeTable.ts';

/** Bytes that a patch may make. */
export const MOST_PATCHED = 2 ** 29;

class Bytes {
  at: number;
  constructor(
    private readonly bytes: Uint8Array,
    from: number,
    readonly end: number,
    private readonly what: string,
  ) {
    this.at = from;
  }

  fail(why: string): never {
    throw new UnreadableInput(
      'patch',
      `${this.what}: ${why} (byte ${this.at}).`,
      { byte: this.at },
      'Get the patch again; it has to be VCDIFF without further packing.',
    );
  }

  byte(): number {
    if (this.at >= this.end) this.fail('it is cut off');
    return this.bytes[this.at++];
  }

  /** Base 128, the highest first (RFC 3284, section 2). */
  integer(): number {
    let value = 0;
    for (let n = 0; n < 8; n++) {
      const byte = this.byte();
      value = value * 128 + (byte & 127);
      if (byte < 128) return value;
    }
    return this.fail('a number is too large');
  }

  take(length: number): Uint8Array {
    if (length > this.end - this.at) this.fail('it is cut off');
    this.at += length;
    return this.bytes.subarray(this.at - length, this.at);
  }

  part(length: number): Bytes {
    const from = this.at;
    this.take(length);
    return new Bytes(this.bytes, from, from + length, this.what);
  }
}

/** @param file name of the patch, for what is told of it. @throws UnreadableInput where it is damaged, or is of another original */
export function applyPatch(old: Uint8Array, patch: Uint8Array, file: string, most = MOST_PATCHED): Uint8Array {
  const input = new Bytes(patch, 0, patch.length, file);
  for (const byte of MAGIC) if (input.byte() !== byte) input.fail('it is no patch in VCDIFF');
  const indicator = input.byte();
  if (indicator & 3) input.fail('it is packed further, or has a code table of its own, which is not read here');
  if (indicator & VCD_APPHEADER) input.take(input.integer());
  // Windows are measured first, so that their bytes are made once.
  const start = input.at;
  let total = 0;
  while (input.at < patch.length) total += skipWindow(input);
  if (total > most) input.fail(`it would make ${total} bytes; at most ${most} are taken`);
  const out = new Uint8Array(total);
  input.at = start;
  let made = 0;
  const cache = new AddressCache();
  while (input.at < patch.length) made += window(input, old, out, made, cache);
  return out;
}

function head(input: Bytes) {
  const indicator = input.byte();
  if (indicator & ~(VCD_SOURCE | VCD_TARGET | VCD_ADLER32) || (indicator & VCD_SOURCE && indicator & VCD_TARGET))
    input.fail('a window is of no known kind');
  const [size, position] = indicator & 3 ? [input.integer(), input.integer()] : [0, 0];
  const length = input.integer();
  return { indicator, size, position, length };
}

function skipWindow(input: Bytes): number {
  const { length } = head(input);
  const end = input.at + length;
  const target = input.integer();
  input.at = Math.max(input.at, end);
  if (end > input.end) input.fail('it is cut off');
  return target;
}

function window(input: Bytes, old: Uint8Array, out: Uint8Array, made: number, cache: AddressCache): number {
  const { indicator, size, position, length } = head(input);
  const body = input.part(length);
  const target = body.integer();
  if (body.byte() !== 0) body.fail('it is packed further, which is not read here');
  const [dataLength, instLength, addrLength] = [body.integer(), body.integer(), body.integer()];
  const sum = indicator & VCD_ADLER32 ? body.take(4) : null;
  const [data, inst, addr] = [body.part(dataLength), body.part(instLength), body.part(addrLength)];
  if (body.at !== body.end) body.fail('a window has bytes that belong to nothing');
  const from = indicator & VCD_TARGET ? out.subarray(0, made) : old;
  if (position + size > from.length)
    body.fail(`it copies bytes ${position} to ${position + size} of an original that has ${from.length}: it is of another original`);
  const segment = from.subarray(position, position + size);
  const end = made + target;
  cache.reset();
  let at = made;
  while (inst.at < inst.end) {
    for (const { type, size: fixed, mode } of CODE_TABLE[inst.byte()]) {
      if (type === NOOP) continue;
      const count = fixed === 0 ? inst.integer() : fixed;
      if (at + count > end) inst.fail('it makes more than it says');
      if (type === ADD) out.set(data.take(count), at);
      else if (type !== COPY) out.fill(data.byte(), at, at + count);
      else {
        const here = size + at - made;
        const address = cache.decode(mode, here, mode < FIRST_SAME ? addr.integer() : addr.byte());
        if (address < 0 || address >= here) addr.fail('it copies from where nothing is');
        copy(segment, out, address, at, count, made);
      }
      at += count;
    }
  }
  if (at !== end) body.fail('it makes less than it says');
  if (sum && adler32(out.subarray(made, end)) !== ((sum[0] << 24) | (sum[1] << 16) | (sum[2] << 8) | sum[3]) >>> 0)
    body.fail('what it made does not match its checksum: it is of another original');
  return target;
}

/** From the segment and, behind it, what the window has made; the two may run into each other, and a copy into itself. */
function copy(segment: Uint8Array, out: Uint8Array, address: number, to: number, count: number, made: number): void {
  let [from, at, left] = [address, to, count];
  if (from < segment.length) {
    const some = Math.min(left, segment.length - from);
    out.set(segment.subarray(from, from + some), at);
    [from, at, left] = [from + some, at + some, left - some];
  }
  if (left === 0) return;
  const source = made + from - segment.length;
  if (source + left <= at) out.set(out.subarray(source, source + left), at);
  else for (let n = 0; n < left; n++) out[at + n] = out[source + n];
}
