/**
 * `terrain.bin`: how the ground is drawn. Little endian: "VCTE", u32 version 1, u32 grounds; per ground
 *
 *     id (text: u32 length, UTF-8), f64 origin x, y, f64 spacing, u32 samples along x, y
 *     u32 surfaces, each the name of its material and its kind (texts)
 *     u32 weights: width, height, stride in samples; u32 pictures (each a file `weights_ID_N.ktx2` beside this one)
 *     u32 light: width, height, stride; 0, 0, 0 where there is none (`daylight_ID.ktx2`)
 *     u32 levels, each f64 largest vertical distance from the samples
 *     u32 blocks, each u32 x, y, level, u32 vertices, u32 indices; then per vertex u16 i, j within the block and f32 height;
 *         then u16 indices, three a triangle, counter-clockwise seen from above; an odd number of indices is followed by two bytes of 0
 *     u32 kinds of things, each the path of its model (text), f64 radius, f64 height to which it stops players
 *     u32 clusters, each u32 kind, f32 centre x, y, z, f32 radius, u32 things, then eight f32 a thing:
 *         x, y, z, upright x, y, z, turn in degrees, scale; those that stay longest from afar come first
 *
 * Map space, units.
 */

import type { DaylightOutput } from '../ground/daylight.ts';
import { THING, type BuiltGround, type Cluster } from '../ground/stage.ts';
import { BLOCK, type BlockMesh } from '../../terrain/mesh/rightTriangles.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';

const MAGIC = 'VCTE';
const VERSION = 1;

export interface TerrainFile extends Pick<
  BuiltGround,
  'id' | 'nx' | 'ny' | 'origin' | 'spacing' | 'surfaces' | 'kinds' | 'bounds' | 'blocks' | 'clusters'
> {
  weights: { width: number; height: number; stride: number; pictures: number };
  light: { width: number; height: number; stride: number } | null;
}

export function encodeTerrains(grounds: readonly BuiltGround[], daylight: DaylightOutput | null): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  out.u32(grounds.length);
  for (const ground of grounds) {
    out.text(ground.id);
    ground.origin.forEach((v) => out.f64(v));
    out.f64(ground.spacing);
    out.u32(ground.nx);
    out.u32(ground.ny);
    out.u32(ground.surfaces.length);
    for (const { material, feel } of ground.surfaces) {
      out.text(material);
      out.text(feel);
    }
    const { width, height, stride, pictures } = ground.weights;
    [width, height, stride, pictures.length].forEach((v) => out.u32(v));
    const light = daylight?.grounds.find(({ id }) => id === ground.id);
    (light ? [light.width, light.height, light.stride] : [0, 0, 0]).forEach((v) => out.u32(v));
    out.u32(ground.bounds.length);
    ground.bounds.forEach((v) => out.f64(v));
    out.u32(ground.blocks.length);
    for (const block of ground.blocks) encodeBlock(out, block);
    out.u32(ground.kinds.length);
    for (const { model, radius, tall } of ground.kinds) {
      out.text(model);
      out.f64(radius);
      out.f64(tall);
    }
    out.u32(ground.clusters.length);
    for (const { kind, centre, radius, things } of ground.clusters) {
      out.u32(kind);
      centre.forEach((v) => out.f32(v));
      out.f32(radius);
      out.u32(things.length / THING);
      out.raw(new Uint8Array(things.buffer, things.byteOffset, things.byteLength));
    }
  }
  return out.done();
}

function encodeBlock(out: BinaryWriter, { x, y, level, vertices, indices }: BlockMesh): void {
  const count = vertices.length / 3;
  [x, y, level, count, indices.length].forEach((v) => out.u32(v));
  const bytes = new Uint8Array(count * 8);
  const view = new DataView(bytes.buffer);
  for (let k = 0; k < count; k++) {
    view.setUint16(k * 8, vertices[k * 3] - x * BLOCK, true);
    view.setUint16(k * 8 + 2, vertices[k * 3 + 1] - y * BLOCK, true);
    view.setFloat32(k * 8 + 4, vertices[k * 3 + 2], true);
  }
  out.raw(bytes);
  const numbers = new Uint8Array((indices.length + (indices.length % 2)) * 2);
  const shorts = new DataView(numbers.buffer);
  indices.forEach((v, k) => shorts.setUint16(k * 2, v, true));
  out.raw(numbers);
}

/** @throws Error on anything else */
export function decodeTerrains(bytes: Uint8Array): TerrainFile[] {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  return file.many(file.u32(), (): TerrainFile => {
    const id = file.text();
    const origin: [number, number] = [file.f64(), file.f64()];
    const spacing = file.f64();
    const [nx, ny] = [file.u32(), file.u32()];
    const surfaces = file.many(file.u32(), () => ({ material: file.text(), feel: file.text() }));
    const [width, height, stride, pictures] = file.many(4, file.u32);
    const [lightWidth, lightHeight, lightStride] = file.many(3, file.u32);
    const bounds = file.many(file.u32(), file.f64);
    const blocks = file.many(file.u32(), (): BlockMesh => decodeBlock(file));
    const kinds = file.many(file.u32(), () => ({ model: file.text(), radius: file.f64(), tall: file.f64() }));
    const clusters = file.many(file.u32(), (): Cluster => {
      const [kind, centre, radius] = [file.u32(), file.many(3, file.f32) as Cluster['centre'], file.f32()];
      const raw = file.raw(file.u32() * THING * 4);
      return { kind, centre, radius, things: new Float32Array(raw.buffer, raw.byteOffset, raw.byteLength / 4) };
    });
    return {
      id,
      origin,
      spacing,
      nx,
      ny,
      surfaces,
      weights: { width, height, stride, pictures },
      light: lightWidth > 0 ? { width: lightWidth, height: lightHeight, stride: lightStride } : null,
      bounds,
      blocks,
      kinds,
      clusters,
    };
  });
}

function decodeBlock(file: BinaryReader): BlockMesh {
  const [x, y, level, count, length] = file.many(5, file.u32);
  const raw = file.raw(count * 8);
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  const vertices = new Float32Array(count * 3);
  for (let k = 0; k < count; k++)
    vertices.set([x * BLOCK + view.getUint16(k * 8, true), y * BLOCK + view.getUint16(k * 8 + 2, true), view.getFloat32(k * 8 + 4, true)], k * 3);
  const numbers = file.raw((length + (length % 2)) * 2);
  const shorts = new DataView(numbers.buffer, numbers.byteOffset, numbers.byteLength);
  return { x, y, level, vertices, indices: Uint32Array.from({ length }, (_, k) => shorts.getUint16(k * 2, true)) };
}
