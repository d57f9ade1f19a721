/** The default code table and address cache of VCDIFF. Source: RFC 3284, sections 5.3, 5.5 and 5.6. */

export const NOOP = 0;
export const ADD = 1;
export const RUN = 2;
export const COPY = 3;

export interface Instruction {
  type: typeof NOOP | typeof ADD | typeof RUN | typeof COPY;
  /** 0 where the size follows as an integer. */
  size: number;
  mode: number;
}

const none: Instruction = { type: NOOP, size: 0, mode: 0 };

/** 256 pairs of instructions. */
export const CODE_TABLE: readonly (readonly [Instruction, Instruction])[] = (() => {
  const table: [Instruction, Instruction][] = [[{ type: RUN, size: 0, mode: 0 }, none]];
  for (let size = 0; size <= 17; size++) table.push([{ type: ADD, size, mode: 0 }, none]);
  for (let mode = 0; mode <= 8; mode++)
    for (const size of [0, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18]) table.push([{ type: COPY, size, mode }, none]);
  for (let mode = 0; mode <= 5; mode++)
    for (let add = 1; add <= 4; add++)
      for (let size = 4; size <= 6; size++)
        table.push([
          { type: ADD, size: add, mode: 0 },
          { type: COPY, size, mode },
        ]);
  for (let mode = 6; mode <= 8; mode++)
    for (let add = 1; add <= 4; add++)
      table.push([
        { type: ADD, size: add, mode: 0 },
        { type: COPY, size: 4, mode },
      ]);
  for (let mode = 0; mode <= 8; mode++)
    table.push([
      { type: COPY, size: 4, mode },
      { type: ADD, size: 1, mode: 0 },
    ]);
  return table;
})();

const NEAR = 4;
const SAME = 3;
export const FIRST_SAME = 2 + NEAR;

/** Addresses that were copied from last, by which new ones are told shorter. */
export class AddressCache {
  private readonly near = new Float64Array(NEAR);
  private readonly same = new Float64Array(SAME * 256);
  private next = 0;

  reset(): void {
    this.near.fill(0);
    this.same.fill(0);
    this.next = 0;
  }

  private update(address: number): void {
    this.near[this.next] = address;
    this.next = (this.next + 1) % NEAR;
    this.same[address % (SAME * 256)] = address;
  }

  /** @param value the integer, or the byte for the same-modes, that was read */
  decode(mode: number, here: number, value: number): number {
    const address =
      mode === 0 ? value : mode === 1 ? here - value : mode < FIRST_SAME ? this.near[mode - 2] + value : this.same[(mode - FIRST_SAME) * 256 + value];
    this.update(address);
    return address;
  }

  /** The shortest way to tell an address. */
  encode(address: number, here: number): { mode: number; value: number } {
    let [mode, value] = [0, address];
    if (here - address < value) [mode, value] = [1, here - address];
    for (let n = 0; n < NEAR; n++) {
      const off = address - this.near[n];
      if (off >= 0 && off < value) [mode, value] = [n + 2, off];
    }
    const slot = address % (SAME * 256);
    // One byte, always: worth it where the integer would take two.
    if (value > 127 && this.same[slot] === address) [mode, value] = [FIRST_SAME + Math.floor(slot / 256), slot % 256];
    this.update(address);
    return { mode, value };
  }
}

export const MAGIC = [0xd6, 0xc3, 0xc4, 0] as const;
export const VCD_SOURCE = 1;
export const VCD_TARGET = 2;
/** Extensions that xdelta3 writes: a checksum of each window, and a header of the application. */
export const VCD_ADLER32 = 4;
export const VCD_APPHEADER = 4;

/** Adler-32 (RFC 1950, section 8.2). */
export function adler32(bytes: Uint8Array): number {
  let [a, b] = [1, 0];
  for (let i = 0; i < bytes.length;) {
    const end = Math.min(bytes.length, i + 3800);
    for (; i < end; i++) {
      a += bytes[i];
      b += a;
    }
    a %= 65521;
    b %= 65521;
  }
  return ((b << 16) | a) >>> 0;
}
