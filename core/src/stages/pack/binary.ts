/** Writing and reading of little-endian binary files with a magic word and a version. */

/** Negative zeros are written as zeros, so that equal maps have equal bytes. */
export class BinaryWriter {
  private bytes = new Uint8Array(1024);
  private view = new DataView(this.bytes.buffer);
  private at = 0;

  constructor(magic: string, version: number) {
    for (const letter of magic) this.u8(letter.charCodeAt(0));
    this.u32(version);
  }

  /** Makes room at the end and says where; `view` is another one afterwards. */
  private room(size: number): number {
    if (this.at + size > this.bytes.length) {
      const grown = new Uint8Array(Math.max(this.bytes.length * 2, this.at + size));
      grown.set(this.bytes);
      this.bytes = grown;
      this.view = new DataView(grown.buffer);
    }
    this.at += size;
    return this.at - size;
  }

  u8(v: number): void {
    const at = this.room(1);
    this.view.setUint8(at, v);
  }
  u32(v: number): void {
    const at = this.room(4);
    this.view.setUint32(at, v, true);
  }
  i32(v: number): void {
    const at = this.room(4);
    this.view.setInt32(at, v, true);
  }
  f32(v: number): void {
    const at = this.room(4);
    this.view.setFloat32(at, v + 0, true);
  }
  f64(v: number): void {
    const at = this.room(8);
    this.view.setFloat64(at, v + 0, true);
  }
  /** u32 length in bytes, then UTF-8. */
  text(v: string): void {
    const bytes = new TextEncoder().encode(v);
    this.u32(bytes.length);
    this.raw(bytes);
  }
  raw(v: Uint8Array): void {
    const at = this.room(v.length);
    this.bytes.set(v, at);
  }
  done(): Uint8Array {
    return this.bytes.slice(0, this.at);
  }
}

export class BinaryReader {
  private readonly view: DataView;
  private at = 0;

  /** @throws Error where the file is something else, or of another version */
  constructor(
    private readonly bytes: Uint8Array,
    magic: string,
    version: number,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const own = bytes.length >= 8 ? String.fromCharCode(...bytes.subarray(0, 4)) : '';
    this.at = 4;
    if (own !== magic || this.u32() !== version) throw new Error(`This is no ${magic} file of version ${version}.`);
  }

  u8 = (): number => this.view.getUint8((this.at += 1) - 1);
  u32 = (): number => this.view.getUint32((this.at += 4) - 4, true);
  i32 = (): number => this.view.getInt32((this.at += 4) - 4, true);
  f32 = (): number => this.view.getFloat32((this.at += 4) - 4, true);
  f64 = (): number => this.view.getFloat64((this.at += 8) - 8, true);
  text = (): string => new TextDecoder().decode(this.raw(this.u32()));
  raw = (length: number): Uint8Array => this.bytes.slice(this.at, (this.at += length));
  many = <T>(count: number, read: () => T): T[] => Array.from({ length: count }, read);
}
