/**
 * `probes.bin`: light in free space, for what moves. Little endian: "VCPR", u32 version 1, float32 origin x, y, z,
 * float32 spacing, u32 counts x, y, z; per probe (x fastest) u32 free, then twelve float32: c0 red, green, blue, then
 * c1 x, y, z of red, of green, of blue. A matt surface with normal n receives E/π = c0 + 2 c1 · n.
 */

import type { Vec3 } from '../../math/vec3.ts';
import type { ProbeGrid } from '../lighting/probes.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';

const MAGIC = 'VCPR';
const VERSION = 1;

export function encodeProbes({ origin, spacing, counts, free, light }: ProbeGrid): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  [...origin, spacing].forEach((v) => out.f32(v));
  counts.forEach((v) => out.u32(v));
  free.forEach((f, i) => {
    out.u32(f);
    for (let k = 0; k < 12; k++) out.f32(light[i * 12 + k]);
  });
  return out.done();
}

/** @throws Error on anything else */
export function decodeProbes(bytes: Uint8Array): ProbeGrid {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  const origin = file.many(3, file.f32) as Vec3;
  const spacing = file.f32();
  const counts = file.many(3, file.u32) as [number, number, number];
  const free: number[] = [];
  const light: number[] = [];
  for (let i = 0; i < counts[0] * counts[1] * counts[2]; i++) {
    free.push(file.u32());
    light.push(...file.many(12, file.f32));
  }
  return { origin, spacing, counts, free, light };
}
