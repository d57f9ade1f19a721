/**
 * `visibility.bin`: where a point lies and what can be seen from there. Little endian:
 *
 *     "VCVS", u32 version 1, u32 nodes, u32 leaves, u32 sectors, u32 groups
 *     per node   float64 normal x, y, z, distance; i32 front, i32 back (>= 0 a node, else -1 - leaf)
 *     per leaf   i32 sector, or -1 inside solids and outside the map
 *     per sector ceil(sectors / 32) u32, bit i set where sector i can be seen
 *     per group  u32 count, u32 sectors: the group of `map.glb` (the mesh of that number) is drawn when one of them is seen
 *
 * Without nodes everything is drawn always.
 */

import type { Vec3 } from '../../math/vec3.ts';
import { flattenBsp, type Bsp } from '../sealing/bsp.ts';
import type { VisibilityOutput } from '../visibility/stage.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';

const MAGIC = 'VCVS';
const VERSION = 1;

export interface VisibilityFile {
  /** Four numbers and two links per node, as `FlatBsp`. */
  planes: number[];
  children: number[];
  sectorOfLeaf: number[];
  sectors: number;
  rows: Uint32Array;
  groups: number[][];
}

export function encodeVisibilityFile(bsp: Bsp | null, visibility: VisibilityOutput | null, groups: readonly (readonly number[])[]): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  const tree = bsp && visibility ? flattenBsp(bsp) : { planes: [], children: [], solid: [] };
  const sectorOf = new Map(visibility?.leaves.map((leaf, cell) => [leaf, visibility.sectors[cell]]));
  const sectors = visibility?.sectorCount ?? 0;
  [tree.planes.length / 4, tree.solid.length, sectors, groups.length].forEach((v) => out.u32(v));
  for (let i = 0; i < tree.planes.length / 4; i++) {
    for (let k = 0; k < 4; k++) out.f64(tree.planes[i * 4 + k]);
    out.i32(tree.children[i * 2]);
    out.i32(tree.children[i * 2 + 1]);
  }
  tree.solid.forEach((_, leaf) => out.i32(sectorOf.get(leaf) ?? -1));
  visibility?.sectorVisible.data.forEach((word) => out.u32(word));
  for (const group of groups) {
    out.u32(group.length);
    group.forEach((sector) => out.u32(sector));
  }
  return out.done();
}

/** @throws Error on anything else */
export function decodeVisibilityFile(bytes: Uint8Array): VisibilityFile {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  const [nodes, leaves, sectors, groups] = file.many(4, file.u32);
  const planes: number[] = [];
  const children: number[] = [];
  for (let i = 0; i < nodes; i++) {
    planes.push(...file.many(4, file.f64));
    children.push(file.i32(), file.i32());
  }
  const sectorOfLeaf = file.many(leaves, file.i32);
  const rows = Uint32Array.from(file.many(sectors * Math.ceil(sectors / 32), file.u32));
  return { planes, children, sectorOfLeaf, sectors, rows, groups: file.many(groups, () => file.many(file.u32(), file.u32)) };
}

/** Sector of a point, or -1. */
export function sectorAt({ planes, children, sectorOfLeaf }: VisibilityFile, p: Vec3): number {
  if (planes.length === 0) return -1;
  let at = 0;
  while (at >= 0) {
    const side = planes[at * 4] * p[0] + planes[at * 4 + 1] * p[1] + planes[at * 4 + 2] * p[2] - planes[at * 4 + 3];
    at = children[at * 2 + (side >= 0 ? 0 : 1)];
  }
  return sectorOfLeaf[-1 - at];
}

/** For every group whether it may be seen from a point; everything where the point lies in no sector. */
export function groupsSeenFrom(file: VisibilityFile, p: Vec3): boolean[] {
  const own = sectorAt(file, p);
  if (own < 0) return file.groups.map(() => true);
  const words = Math.ceil(file.sectors / 32);
  const sees = (sector: number) => (file.rows[own * words + (sector >>> 5)] & (1 << (sector & 31))) !== 0;
  return file.groups.map((sectors) => sectors.length === 0 || sectors.some(sees));
}
