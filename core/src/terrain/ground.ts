/** The ground of one terrain as it is looked at: samples by tile, without a copy of them all. */

import { TILE, type GameMap, type Terrain, type Tile } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import { normalise, type Vec3 } from '../math/vec3.ts';
import { own } from '../own.ts';
import { HeightField } from './heightField.ts';
import { TILE_SAMPLES } from './pack.ts';
import { tileBytes, tileHeights, tileId, tilesAlong, tileThings } from './tile.ts';

const SHIFT = Math.log2(TILE);
const MASK = TILE - 1;

/** A rectangle of samples, both ends included. */
export interface Patch {
  i0: number;
  j0: number;
  i1: number;
  j1: number;
}

export class Ground extends HeightField {
  readonly tilesX: number;
  readonly tilesY: number;

  constructor(
    readonly id: string,
    readonly terrain: Terrain,
    /** By number: y · tilesX + x; undefined where the map has none. */
    readonly tiles: readonly (Tile | undefined)[],
    private readonly heights: readonly (Float32Array | null)[],
  ) {
    super(terrain.samples[0], terrain.samples[1], terrain.origin, terrain.spacing);
    this.tilesX = tilesAlong(this.nx);
    this.tilesY = tilesAlong(this.ny);
  }

  /** The same ground with some tiles' heights as they are being changed. */
  with(changed: ReadonlyMap<number, Float32Array>): Ground {
    const heights = [...this.heights];
    for (const [number, own] of changed) heights[number] = own;
    return new Ground(this.id, this.terrain, this.tiles, heights);
  }

  /** Height of a sample, which is held within the ground. */
  at(i: number, j: number): number {
    const x = i < 0 ? 0 : i >= this.nx ? this.nx - 1 : i;
    const y = j < 0 ? 0 : j >= this.ny ? this.ny - 1 : j;
    const tile = this.heights[(y >> SHIFT) * this.tilesX + (x >> SHIFT)];
    return tile ? tile[((y & MASK) << SHIFT) | (x & MASK)] : this.terrain.base;
  }

  tileAt(x: number, y: number): Float32Array | null {
    return this.heights[y * this.tilesX + x] ?? null;
  }

  /** Whether the quad from sample (i, j) on is there. */
  isThere(i: number, j: number): boolean {
    if (i < 0 || j < 0 || i >= this.nx - 1 || j >= this.ny - 1) return false;
    const tile = this.tiles[(j >> SHIFT) * this.tilesX + (i >> SHIFT)];
    if (tile?.holes === undefined) return true;
    return !tileBytes(tile, 'holes')?.[((j & MASK) << SHIFT) | (i & MASK)];
  }

  /** All heights, row by row. */
  grid(): Float32Array {
    const out = new Float32Array(this.nx * this.ny);
    for (let j = 0; j < this.ny; j++)
      for (let x = 0; x < this.tilesX; x++) {
        const tile = this.heights[(j >> SHIFT) * this.tilesX + x];
        const [from, to] = [x * TILE, Math.min(this.nx, (x + 1) * TILE)];
        if (tile) out.set(tile.subarray((j & MASK) << SHIFT, ((j & MASK) << SHIFT) + to - from), j * this.nx + from);
        else out.fill(this.terrain.base, j * this.nx + from, j * this.nx + to);
      }
    return out;
  }

  /** Lowest and highest sample; remembered by tile. */
  get reach(): [number, number] {
    let [low, high] = [Infinity, -Infinity];
    this.heights.forEach((tile, number) => {
      const x = number % this.tilesX;
      const [a, b] = tile
        ? reachOf(tile, Math.min(TILE, this.nx - x * TILE), Math.min(TILE, this.ny - ((number - x) / this.tilesX) * TILE))
        : [this.terrain.base, this.terrain.base];
      low = Math.min(low, a);
      high = Math.max(high, b);
    });
    return [low, high];
  }

  get box(): Box3 {
    const [low, high] = this.reach;
    return { min: [...this.pointOf(0, 0), low], max: [...this.pointOf(this.nx - 1, this.ny - 1), high] };
  }

  /** Weights of all surfaces at a sample, in the terrain's order, summing to 1. What was painted lies on what rules gave. */
  weightsAt(i: number, j: number): number[] {
    const { surfaces } = this.terrain;
    const tile = this.tiles[(j >> SHIFT) * this.tilesX + (i >> SHIFT)];
    const out = new Array<number>(surfaces.length).fill(0);
    if (!tile?.hand && !tile?.ruled) {
      out[0] = 1;
      return out;
    }
    const at = ((j & MASK) << SHIFT) | (i & MASK);
    const layer = (of: 'hand' | 'ruled', within: number): number => {
      const own = surfaces.map(({ id }) => (tile[of]?.[id] === undefined ? 0 : (tileBytes(tile, of, id)?.[at] ?? 0)));
      const sum = own.reduce((a, b) => a + b, 0);
      const covered = Math.min(1, sum / 255) * within;
      if (sum > 0) own.forEach((w, k) => (out[k] += (w / sum) * covered));
      return within - covered;
    };
    out[0] += layer('ruled', layer('hand', 1));
    return out;
  }

