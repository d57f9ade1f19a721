/**
 * The ground stage: meshes by error bound with levels of detail, which never change along the borders of blocks; what covers each
 * sample; and scattered things in clusters, farther ones thinned out, within the profile's budget.
 */

import type { Finding } from '../../finding.ts';
import { TILE, type Terrain, type Tile } from '../../document/schema.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { groundOf, type Ground } from '../../terrain/ground.ts';
import { farthest, RightTriangles, type BlockMesh } from '../../terrain/mesh/rightTriangles.ts';

export interface GroundInputs {
  terrains: Record<string, Terrain>;
  tiles: Record<string, Tile>;
  /** Kind of surface by material, empty where none is stated. */
  feels: Record<string, string>;
  /** Things that one map may have; null without a budget. */
  mostThings: number | null;
  parameters: { groundError: number; groundLevels: number };
}

/** Things that are drawn together: of one kind, near each other. */
export interface Cluster {
  kind: number;
  centre: Vec3;
  radius: number;
  /** Eight numbers each: x, y, z, then the upright x, y, z, turn in degrees, scale. Those that stay longest from afar come first. */
  things: Float32Array;
}

export interface BuiltGround {
  id: string;
  nx: number;
  ny: number;
  origin: [number, number];
  spacing: number;
  heights: Float32Array;
  /** Number of the surface that covers most of a sample; `HOLE` where the quad from there on is not there. */
  covers: Uint8Array;
  surfaces: { material: string; feel: string }[];
  kinds: { model: string; radius: number; tall: number }[];
  /** Weights of up to eight surfaces, four to a picture, row by row from the least y; one texel every `stride` samples. */
  weights: { width: number; height: number; stride: number; pictures: Uint8Array[] };
  /** Largest vertical distance of each level, units: what was asked for, and what it came to. */
  bounds: number[];
  farthest: number[];
  blocks: BlockMesh[];
  clusters: Cluster[];
}

export interface GroundOutput {
  grounds: BuiltGround[];
}

export const HOLE = 255;

/** Numbers per thing of a cluster. */
export const THING = 8;

/** Side of a cluster of things, in quads. */
const CLUSTER = TILE / 4;

/** Longest side of a picture of weights. */
const WEIGHTS_SIDE = 2048;

/** How much coarser each level is than the one before. */
const COARSER = 4;

export function buildGround(inputs: GroundInputs, onProgress: (fraction: number) => void): GroundOutput {
  const ids = Object.keys(inputs.terrains);
  return { grounds: ids.map((id, n) => builtGround(inputs, groundOf(inputs, id)!, (f) => onProgress((n + f) / ids.length))) };
}

function builtGround({ feels, parameters }: GroundInputs, ground: Ground, onProgress: (fraction: number) => void): BuiltGround {
  const { terrain, nx, ny } = ground;
  const bounds = Array.from({ length: parameters.groundLevels }, (_, level) => parameters.groundError * COARSER ** level);
  const blocks = new RightTriangles(ground).meshes(bounds, (f) => onProgress(f * 0.6));
  const { weights, covers } = coverOf(ground);
  onProgress(0.9);
  return {
    id: ground.id,
    nx,
    ny,
    origin: terrain.origin,
    spacing: terrain.spacing,
    heights: ground.grid(),
    covers,
    surfaces: terrain.surfaces.map(({ material }) => ({ material, feel: feels[material] ?? '' })),
    kinds: terrain.things.map(({ model, radius, tall }) => ({ model, radius, tall })),
    weights,
    bounds,
    farthest: bounds.map((_, level) =>
      farthest(
        ground,
        blocks.filter((block) => block.level === level),
      ),
    ),
    blocks,
    clusters: clustersOf(ground),
  };
}

