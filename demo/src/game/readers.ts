/**
 * Readers of a stand-in game, written against docs/formats.md and nothing else: if something cannot be read here, the
 * documentation says too little.
 */

export class Refusal extends Error {
  override name = 'Refusal';
}

class Reader {
  private at = 0;
  private readonly view: DataView;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly file: string,
    magic: string,
    version: number,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const own = String.fromCharCode(...bytes.subarray(0, 4));
    if (own !== magic) throw new Refusal(`${file}: begins with "${own.replace(/[^ -~]/g, '?')}", not with ${magic}`);
    this.at = 4;
    const found = this.u32();
    if (found !== version) throw new Refusal(`${file}: version ${found}, this game reads ${version}`);
  }

  private take(size: number): number {
    if (this.at + size > this.bytes.length) throw new Refusal(`${this.file}: ends at byte ${this.bytes.length} in the middle of something`);
    this.at += size;
    return this.at - size;
  }
  u32 = (): number => this.view.getUint32(this.take(4), true);
  i32 = (): number => this.view.getInt32(this.take(4), true);
  f32 = (): number => this.view.getFloat32(this.take(4), true);
  f64 = (): number => this.view.getFloat64(this.take(8), true);
  text = (): string => new TextDecoder().decode(this.bytes.subarray(this.take(this.u32()), this.at));
  many<T>(count: number, one: () => T): T[] {
    // A count from a damaged file may be anything; what is read in a row ends with the file.
    const list: T[] = [];
    for (let i = 0; i < count; i++) list.push(one());
    return list;
  }
  raw = (size: number): Uint8Array => this.bytes.subarray(this.take(size), this.at);
  skip = (size: number): void => void this.take(size);
  end(): void {
    if (this.at !== this.bytes.length) throw new Refusal(`${this.file}: ${this.bytes.length - this.at} bytes too many at its end`);
  }
}

export type Plane = [number, number, number, number];
export interface CollisionSolid {
  id: string;
  planes: Plane[];
}

/** A ground to stand on: heights row by row from the least y. */
export interface CollisionGround {
  id: string;
  origin: [number, number];
  spacing: number;
  nx: number;
  ny: number;
  heights: number[];
  /** By quad: the surface on top, 255 for a hole. */
  covers: Uint8Array;
}

export function readCollision(bytes: Uint8Array): { solids: CollisionSolid[]; grounds: CollisionGround[] } {
  const file = new Reader(bytes, 'collision.bin', 'VCCO', 3);
  file.many(file.u32(), file.text);
  const solids = file.many(file.u32(), () => ({
    id: file.text(),
    planes: file.many(file.u32(), (): Plane => {
      const plane: Plane = [file.f64(), file.f64(), file.f64(), file.f64()];
      file.u32();
      return plane;
    }),
  }));
  const grounds = file.many(file.u32(), (): CollisionGround => {
    const id = file.text();
    const origin: [number, number] = [file.f64(), file.f64()];
    const spacing = file.f64();
    const [nx, ny] = [file.u32(), file.u32()];
    file.skip(file.u32() * 4);
    const heights = file.many(nx * ny, file.f32);
    const covers = file.raw(nx * ny);
    file.skip(file.u32() * 40);
    return { id, origin, spacing, nx, ny, heights, covers };
  });
  file.end();
  return { solids, grounds };
}

/** How high the ground is at a place; null beside it and over a hole. */
export function heightOn({ origin, spacing, nx, ny, heights, covers }: CollisionGround, x: number, y: number): number | null {
  const [u, v] = [(x - origin[0]) / spacing, (y - origin[1]) / spacing];
  if (!(u >= 0 && v >= 0 && u <= nx - 1 && v <= ny - 1)) return null;
  const [i, j] = [Math.min(nx - 2, Math.floor(u)), Math.min(ny - 2, Math.floor(v))];
  const k = j * nx + i;
  if (covers[k] === 255) return null;
  const [s, t] = [u - i, v - j];
  const [east, north] = [heights[k + 1], heights[k + nx]];
  return s + t <= 1
    ? heights[k] + s * (east - heights[k]) + t * (north - heights[k])
    : heights[k + nx + 1] + (1 - s) * (north - heights[k + nx + 1]) + (1 - t) * (east - heights[k + nx + 1]);
}

/** What there is of each ground to draw. */
export function readTerrain(bytes: Uint8Array): { id: string; triangles: number; things: number }[] {
  const file = new Reader(bytes, 'terrain.bin', 'VCTE', 1);
  const grounds = file.many(file.u32(), () => {
    const id = file.text();
    file.skip(24 + 8);
    file.many(file.u32(), () => [file.text(), file.text()]);
    file.skip(4 * 4 + 3 * 4);
    file.skip(file.u32() * 8);
    const blocks = file.many(file.u32(), () => {
      file.skip(12);
      const [vertices, indices] = [file.u32(), file.u32()];
      file.skip(vertices * 8 + (indices + (indices % 2)) * 2);
      return indices / 3;
    });
    file.many(file.u32(), () => [file.text(), file.skip(16)]);
    const clusters = file.many(file.u32(), () => {
      file.skip(4 + 16);
      const things = file.u32();
      file.skip(things * 32);
      return things;
    });
    const sum = (list: number[]): number => list.reduce((a, b) => a + b, 0);
    return { id, triangles: sum(blocks), things: sum(clusters) };
  });
  file.end();
  return grounds;
}

