/**
 * Merges vertices. Identical ones (all attributes, bit for bit) become one; with a distance above 0,
 * points nearer than that are first moved onto the earliest of them. Triangles keep their order and number.
 */

import { ATTRIBUTES, type AttributeName, type ModelPart } from '../model/model.ts';

const NAMES = Object.keys(ATTRIBUTES) as AttributeName[];

export function weld(part: ModelPart, distance: number): ModelPart {
  const positions = distance > 0 ? snapPoints(part.positions, distance) : part.positions;
  const source = { ...part, positions };
  const count = positions.length / 3;
  // 0 and -0 are the same place but not the same bits.
  for (let i = 0; i < positions.length; i++) positions[i] += 0;
  const { packed, width } = packBits(source, count);
  const mask = 2 ** Math.ceil(Math.log2(Math.max(2, count * 2))) - 1;
  const slots = new Int32Array(mask + 1).fill(-1);
  const first = new Uint32Array(count);
  const target = new Uint32Array(count);
  let kept = 0;
  for (let i = 0; i < count; i++) {
    const own = i * width;
    let hash = 0;
    for (let k = own; k < own + width; k++) hash = Math.imul(hash ^ packed[k], 0x9e3779b1) ^ (hash >>> 15);
    hash ^= hash >>> 13;
    let at = hash & mask;
    let found = slots[at];
    while (found >= 0) {
      const other = first[found] * width;
      let k = 0;
      while (k < width && packed[other + k] === packed[own + k]) k++;
      if (k === width) break;
      at = (at + 1) & mask;
      found = slots[at];
    }
    if (found < 0) {
      first[kept] = i;
      slots[at] = found = kept++;
    }
    target[i] = found;
  }
  if (kept === count && positions === part.positions) return part;
  const out: ModelPart = { ...source, indices: part.indices.map((index) => target[index]) };
  gather(out, source, first.subarray(0, kept));
  return out;
}

/** All attributes of every vertex side by side as bits: floats as they lie in memory, joints two to a word. */
function packBits(part: ModelPart, count: number): { packed: Uint32Array; width: number } {
  const words = NAMES.flatMap((name) => {
    const array = part[name];
    if (!array) return [];
    const width = array.BYTES_PER_ELEMENT * ATTRIBUTES[name] * 0.25;
    return [{ bits: new Uint32Array(array.buffer, array.byteOffset, count * width), width }];
  });
  const width = words.reduce((sum, word) => sum + word.width, 0);
  if (words.length === 1) return { packed: words[0].bits, width };
  const packed = new Uint32Array(count * width);
  let offset = 0;
  for (const { bits, width: own } of words) {
    for (let i = 0, from = 0; i < count; i++) for (let k = 0; k < own; k++) packed[i * width + offset + k] = bits[from++];
    offset += own;
  }
  return { packed, width };
}

/** Fills `into` with the given vertices of `from`, all attributes alike. */
export function gather(into: ModelPart, from: ModelPart, vertices: Uint32Array): void {
  for (const name of NAMES) {
    const array = from[name];
    if (!array) continue;
    const width = ATTRIBUTES[name];
    const taken = array instanceof Uint16Array ? new Uint16Array(vertices.length * width) : new Float32Array(vertices.length * width);
    for (let i = 0; i < vertices.length; i++) for (let k = 0; k < width; k++) taken[i * width + k] = array[vertices[i] * width + k];
    Object.assign(into, { [name]: taken });
  }
}

/** Drops vertices that no triangle uses. */
export function dropUnused(part: ModelPart): ModelPart {
  const count = part.positions.length / 3;
  const target = new Int32Array(count).fill(-1);
  const kept = new Uint32Array(count);
  let size = 0;
  for (const index of part.indices) if (target[index] < 0) kept[(target[index] = size++)] = index;
  if (size === count) return part;
  const out = { ...part, indices: part.indices.map((index) => target[index]) };
  gather(out, part, kept.subarray(0, size));
  return out;
}

/** Moves points that are nearer than `distance` to an earlier one onto it; a grid of that size finds neighbours. */
function snapPoints(positions: Float32Array, distance: number): Float32Array {
  const out = positions.slice();
  const cells = new Map<string, number[]>();
  const cell = (v: number) => Math.floor(v / distance);
  const near = distance * distance;
  for (let i = 0; i < out.length; i += 3) {
    const [cx, cy, cz] = [cell(out[i]), cell(out[i + 1]), cell(out[i + 2])];
    let found = -1;
    for (let x = cx - 1; x <= cx + 1 && found < 0; x++)
      for (let y = cy - 1; y <= cy + 1 && found < 0; y++)
        for (let z = cz - 1; z <= cz + 1 && found < 0; z++)
          for (const other of cells.get(`${x},${y},${z}`) ?? [])
            if ((out[i] - out[other]) ** 2 + (out[i + 1] - out[other + 1]) ** 2 + (out[i + 2] - out[other + 2]) ** 2 <= near) {
              found = other;
              break;
            }
    if (found >= 0) out.copyWithin(i, found, found + 3);
    else {
      const key = `${cx},${cy},${cz}`;
      const list = cells.get(key);
      if (list) list.push(i);
      else cells.set(key, [i]);
    }
  }
  return out;
}
