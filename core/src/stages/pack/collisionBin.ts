/**
 * `collision.bin`: what stops players. Little endian: "VCCO", u32 version 1, u32 solids; per solid its id (u32 length,
 * UTF-8), u32 planes, and per plane float64 normal x, y, z and distance d: solid where n · p <= d for all. Map space, units.
 */

import type { Solid } from '../../document/schema.ts';
import { solidPolygons } from '../../solid/solid.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';

export interface Collision {
  solids: { id: string; planes: [number, number, number, number][] }[];
}

const MAGIC = 'VCCO';
const VERSION = 1;

/** @param solids those that stop players */
export const collisionOf = (solids: Readonly<Record<string, Solid>>): Collision => ({
  solids: Object.entries(solids).map(([id, solid]) => ({
    id,
    planes: solidPolygons(solid).map(({ face }) => [...solid.faces[face].normal, solid.faces[face].distance] as [number, number, number, number]),
  })),
});

export function encodeCollision({ solids }: Collision): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  out.u32(solids.length);
  for (const { id, planes } of solids) {
    out.text(id);
    out.u32(planes.length);
    for (const plane of planes) plane.forEach((v) => out.f64(v));
  }
  return out.done();
}

/** @throws Error on anything else */
export function decodeCollision(bytes: Uint8Array): Collision {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  return {
    solids: file.many(file.u32(), () => ({
      id: file.text(),
      planes: file.many(file.u32(), () => file.many(4, file.f64) as [number, number, number, number]),
    })),
  };
}
