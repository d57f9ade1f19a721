/** Typed arrays that grow by doubling, for readers that do not know beforehand how much will come. */

type Numbers = Float32Array | Uint32Array;

class Growing<T extends Numbers> {
  array: T;
  length = 0;
  private readonly make: (length: number) => T;

  constructor(make: (length: number) => T) {
    this.make = make;
    this.array = make(1024);
  }

  /** Makes room for so many more. */
  reserve(more: number): void {
    if (this.length + more <= this.array.length) return;
    const larger = this.make(Math.max(this.array.length * 2, this.length + more));
    larger.set(this.array.subarray(0, this.length));
    this.array = larger;
  }

  push(value: number): void {
    if (this.length === this.array.length) this.reserve(1);
    this.array[this.length++] = value;
  }

  /** A copy of its own exact size. */
  finish(): T {
    return this.array.slice(0, this.length) as T;
  }
}

export class FloatList extends Growing<Float32Array> {
  constructor() {
    super((length) => new Float32Array(length));
  }
}

export class IndexList extends Growing<Uint32Array> {
  constructor() {
    super((length) => new Uint32Array(length));
  }
}
