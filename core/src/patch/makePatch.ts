/** Makes a patch in VCDIFF (RFC 3284) with the default code table: only what is new in it travels. */

import { ADD, AddressCache, CODE_TABLE, COPY, FIRST_SAME, MAGIC, NOOP, RUN, VCD_SOURCE } from './codeTable.ts';

/** Bytes that one window makes: other programs hold a window in memory. */
const WINDOW = 1 << 22;
/** Bytes that are looked up, and how far apart those of the original are kept: whatever is the same for both together is found. */
const BLOCK = 16;
const STEP = 8;
/** A copy shorter than this costs more than its bytes. */
const SHORT = 5;
/** How many changed bytes in one place are skipped before the original is searched for anew. */
const SKIP = 32;
/** A run of one byte. */
const LONG_RUN = 12;

/** A list of bytes that grows. */
class Sink {
  private bytes = new Uint8Array(1024);
  length = 0;

  private room(more: number): void {
    if (this.length + more <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(this.bytes.length * 2, this.length + more));
    larger.set(this.bytes.subarray(0, this.length));
    this.bytes = larger;
  }

  byte(value: number): void {
    this.room(1);
    this.bytes[this.length++] = value;
  }

  integer(value: number): void {
    let digits = 1;
    for (let rest = Math.floor(value / 128); rest > 0; rest = Math.floor(rest / 128)) digits++;
    for (let n = digits - 1; n >= 0; n--) this.byte((Math.floor(value / 128 ** n) & 127) | (n > 0 ? 128 : 0));
  }

  put(values: Uint8Array | readonly number[]): void {
    this.room(values.length);
    this.bytes.set(values, this.length);
    this.length += values.length;
  }

  done(): Uint8Array {
    return this.bytes.subarray(0, this.length);
  }
}

/** Index in the code table by what the two instructions are. */
const CODES = new Map(CODE_TABLE.map(([one, other], n) => [`${one.type}.${one.size}.${one.mode}/${other.type}.${other.size}.${other.mode}`, n]));
const single = (type: number, size: number, mode: number): number | undefined => CODES.get(`${type}.${size}.${mode}/${NOOP}.0.0`);
const ADDS = Array.from({ length: 18 }, (_, size) => single(ADD, size, 0)!);
const COPIES = Array.from({ length: 9 }, (_, mode) => Array.from({ length: 19 }, (__, size) => single(COPY, size, mode) ?? single(COPY, 0, mode)!));
/** By mode, size added and size copied. */
const PAIRS = Array.from({ length: 9 }, (_, mode) =>
  Array.from({ length: 5 }, (__, add) => Array.from({ length: 7 }, (___, size) => CODES.get(`${ADD}.${add}.0/${COPY}.${size}.${mode}`) ?? -1)),
);
const RUN_CODE = single(RUN, 0, 0)!;

const word = (bytes: Uint8Array, at: number): number => bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24);
/** Of 16 bytes. */
const hashAt = (bytes: Uint8Array, at: number): number => {
  let hash = Math.imul(word(bytes, at), 0x9e3779b1);
  hash = Math.imul(hash ^ word(bytes, at + 4), 0x85ebca6b) ^ (hash >>> 15);
  hash = Math.imul(hash ^ word(bytes, at + 8), 0xc2b2ae35) ^ (hash >>> 13);
  return Math.imul(hash ^ word(bytes, at + 12), 0x27d4eb2f);
};

/** Places of blocks by their hash; a later one takes the place of an earlier one. */
class Index {
  private readonly places: Int32Array;
  private readonly shift: number;

  constructor(length: number) {
    let bits = 8;
    while (1 << bits < (length / STEP) * 1.5 && bits < 24) bits++;
    this.places = new Int32Array(1 << bits).fill(-1);
    this.shift = 32 - bits;
  }

  add = (hash: number, at: number): void => void (this.places[hash >>> this.shift] = at);
  find = (hash: number): number => this.places[hash >>> this.shift];
}

export function makePatch(old: Uint8Array, next: Uint8Array): Uint8Array {
  const out = new Sink();
  out.put(MAGIC);
  out.byte(0);
  const source = new Index(old.length);
  for (let at = 0; at + BLOCK <= old.length; at += STEP) source.add(hashAt(old, at), at);
  let diagonal = 0;
  // Without bytes there is one window of none: a patch has to have a window to make something.
  for (let from = 0; from < next.length || from === 0; from += WINDOW) {
    diagonal = makeWindow(out, old, next, from, Math.min(next.length, from + WINDOW), source, diagonal);
    if (next.length === 0) break;
  }
  return out.done().slice();
}