function coverOf(ground: Ground): Pick<BuiltGround, 'weights' | 'covers'> {
  const { nx, ny, terrain } = ground;
  const stride = 2 ** Math.max(0, Math.ceil(Math.log2((Math.max(nx, ny) - 1) / WEIGHTS_SIDE)));
  const [width, height] = [Math.ceil((nx - 1) / stride) + 1, Math.ceil((ny - 1) / stride) + 1];
  const count = terrain.surfaces.length;
  const pictures = Array.from({ length: Math.ceil(count / 4) }, () => new Uint8Array(width * height * 4));
  const covers = new Uint8Array(nx * ny);
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const weights = ground.weightsAt(i, j);
      const most = weights.reduce((best, w, k) => (w > weights[best] ? k : best), 0);
      covers[j * nx + i] = i < nx - 1 && j < ny - 1 && !ground.isThere(i, j) ? HOLE : most;
      // The last row and column are texels whatever the stride.
      const [column, row] = [i === nx - 1 ? width - 1 : i / stride, j === ny - 1 ? height - 1 : j / stride];
      if (!Number.isInteger(column) || !Number.isInteger(row)) continue;
      for (let k = 0; k < count; k++) pictures[k >> 2][(row * width + column) * 4 + (k & 3)] = Math.round(weights[k] * 255);
    }
  return { weights: { width, height, stride, pictures }, covers };
}

function clustersOf(ground: Ground): Cluster[] {
  const groups = new Map<string, number[][]>();
  for (let number = 0; number < ground.tiles.length; number++)
    for (const { kind, position, up, turn, scale } of ground.thingsOn(number)) {
      const [u, v] = ground.sampleOf(position[0], position[1]);
      const key = `${kind}/${Math.floor(u / CLUSTER)}/${Math.floor(v / CLUSTER)}`;
      const row = [...position, ...up, turn, scale];
      const list = groups.get(key);
      if (list) list.push(row);
      else groups.set(key, [row]);
    }
  return [...groups].map(([key, rows]) => {
    // Whoever draws only the first of a cluster from afar draws an even choice: by a hash of the place, large ones before small.
    const rank = ([x, y]: readonly number[]) =>
      ((Math.imul(Math.round(x * 64), 374761393) ^ Math.imul(Math.round(y * 64), 668265263)) >>> 0) / 2 ** 32;
    const sorted = rows.map((row) => ({ row, rank: rank(row) - row[7] * 0.5 })).sort((a, b) => a.rank - b.rank);
    const centre = [0, 1, 2].map((k) => rows.reduce((sum, row) => sum + row[k], 0) / rows.length) as Vec3;
    return {
      kind: Number(key.split('/')[0]),
      centre,
      radius: Math.max(...rows.map((row) => Math.hypot(row[0] - centre[0], row[1] - centre[1], row[2] - centre[2]))),
      things: Float32Array.from(sorted.flatMap(({ row }) => row)),
    };
  });
}

export const thingsOf = ({ clusters }: Pick<BuiltGround, 'clusters'>): number => clusters.reduce((sum, { things }) => sum + things.length / THING, 0);

export function groundFindings({ grounds }: GroundOutput, { mostThings, terrains }: GroundInputs, mapName: string): Finding[] {
  const things = grounds.reduce((sum, ground) => sum + thingsOf(ground), 0);
  if (mostThings === null || things <= mostThings) return [];
  const [rule] = Object.values(terrains).flatMap(({ scatter }) => Object.values(scatter).map(({ name }) => `what “${name}” makes`));
  return [
    {
      code: 'things-many',
      severity: 'warning',
      stage: 'map',
      message: `${things.toLocaleString('en')} scattered things stand on the ground; the game is made for ${mostThings.toLocaleString('en')}.`,
      hint: `Let ${rule ?? 'them'} grow farther apart, and rebuild.`,
      place: { map: mapName },
    },
  ];
}

/** Triangles of one level in map space, nine numbers each. */
export function groundTriangles({ blocks, origin, spacing }: Pick<BuiltGround, 'blocks' | 'origin' | 'spacing'>, level: number): Float32Array {
  const own = blocks.filter((block) => block.level === level);
  const out = new Float32Array(own.reduce((sum, { indices }) => sum + indices.length * 3, 0));
  let at = 0;
  for (const { vertices, indices } of own)
    for (const k of indices) {
      out[at++] = origin[0] + vertices[k * 3] * spacing;
      out[at++] = origin[1] + vertices[k * 3 + 1] * spacing;
      out[at++] = vertices[k * 3 + 2];
    }
  return out;
}
