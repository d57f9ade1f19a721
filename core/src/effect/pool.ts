/**
 * The particles of one emitter, in the order of their births, as columns:
 *
 * | column      | unit            | of particle i                                                         |
 * | ----------- | --------------- | --------------------------------------------------------------------- |
 * | x, y, z     | units           | place, in the frame of the emitter (the map's or the object's)        |
 * | vx, vy, vz  | units a second  | speed in the same frame                                               |
 * | age, life   | seconds         | since birth; at which it dies                                         |
 * | birth       | –               | its number among all ever born, which is what chance is asked with    |
 * | flow        | units a second  | three each: the air around it when that was last looked at; none without turbulence |
 */
export class Pool {
  count = 0;
  /** All that were ever born. */
  born = 0;
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly z: Float64Array;
  readonly vx: Float64Array;
  readonly vy: Float64Array;
  readonly vz: Float64Array;
  readonly age: Float64Array;
  readonly life: Float64Array;
  readonly birth: Uint32Array;
  readonly flow: Float64Array;

  constructor(
    readonly most: number,
    turbulent = false,
  ) {
    this.flow = new Float64Array(turbulent ? most * 3 : 0);
    const column = () => new Float64Array(most);
    this.x = column();
    this.y = column();
    this.z = column();
    this.vx = column();
    this.vy = column();
    this.vz = column();
    this.age = column();
    this.life = column();
    this.birth = new Uint32Array(most);
  }

  private columns(): (Float64Array | Uint32Array)[] {
    return [this.x, this.y, this.z, this.vx, this.vy, this.vz, this.age, this.life, this.birth, this.flow];
  }

  private lengthOf(column: Float64Array | Uint32Array, count: number): number {
    return column !== this.flow ? count : column.length > 0 ? count * 3 : 0;
  }

  /** Bytes that all columns take. */
  get bytes(): number {
    return this.columns().reduce((sum, { byteLength }) => sum + byteLength, 0);
  }

  /** What lives now, as bytes; equal bytes are equal states. */
  state(): Uint8Array {
    const { count, born } = this;
    const parts = this.columns().map((column) => column.subarray(0, this.lengthOf(column, count)));
    const bytes = new Uint8Array(8 + parts.reduce((sum, { byteLength }) => sum + byteLength, 0));
    new DataView(bytes.buffer).setUint32(0, count, true);
    new DataView(bytes.buffer).setUint32(4, born, true);
    let at = 8;
    for (const part of parts) {
      bytes.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at);
      at += part.byteLength;
    }
    return bytes;
  }

  /** Takes up a state that `state` gave of a pool as large. */
  restore(bytes: Uint8Array): void {
    const view = new DataView(bytes.buffer, bytes.byteOffset);
    this.count = view.getUint32(0, true);
    this.born = view.getUint32(4, true);
    let at = 8;
    for (const column of this.columns()) {
      const length = this.lengthOf(column, this.count) * column.BYTES_PER_ELEMENT;
      new Uint8Array(column.buffer, column.byteOffset, length).set(bytes.subarray(at, at + length));
      at += length;
    }
  }
}