  /** Number of the surface that covers most of the ground about a point. */
  surfaceAt(x: number, y: number): number {
    const [u, v] = this.sampleOf(x, y);
    const weights = this.weightsAt(Math.min(this.nx - 1, Math.max(0, Math.round(u))), Math.min(this.ny - 1, Math.max(0, Math.round(v))));
    return weights.indexOf(Math.max(...weights));
  }

  /** Everything that stands on a tile, by hand and by rule. */
  thingsOn(number: number): GroundThing[] {
    const tile = this.tiles[number];
    if (!tile) return [];
    const { things } = this.terrain;
    return (['placed', 'grown'] as const).flatMap((of) =>
      tileThings(tile, of).flatMap(({ kind, x, y, turn, size }): GroundThing[] => {
        const thing = things[kind];
        if (!thing) return [];
        const [px, py] = this.pointOf(tile.x * TILE + x, tile.y * TILE + y);
        const height = this.heightAt(px, py);
        if (height === null) return [];
        const scale = thing.size[0] + (thing.size[1] - thing.size[0]) * size;
        const up = this.normalAt(px, py);
        const { lean } = thing;
        return [
          {
            kind,
            position: [px, py, height - thing.sink],
            turn: turn * 360,
            scale,
            up: normalise([up[0] * lean, up[1] * lean, 1 + (up[2] - 1) * lean]),
          },
        ];
      }),
    );
  }
}

/** A thing where it stands. */
export interface GroundThing {
  /** Number of its kind in the terrain. */
  kind: number;
  position: Vec3;
  /** Degrees about its own upright. */
  turn: number;
  scale: number;
  up: Vec3;
}

const reaches = new WeakMap<Float32Array, [number, number]>();

function reachOf(tile: Float32Array, w: number, h: number): [number, number] {
  const known = reaches.get(tile);
  if (known) return known;
  let [low, high] = [Infinity, -Infinity];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const v = tile[y * TILE + x];
      if (v < low) low = v;
      if (v > high) high = v;
    }
  reaches.set(tile, [low, high]);
  return [low, high];
}

/** To be called when heights were written to in place. */
export const changedHeights = (heights: Float32Array): void => void reaches.delete(heights);

/** Heights of a tile to be written to; where it has none, the terrain's base. */
export function ownHeights(ground: Ground, number: number): Float32Array {
  const there = ground.tileAt(number % ground.tilesX, Math.floor(number / ground.tilesX));
  return there ? Float32Array.from(there) : new Float32Array(TILE_SAMPLES).fill(ground.terrain.base);
}

const grounds = new WeakMap<Record<string, Tile>, Map<string, Ground>>();

/** The ground of a terrain; null where the map has none of that id. Remembered as long as its tiles are the same. */
export function groundOf(map: Pick<GameMap, 'terrains' | 'tiles'>, id: string): Ground | null {
  const terrain = own(map.terrains, id);
  if (!terrain) return null;
  let known = grounds.get(map.tiles);
  if (!known) grounds.set(map.tiles, (known = new Map()));
  const there = known.get(id);
  if (there?.terrain === terrain) return there;
  const [tx, ty] = terrain.samples.map(tilesAlong);
  const tiles = Array.from({ length: tx * ty }, (_, n) => own(map.tiles, tileId(id, n % tx, Math.floor(n / tx))));
  const ground = new Ground(
    id,
    terrain,
    tiles,
    tiles.map((tile) => (tile ? tileHeights(tile, terrain) : null)),
  );
  known.set(id, ground);
  return ground;
}

/** All grounds of a map. */
export const groundsOf = (map: Pick<GameMap, 'terrains' | 'tiles'>): Ground[] => Object.keys(map.terrains).map((id) => groundOf(map, id)!);

/** The highest ground over a point, with its height; null where there is none. */
export function groundBelow(grounds: readonly Ground[], x: number, y: number): { ground: Ground; height: number } | null {
  let best: { ground: Ground; height: number } | null = null;
  for (const ground of grounds) {
    const height = ground.heightAt(x, y);
    if (height !== null && (!best || height > best.height)) best = { ground, height };
  }
  return best;
}