export function readVisibility(bytes: Uint8Array): { sectors: number; groups: number } {
  const file = new Reader(bytes, 'visibility.bin', 'VCVS', 1);
  const [nodes, leaves, sectors, groups] = [file.u32(), file.u32(), file.u32(), file.u32()];
  file.skip(nodes * (4 * 8 + 2 * 4) + leaves * 4 + sectors * Math.ceil(sectors / 32) * 4);
  file.many(groups, () => file.many(file.u32(), file.u32));
  file.end();
  return { sectors, groups };
}

export function readNavigation(bytes: Uint8Array): { polygons: number; links: number } {
  const file = new Reader(bytes, 'nav.bin', 'VCNV', 1);
  const [vertices, polygons, links, detour] = [file.u32(), file.u32(), file.u32(), file.u32()];
  file.skip(vertices * 12);
  file.many(polygons, () => file.skip(file.u32() * 8));
  file.skip(links * 32 + detour);
  file.end();
  return { polygons, links };
}

export function readProbes(bytes: Uint8Array): number {
  const file = new Reader(bytes, 'probes.bin', 'VCPR', 1);
  file.skip(16);
  const count = file.u32() * file.u32() * file.u32();
  file.skip(count * (4 + 12 * 4));
  file.end();
  return count;
}

/** KTX 2.0 (Khronos): identifier, header, and levels within the file. Answers its size in pixels. */
export function readKtx2(bytes: Uint8Array, name: string): { width: number; height: number; levels: number } {
  const identifier = [0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, 0x0d, 0x0a, 0x1a, 0x0a];
  if (!identifier.every((v, i) => bytes[i] === v)) throw new Refusal(`${name}: is no KTX 2.0 picture`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const u32 = (at: number): number => {
    if (at + 4 > bytes.length) throw new Refusal(`${name}: its header is cut off`);
    return view.getUint32(at, true);
  };
  const [width, height, levels] = [u32(20), u32(24), Math.max(1, u32(40))];
  for (let i = 0; i < levels; i++) {
    const [offset, length] = [u32(80 + i * 24), u32(80 + i * 24 + 8)];
    if (offset + length > bytes.length) throw new Refusal(`${name}: level ${i} lies beyond the end of the file`);
  }
  return { width, height, levels };
}

interface Gltf {
  asset?: { version?: string };
  accessors?: { bufferView?: number; byteOffset?: number; count: number; componentType: number; type: string }[];
  bufferViews?: { byteOffset?: number; byteLength: number; byteStride?: number }[];
  images?: { bufferView?: number; mimeType?: string }[];
  meshes?: { primitives: { indices?: number; attributes: Record<string, number> }[] }[];
  nodes?: { extras?: { object?: string; model?: string; group?: number } }[];
}
const COMPONENT: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const WIDTH: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };

/** GLB (glTF 2.0, section 4.4): chunks, and that everything it refers to lies in the file. */
export function readGlb(bytes: Uint8Array, name: string): { triangles: number; gltf: Gltf; pictures: number } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67) throw new Refusal(`${name}: is no GLB`);
  if (view.getUint32(4, true) !== 2) throw new Refusal(`${name}: is glTF ${view.getUint32(4, true)}, this game reads 2`);
  if (view.getUint32(8, true) !== bytes.length) throw new Refusal(`${name}: says it has ${view.getUint32(8, true)} bytes, it has ${bytes.length}`);
  const jsonLength = view.getUint32(12, true);
  if (20 + jsonLength > bytes.length) throw new Refusal(`${name}: its first chunk is longer than the file`);
  const gltf = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + jsonLength))) as Gltf;
  const at = 20 + jsonLength;
  const binary = at + 8 <= bytes.length ? bytes.subarray(at + 8, at + 8 + view.getUint32(at, true)) : new Uint8Array(0);
  const views = gltf.bufferViews ?? [];
  for (const [i, { byteOffset = 0, byteLength }] of views.entries())
    if (byteOffset + byteLength > binary.length) throw new Refusal(`${name}: buffer view ${i} lies beyond its data`);
  for (const [i, accessor] of (gltf.accessors ?? []).entries()) {
    if (accessor.bufferView === undefined) continue;
    const own = views[accessor.bufferView];
    const size = COMPONENT[accessor.componentType] * WIDTH[accessor.type];
    const stride = own?.byteStride ?? size;
    if (!own || !(size > 0) || (accessor.byteOffset ?? 0) + (accessor.count - 1) * stride + size > own.byteLength)
      throw new Refusal(`${name}: accessor ${i} lies beyond its buffer view`);
  }
  let pictures = 0;
  for (const [i, image] of (gltf.images ?? []).entries()) {
    if (image.bufferView === undefined) continue;
    const { byteOffset = 0, byteLength } = views[image.bufferView];
    const picture = binary.subarray(byteOffset, byteOffset + byteLength);
    if (image.mimeType === 'image/ktx2') readKtx2(picture, `${name}, picture ${i}`);
    pictures++;
  }
  const triangles = (gltf.meshes ?? []).reduce(
    (sum, mesh) => sum + mesh.primitives.reduce((n, p) => n + Math.floor((gltf.accessors![p.indices ?? p.attributes.POSITION]?.count ?? 0) / 3), 0),
    0,
  );
  return { triangles, gltf, pictures };
}
