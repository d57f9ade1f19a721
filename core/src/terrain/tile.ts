/** Tiles as numbers, read once for every value of a tile: an edit makes a new value of what it changes and of nothing else. */

import { TILE, type Terrain, type Tile } from '../document/schema.ts';
import { packBytes, packNumbers, packThings, TILE_SAMPLES, unpackBytes, unpackNumbers, unpackThings, type TileThing } from './pack.ts';

/** The id of a tile, the same for everyone: two people who touch one tile touch one member. */
export const tileId = (terrain: string, x: number, y: number): string => `${terrain}_${x}_${y}`;

/** Tiles along x and y. The last row of samples of 128 n + 1 has a tile of its own. */
export const tilesAlong = (samples: number): number => Math.ceil(samples / TILE);

type Frame = Pick<Terrain, 'range' | 'depth' | 'base'>;

const bits = new DataView(new ArrayBuffer(4));

const toNumber = (height: number, { range: [low, high], depth }: Frame): number => {
  if (depth === 'u16') return Math.round(Math.min(1, Math.max(0, (height - low) / (high - low))) * 65535);
  bits.setFloat32(0, height);
  return bits.getUint32(0);
};

const toHeight = (value: number, { range: [low, high], depth }: Frame): number => {
  if (depth === 'u16') return low + ((high - low) * value) / 65535;
  bits.setUint32(0, value);
  return bits.getFloat32(0);
};

/** The height that is left of one when it is kept in a tile. */
export const kept = (height: number, frame: Frame): number => Math.fround(toHeight(toNumber(height, frame), frame));

const heightsOf = new WeakMap<Tile, { frame: string; heights: Float32Array }>();

const frameKey = ({ range, depth, base }: Frame): string => `${range.join()} ${depth} ${base}`;

/** Heights of a tile in units, row by row; null where it has none of its own or they are damaged. Not to be written to. */
export function tileHeights(tile: Tile, frame: Frame): Float32Array | null {
  if (tile.heights === undefined) return null;
  const key = frameKey(frame);
  const known = heightsOf.get(tile);
  if (known?.frame === key) return known.heights;
  const numbers = unpackNumbers(tile.heights, frame.depth);
  if (!numbers) return null;
  const heights = new Float32Array(TILE_SAMPLES);
  for (let i = 0; i < TILE_SAMPLES; i++) {
    const height = toHeight(numbers[i], frame);
    // A number that is none would spread into everything that is computed from it.
    heights[i] = Number.isFinite(height) ? height : frame.base;
  }
  heightsOf.set(tile, { frame: key, heights });
  return heights;
}

/** A tile with other heights, which it keeps as near as its depth allows. */
export function withHeights(tile: Tile, heights: Float32Array, frame: Frame): Tile {
  const numbers = new Uint32Array(TILE_SAMPLES);
  const rounded = new Float32Array(TILE_SAMPLES);
  if (frame.depth === 'f32') {
    rounded.set(heights);
    numbers.set(new Uint32Array(rounded.buffer));
  } else
    for (let i = 0; i < TILE_SAMPLES; i++) {
      numbers[i] = toNumber(heights[i], frame);
      rounded[i] = toHeight(numbers[i], frame);
    }
  const next: Tile = { ...tile, heights: packNumbers(numbers, frame.depth) };
  heightsOf.set(next, { frame: frameKey(frame), heights: rounded });
  return next;
}

const bytesOf = new WeakMap<Tile, Map<string, Uint8Array | null>>();

/** One of a tile's layers of bytes, 0..255 per sample; null where it has none. Not to be written to. */
export function tileBytes(tile: Tile, of: 'hand' | 'ruled' | 'holes' | 'guard', surface = ''): Uint8Array | null {
  const text = of === 'hand' || of === 'ruled' ? tile[of]?.[surface] : tile[of];
  if (text === undefined) return null;
  let known = bytesOf.get(tile);
  if (!known) bytesOf.set(tile, (known = new Map()));
  const key = `${of}/${surface}`;
  if (!known.has(key)) known.set(key, unpackBytes(text, TILE_SAMPLES));
  return known.get(key)!;
}

const isZero = (bytes: Uint8Array): boolean => bytes.every((v) => v === 0);

/** The tile with another mask; one of zeros is left out. */
export function withMask(tile: Tile, of: 'holes' | 'guard', bytes: Uint8Array): Tile {
  const { [of]: _gone, ...rest } = tile;
  return isZero(bytes) ? rest : { ...rest, [of]: packBytes(bytes) };
}

/** The tile with other weights of surfaces; those of zeros are left out. */
export function withWeights(tile: Tile, of: 'hand' | 'ruled', weights: Readonly<Record<string, Uint8Array>>): Tile {
  const { [of]: _gone, ...rest } = tile;
  const packed = Object.fromEntries(Object.entries(weights).flatMap(([surface, bytes]) => (isZero(bytes) ? [] : [[surface, packBytes(bytes)]])));
  return Object.keys(packed).length > 0 ? { ...rest, [of]: packed } : rest;
}

const thingsOf = new WeakMap<Tile, Map<string, TileThing[]>>();

/** Things on a tile, by hand or by rule. */
export function tileThings(tile: Tile, of: 'placed' | 'grown'): readonly TileThing[] {
  const text = tile[of];
  if (text === undefined) return [];
  let known = thingsOf.get(tile);
  if (!known) thingsOf.set(tile, (known = new Map()));
  if (!known.has(of)) known.set(of, unpackThings(text) ?? []);
  return known.get(of)!;
}

export function withThings(tile: Tile, of: 'placed' | 'grown', things: readonly TileThing[]): Tile {
  const { [of]: _gone, ...rest } = tile;
  return things.length > 0 ? { ...rest, [of]: packThings(things) } : rest;
}

/** What of a tile cannot be read, in words; empty where all is well. */
export function tileDamage(tile: Tile, terrain: Terrain): string[] {
  const damaged: string[] = [];
  if (tile.heights !== undefined && !tileHeights(tile, terrain)) damaged.push('heights');
  for (const one of ['hand', 'ruled'] as const)
    for (const surface of Object.keys(tile[one] ?? {})) if (!tileBytes(tile, one, surface)) damaged.push(`weights of ${surface}`);
  for (const one of ['holes', 'guard'] as const) if (tile[one] !== undefined && !tileBytes(tile, one)) damaged.push(one);
  for (const one of ['placed', 'grown'] as const) if (tile[one] !== undefined && !unpackThings(tile[one])) damaged.push('things');
  return damaged;
}
