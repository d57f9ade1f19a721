/**
 * Reads the first picture of a GIF (87a and 89a). Own code, since both decoders in the registry run for
 * ever on damaged files, one of them until the process ends: here every code is checked as it is read.
 */

import { damaged, guardSize, type Picture } from './picture.ts';

const EXTENSION = 0x21;
const IMAGE = 0x2c;
const CONTROL = 0xf9;
/** Most entries of the code table (GIF89a, appendix F). */
const TABLE = 4096;

export function readGif(bytes: Uint8Array, file: string): Picture {
  let at = 13;
  const fail = (message: string): never => {
    throw damaged(file, message, Math.min(at, bytes.length));
  };
  const u8 = (): number => (at < bytes.length ? bytes[at++] : fail('it is cut off'));
  const u16 = (): number => u8() | (u8() << 8);
  const palette = (flags: number): number => {
    if ((flags & 0x80) === 0) return -1;
    const from = at;
    at += 3 * 2 ** ((flags & 7) + 1);
    return from;
  };
  if (bytes.length < 13) fail('it is cut off');
  const width = bytes[6] | (bytes[7] << 8);
  const height = bytes[8] | (bytes[9] << 8);
  guardSize(width, height, file, 6);
  const global = palette(bytes[10]);
  let transparent = -1;
  for (;;) {
    const block = u8();
    if (block === EXTENSION) {
      const control = u8() === CONTROL && bytes[at] === 4;
      if (control) transparent = (bytes[at + 1] & 1) === 1 ? bytes[at + 4] : -1;
      for (let size = u8(); size !== 0; size = u8()) at += size;
      continue;
    }
    if (block !== IMAGE) fail(block === 0x3b ? 'it holds no picture' : `block ${block} is not known`);
    const [left, top, w, h] = [u16(), u16(), u16(), u16()];
    if (left + w > width || top + h > height) fail('its first picture is larger than its frame');
    const flags = u8();
    const local = palette(flags);
    const colours = local >= 0 ? local : global;
    if (colours < 0) fail('it has no colours');
    const indices = uncompress();
    const data = new Uint8Array(width * height * 4);
    const rows = (flags & 0x40) === 0 ? Array.from({ length: h }, (_, y) => y) : interlaced(h);
    for (let y = 0; y < h; y++) {
      for (let x = 0; x < w; x++) {
        const index = indices[y * w + x];
        const to = ((top + rows[y]) * width + left + x) * 4;
        for (let k = 0; k < 3; k++) data[to + k] = bytes[colours + index * 3 + k] ?? 0;
        data[to + 3] = index === transparent ? 0 : 255;
      }
    }
    return { width, height, data };

    /** Variable-length codes (LZW) in sub-blocks of up to 255 bytes. */
    function uncompress(): Uint8Array {
      const bits = u8();
      if (bits < 2 || bits > 8) fail(`its codes begin with ${bits} bits`);
      const out = new Uint8Array(w * h);
      const [clear, end] = [1 << bits, (1 << bits) + 1];
      const prefix = new Uint16Array(TABLE);
      const suffix = new Uint8Array(TABLE);
      const length = new Uint16Array(TABLE);
      for (let i = 0; i < clear; i++) [suffix[i], length[i]] = [i, 1];
      let [next, size, held, count, left_, previous, made] = [end + 1, bits + 1, 0, 0, 0, -1, 0];
      while (made < out.length) {
        while (count < size) {
          if (left_ === 0) left_ = u8();
          if (left_ === 0) return fail('its pixels end too early');
          held |= u8() << count;
          count += 8;
          left_--;
        }
        const code = held & ((1 << size) - 1);
        held >>= size;
        count -= size;
        if (code === clear) {
          [next, size, previous] = [end + 1, bits + 1, -1];
          continue;
        }
        if (code === end) fail('its pixels end too early');
        if (code > next || (code === next && previous < 0) || (previous < 0 && code > clear)) fail(`code ${code} means nothing`);
        // A code may name the entry that is only being made: it begins as the one before.
        const source = code === next ? previous : code;
        let first = source;
        while (length[first] > 1) first = prefix[first];
        if (previous >= 0 && next < TABLE) {
          prefix[next] = previous;
          suffix[next] = suffix[first];
          length[next] = length[previous] + 1;
          next++;
          if (next === 1 << size && size < 12) size++;
        }
        const total = length[code];
        // Written from its end: every entry leads to the one it grew from.
        for (let entry = code, to = made + total - 1; to >= made; to--) {
          if (to < out.length) out[to] = suffix[entry];
          entry = prefix[entry];
        }
        made += total;
        previous = code;
      }
      return out;
    }
  }
}

/** Rows of an interlaced picture in the order in which they are stored. */
function interlaced(height: number): number[] {
  const rows: number[] = [];
  for (const [from, step] of [
    [0, 8],
    [4, 8],
    [2, 4],
    [1, 2],
  ])
    for (let y = from; y < height; y += step) rows.push(y);
  return rows;
}
