/**
 * `nav.bin`: where players walk. Little endian: "VCNV", u32 version 1, u32 vertices, u32 polygons, u32 links, u32 bytes
 * of Detour data; float32 x, y, z per vertex (map space, units); per polygon u32 corners, then per corner u32 vertex and
 * i32 polygon beyond the edge from there (-1 for none); per link float32 from x, y, z, to x, y, z, u32 area from, u32 area
 * to; then the navmesh as Detour reads it, y up.
 */

import type { Vec3 } from '../../math/vec3.ts';
import type { JumpLink } from '../navigation/jumps.ts';
import type { NavigationOutput } from '../navigation/stage.ts';
import { BinaryReader, BinaryWriter } from './binary.ts';

const MAGIC = 'VCNV';
const VERSION = 1;

export function encodeNavigation({ vertices, polygons, links, detour }: NavigationOutput): Uint8Array {
  const out = new BinaryWriter(MAGIC, VERSION);
  [vertices.length, polygons.length, links.length, detour.length].forEach((v) => out.u32(v));
  vertices.flat().forEach((v) => out.f32(v));
  for (const { corners, neighbours } of polygons) {
    out.u32(corners.length);
    corners.forEach((corner, i) => {
      out.u32(corner);
      out.i32(neighbours[i]);
    });
  }
  for (const link of links) {
    [...link.from, ...link.to].forEach((v) => out.f32(v));
    out.u32(link.fromArea);
    out.u32(link.toArea);
  }
  out.raw(detour);
  return out.done();
}

/** @throws Error on anything else */
export function decodeNavigation(bytes: Uint8Array): NavigationOutput {
  const file = new BinaryReader(bytes, MAGIC, VERSION);
  const [vertexCount, polygonCount, linkCount, detourBytes] = file.many(4, file.u32);
  const point = (): Vec3 => [file.f32(), file.f32(), file.f32()];
  const vertices = file.many(vertexCount, point);
  const polygons = file.many(polygonCount, () => {
    const pairs = file.many(file.u32(), () => [file.u32(), file.i32()]);
    return { corners: pairs.map((p) => p[0]), neighbours: pairs.map((p) => p[1]) };
  });
  const links = file.many(linkCount, (): JumpLink => ({ from: point(), to: point(), fromArea: file.u32(), toArea: file.u32() }));
  return { vertices, polygons, links, detour: file.raw(detourBytes) };
}
