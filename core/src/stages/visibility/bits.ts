/** Rows of bits: which of many things each of many things has. */
export class BitRows {
  readonly words: number;
  readonly data: Uint32Array;

  constructor(
    readonly rows: number,
    readonly columns: number,
    data?: Uint32Array,
  ) {
    this.words = Math.ceil(columns / 32);
    this.data = data ?? new Uint32Array(rows * this.words);
  }

  set(row: number, column: number): void {
    this.data[row * this.words + (column >>> 5)] |= 1 << (column & 31);
  }

  clear(row: number, column: number): void {
    this.data[row * this.words + (column >>> 5)] &= ~(1 << (column & 31));
  }

  has(row: number, column: number): boolean {
    return (this.data[row * this.words + (column >>> 5)] & (1 << (column & 31))) !== 0;
  }

  row(row: number): Uint32Array {
    return this.data.subarray(row * this.words, (row + 1) * this.words);
  }

  /** Visits the columns whose bits are set in a row. */
  forEach(row: number, visit: (column: number) => void): void {
    const words = this.row(row);
    for (let k = 0; k < words.length; k++) for (let word = words[k]; word !== 0; word &= word - 1) visit(k * 32 + 31 - Math.clz32(word & -word));
  }

  /** How many bits of a row are set, or of all rows. */
  count(row?: number): number {
    let n = 0;
    for (let word of row === undefined ? this.data : this.row(row)) {
      word -= (word >>> 1) & 0x55555555;
      word = (word & 0x33333333) + ((word >>> 2) & 0x33333333);
      n += (((word + (word >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
    }
    return n;
  }
}
