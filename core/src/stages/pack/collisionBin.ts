/**
 * `collision.bin`: what stops players. Little endian: "VCCO", u32 version 2, u32 kinds of surface, each its id (u32 length,
 * UTF-8), u32 solids; per solid its id, u32 planes, and per plane float64 normal x, y, z and distance d, and u32 number of its
 * surface, counted from 1, 0 where none is stated: solid where n · p <= d for all. Map space, units.
 */

import type { Solid } from '../../document/schema.ts';
import { solidPolygons } from '../../solid/solid.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';
import type { PackingInputs } from './inputs.ts';

export interface CollisionSolid {
  id: string;
  planes: [number, number, number, number][];
  /** Ids of the kinds of surface of its planes, empty where none is stated. */
  surfaces: string[];
}

export interface Collision {
  solids: CollisionSolid[];
}

const MAGIC = 'VCCO';
const VERSION = 2;

/** One solid as players meet it. */
export function collisionSolid(id: string, solid: Solid, surfaces: readonly string[]): CollisionSolid {
  const polygons = solidPolygons(solid);
  return {
    id,
    planes: polygons.map(({ face }) => [...solid.faces[face].normal, solid.faces[face].distance] as [number, number, number, number]),
    surfaces: polygons.map(({ face }) => surfaces[face] ?? ''),
  };
}

/** @param solids those that stop players */
export const collisionOf = (solids: PackingInputs['collision']): Collision => ({
  solids: Object.entries(solids).map(([id, { solid, surfaces }]) => collisionSolid(id, solid, surfaces)),
});

export function encodeCollision({ solids }: Collision): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  const kinds = [...new Set(solids.flatMap(({ surfaces }) => surfaces.filter(Boolean)))].sort();
  out.u32(kinds.length);
  kinds.forEach((kind) => out.text(kind));
  out.u32(solids.length);
  for (const { id, planes, surfaces } of solids) {
    out.text(id);
    out.u32(planes.length);
    planes.forEach((plane, i) => {
      plane.forEach((v) => out.f64(v));
      out.u32(kinds.indexOf(surfaces[i]) + 1);
    });
  }
  return out.done();
}

/** @throws Error on anything else */
export function decodeCollision(bytes: Uint8Array): Collision {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  const kinds = file.many(file.u32(), file.text);
  return {
    solids: file.many(file.u32(), () => {
      const id = file.text();
      const faces = file.many(file.u32(), () => ({ plane: file.many(4, file.f64) as [number, number, number, number], kind: file.u32() }));
      return { id, planes: faces.map(({ plane }) => plane), surfaces: faces.map(({ kind }) => kinds[kind - 1] ?? '') };
    }),
  };
}