/** @param diagonal by how much places in the original were ahead of those in the new one, last. @returns the same afterwards */
function makeWindow(out: Sink, old: Uint8Array, next: Uint8Array, start: number, end: number, source: Index, diagonal: number): number {
  const [data, inst, addr] = [new Sink(), new Sink(), new Sink()];
  const cache = new AddressCache();
  const own = new Index(end - start);
  const base = old.length;
  let pending = start;
  let indexed = start;

  /** Whatever lies between is added, where it is long and of one byte as a run; short ones go along with the copy behind them. */
  const flush = (to: number, copied: number, mode: number): boolean => {
    let at = pending;
    while (at < to) {
      let run = at + 1;
      while (run < to && next[run] === next[at]) run++;
      if (run - at >= LONG_RUN) {
        inst.byte(RUN_CODE);
        inst.integer(run - at);
        data.byte(next[at]);
        at = run;
        continue;
      }
      // Up to the next long run.
      let stop = run;
      while (stop < to) {
        let other = stop + 1;
        while (other < to && next[other] === next[stop]) other++;
        if (other - stop >= LONG_RUN) break;
        stop = other;
      }
      const size = stop - at;
      data.put(next.subarray(at, stop));
      if (stop === to && size <= 4 && copied <= 6 && PAIRS[mode][size][copied] >= 0) {
        inst.byte(PAIRS[mode][size][copied]);
        return true;
      }
      if (size <= 17) inst.byte(ADDS[size]);
      else {
        inst.byte(ADDS[0]);
        inst.integer(size);
      }
      at = stop;
    }
    return false;
  };

  const emitCopy = (at: number, size: number, address: number): void => {
    const { mode, value } = cache.encode(address, base + at - start);
    if (!flush(at, size, mode)) {
      inst.byte(COPIES[mode][size <= 18 ? size : 0]);
      if (size > 18 || size < 4) inst.integer(size);
    }
    if (mode < FIRST_SAME) addr.integer(value);
    else addr.byte(value);
    pending = at + size;
  };

  let at = start;
  while (at < end) {
    // Where it goes on as before, but for a few bytes.
    let from = at + diagonal;
    let length = from >= 0 ? same(old, from, next, at, end) : 0;
    let address = from;
    if (length < BLOCK && at + BLOCK <= end) {
      const hash = hashAt(next, at);
      const known = source.find(hash);
      if (known >= 0) {
        const found = same(old, known, next, at, end);
        if (found > length && found >= BLOCK) [length, from, address] = [found, known, known];
      }
      const before = own.find(hash);
      if (before >= 0 && length < BLOCK) {
        const found = same(next, before, next, at, end);
        if (found > length && found >= BLOCK) [length, from, address] = [found, -1, base + before - start];
      }
      for (; indexed <= at; indexed += STEP) if (indexed + BLOCK <= end) own.add(hashAt(next, indexed), indexed);
    }
    const worth = address === at + diagonal ? SHORT : BLOCK;
    if (length < worth) {
      at++;
      // Beyond so many changed bytes the diagonal is given up until it is found again.
      if (at - pending > SKIP * 64) diagonal = -end;
      continue;
    }
    // It may have begun before it was found.
    let back = 0;
    const text = from < 0 ? next : old;
    const origin = from < 0 ? address - base + start : from;
    while (at - back > pending && origin - back > 0 && (from >= 0 || origin - back > start) && text[origin - back - 1] === next[at - back - 1])
      back++;
    emitCopy(at - back, length + back, address - back);
    if (from >= 0) diagonal = from - at;
    at += length;
  }
  flush(end, 0, 0);

  const sizes = new Sink();
  for (const value of [end - start]) sizes.integer(value);
  sizes.byte(0);
  for (const part of [data, inst, addr]) sizes.integer(part.length);
  out.byte(old.length > 0 ? VCD_SOURCE : 0);
  if (old.length > 0) {
    out.integer(old.length);
    out.integer(0);
  }
  out.integer(sizes.length + data.length + inst.length + addr.length);
  for (const part of [sizes, data, inst, addr]) out.put(part.done());
  return diagonal;
}

function same(a: Uint8Array, from: number, b: Uint8Array, at: number, end: number): number {
  const most = Math.min(a.length - from, end - at);
  let n = 0;
  while (n < most && a[from + n] === b[at + n]) n++;
  return n;
}
