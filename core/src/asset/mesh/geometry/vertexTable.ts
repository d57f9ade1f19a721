/**
 * Gives each distinct triple of indices one number, in the order of first use. Open addressing over a
 * power-of-two table; -1 stands for "left out" and is stored as 2^32 - 1.
 */
export class VertexTable {
  size = 0;
  /** Three per vertex: position, texture coordinate, normal. */
  keys = new Uint32Array(3 * 512);
  private slots = new Int32Array(1024).fill(-1);

  indexOf(p: number, t: number, n: number): number {
    let mask = this.slots.length - 1;
    let at = hashOf(p, t, n) & mask;
    for (;;) {
      const found = this.slots[at];
      if (found < 0) break;
      const k = found * 3;
      if (this.keys[k] === p >>> 0 && this.keys[k + 1] === t >>> 0 && this.keys[k + 2] === n >>> 0) return found;
      at = (at + 1) & mask;
    }
    if (this.size * 2 >= this.slots.length) {
      this.grow();
      mask = this.slots.length - 1;
      at = hashOf(p, t, n) & mask;
      while (this.slots[at] >= 0) at = (at + 1) & mask;
    }
    this.slots[at] = this.size;
    this.keys.set([p, t, n], this.size * 3);
    return this.size++;
  }

  private grow(): void {
    const slots = new Int32Array(this.slots.length * 2).fill(-1);
    const keys = new Uint32Array(this.keys.length * 2);
    keys.set(this.keys);
    this.keys = keys;
    const mask = slots.length - 1;
    for (let i = 0; i < this.size; i++) {
      let at = hashOf(keys[i * 3], keys[i * 3 + 1], keys[i * 3 + 2]) & mask;
      while (slots[at] >= 0) at = (at + 1) & mask;
      slots[at] = i;
    }
    this.slots = slots;
  }
}

/** Mixes three whole numbers well enough for tables whose size is a power of two. */
export function hashOf(a: number, b: number, c: number): number {
  let h = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b) ^ Math.imul(c, 0xc2b2ae35);
  h ^= h >>> 15;
  h = Math.imul(h, 0x2c1b3c6d);
  return (h ^ (h >>> 13)) >>> 0;
}
