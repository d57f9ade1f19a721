/**
 * `collision.bin`: what stops players. Little endian: "VCCO", u32 version 3, u32 kinds of surface, each its id (u32 length,
 * UTF-8), u32 solids; per solid its id, u32 planes, and per plane float64 normal x, y, z and distance d, and u32 number of its
 * surface, counted from 1, 0 where none is stated: solid where n · p <= d for all. Then u32 grounds; per ground its id, float64
 * origin x, y, float64 spacing, u32 samples along x, y, u32 surfaces, each u32 number of its kind as above; float32 heights row by
 * row from the least y, u8 number of the surface per sample, 255 where the quad from there on is a hole; u32 things, each float64
 * x, y, z of its foot, radius and height: an upright cylinder. A quad is two triangles that meet along the line from the sample to
 * its east to the one to its north. Map space, units.
 */

import type { Solid } from '../../document/schema.ts';
import { solidPolygons } from '../../solid/solid.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';
import type { FieldGround } from '../ground/field.ts';
import { THING, type BuiltGround } from '../ground/stage.ts';
import { pick } from '../surface/form.ts';
import type { PackingInputs } from './inputs.ts';

export interface CollisionSolid {
  id: string;
  planes: [number, number, number, number][];
  /** Ids of the kinds of surface of its planes, empty where none is stated. */
  surfaces: string[];
}

export interface CollisionGround extends FieldGround {
  /** Ids of the kinds of its surfaces, empty where none is stated. */
  feels: string[];
  /** Upright cylinders: x, y, z of the foot, radius, height. */
  things: Float64Array;
}

export interface Collision {
  solids: CollisionSolid[];
  grounds: CollisionGround[];
}

const MAGIC = 'VCCO';
const VERSION = 3;

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
export const collisionOf = (solids: PackingInputs['collision'], grounds: readonly BuiltGround[] = []): Collision => ({
  solids: Object.entries(solids).map(([id, { solid, surfaces }]) => collisionSolid(id, solid, surfaces)),
  grounds: grounds.map((ground) => ({
    ...pick(ground, 'id', 'nx', 'ny', 'origin', 'spacing', 'heights', 'covers'),
    feels: ground.surfaces.map(({ feel }) => feel),
    things: standing(ground),
  })),
});

/** Scattered things that stop players, as cylinders. */
function standing({ clusters, kinds }: BuiltGround): Float64Array {
  const out: number[] = [];
  for (const { kind, things } of clusters) {
    const { radius, tall } = kinds[kind];
    if (radius <= 0 || tall <= 0) continue;
    for (let at = 0; at < things.length; at += THING) {
      const scale = things[at + 7];
      out.push(things[at], things[at + 1], things[at + 2], radius * scale, tall * scale);
    }
  }
  return Float64Array.from(out);
}

export function encodeCollision({ solids, grounds }: Collision): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  const kinds = [...new Set([...solids.flatMap(({ surfaces }) => surfaces), ...grounds.flatMap(({ feels }) => feels)].filter(Boolean))].sort();
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
  out.u32(grounds.length);
  for (const { id, origin, spacing, nx, ny, feels, heights, covers, things } of grounds) {
    out.text(id);
    origin.forEach((v) => out.f64(v));
    out.f64(spacing);
    out.u32(nx);
    out.u32(ny);
    out.u32(feels.length);
    feels.forEach((feel) => out.u32(kinds.indexOf(feel) + 1));
    out.raw(new Uint8Array(heights.buffer, heights.byteOffset, heights.byteLength));
    out.raw(covers);
    out.u32(things.length / 5);
    out.raw(new Uint8Array(things.buffer, things.byteOffset, things.byteLength));
  }
  return out.done();
}

/** @throws Error on anything else */
export function decodeCollision(bytes: Uint8Array): Collision {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  const kinds = file.many(file.u32(), file.text);
  const solids = file.many(file.u32(), (): CollisionSolid => {
    const id = file.text();
    const faces = file.many(file.u32(), () => ({ plane: file.many(4, file.f64) as [number, number, number, number], kind: file.u32() }));
    return { id, planes: faces.map(({ plane }) => plane), surfaces: faces.map(({ kind }) => kinds[kind - 1] ?? '') };
  });
  const grounds = file.many(file.u32(), (): CollisionGround => {
    const id = file.text();
    const origin: [number, number] = [file.f64(), file.f64()];
    const spacing = file.f64();
    const [nx, ny] = [file.u32(), file.u32()];
    const feels = file.many(file.u32(), () => kinds[file.u32() - 1] ?? '');
    const heights = new Float32Array(file.raw(nx * ny * 4).buffer);
    const covers = file.raw(nx * ny);
    const things = new Float64Array(file.raw(file.u32() * 5 * 8).buffer);
    return { id, origin, spacing, nx, ny, feels, heights, covers, things };
  });
  return { solids, grounds };
}
