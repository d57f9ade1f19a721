/**
 * One stroke of a brush: it follows the pointer in even dabs, changes copies of the tiles that it touches, and ends in the changes of
 * an edit. Its cost follows the radius, not the size of the terrain.
 */

import { TILE, type Tile } from '../../document/schema.ts';
import type { Change } from '../../document/edit.ts';
import { canonicalJson } from '../../hash.ts';
import { chance } from '../../math/chance.ts';
import { erodeGrid } from '../erode.ts';
import { changedHeights, ownHeights, type Ground } from '../ground.ts';
import { noiseOf } from '../noise.ts';
import { TILE_SAMPLES, type TileThing } from '../pack.ts';
import { gradient, slopeOfGradient } from '../relief.ts';
import { tileBytes, tileId, tileThings, withHeights, withMask, withThings, withWeights } from '../tile.ts';
import { BRUSHES, reachAt, type BrushKind, type BrushSettings } from './brush.ts';

/** Dabs along a radius: strokes look the same however fast the pointer moves. */
const DABS = 4;

/** Most dabs for one move of the pointer: a jump across a map must not stop the page. */
const MOST_DABS = 64;

/** Share of the radius that one dab of full strength raises. */
const RISE = 0.08;

type Weights = Record<string, Uint8Array>;

export class Stroke {
  private readonly heights = new Map<number, Float32Array>();
  private readonly hand = new Map<number, Weights>();
  private readonly masks = new Map<number, Uint8Array>();
  private readonly things = new Map<number, { placed: TileThing[]; grown: TileThing[] }>();
  private readonly roughness: ((x: number, y: number) => number) | null;
  private readonly random: () => number;
  private last: [number, number] | null = null;
  private begin: { x: number; y: number; height: number } | null = null;
  /** The ground as the stroke has made it so far. */
  ground: Ground;

  constructor(
    private readonly before: Ground,
    private readonly kind: BrushKind,
    private readonly settings: BrushSettings,
  ) {
    this.ground = before;
    this.roughness = kind === 'roughen' ? noiseOf(settings.seed, settings.size) : null;
    this.random = chance(settings.seed);
  }

  /** The brush comes to a point of the map, units. */
  to(x: number, y: number): void {
    const { terrain } = this.before;
    if (this.settings.snap) {
      const [u, v] = this.before.sampleOf(x, y);
      [x, y] = this.before.pointOf(Math.round(u), Math.round(v));
    }
    if (!this.last || !this.begin) {
      this.begin = { x, y, height: this.before.heightAt(x, y) ?? terrain.base };
      this.last = [x, y];
      this.dabs(x, y);
      return;
    }
    if (this.kind === 'stamp') return;
    const [fromX, fromY] = this.last;
    const spacing = this.settings.radius / DABS;
    const far = Math.hypot(x - fromX, y - fromY);
    const count = Math.min(MOST_DABS, Math.floor(far / spacing));
    for (let n = 1; n <= count; n++) {
      const t = count < MOST_DABS ? (n * spacing) / far : n / count;
      const at: [number, number] = [fromX + (x - fromX) * t, fromY + (y - fromY) * t];
      this.dabs(...at);
      this.last = at;
    }
  }

  /** Stays where it is: what heaps up goes on heaping up. */
  hold(): void {
    if (this.last && this.kind !== 'stamp') this.dabs(...this.last);
  }

  /** Numbers of the tiles that it has touched. */
  get touched(): Set<number> {
    return new Set([...this.heights.keys(), ...this.hand.keys(), ...this.masks.keys(), ...this.things.keys()]);
  }

  /** What the stroke changes, tile by tile. */
  finish(): Change[] {
    const { terrain, id, tilesX, tiles } = this.before;
    return [...this.touched].flatMap((number): Change[] => {
      const [x, y] = [number % tilesX, Math.floor(number / tilesX)];
      const there = tiles[number];
      let tile: Tile = there ?? { terrain: id, x, y };
      const heights = this.heights.get(number);
      if (heights) tile = withHeights(tile, heights, terrain);
      const hand = this.hand.get(number);
      if (hand) tile = withWeights(tile, 'hand', hand);
      const mask = this.masks.get(number);
      const { writes } = BRUSHES[this.kind];
      if (mask && (writes === 'holes' || writes === 'guard')) tile = withMask(tile, writes, mask);
      const things = this.things.get(number);
      if (things) tile = withThings(withThings(tile, 'placed', things.placed), 'grown', things.grown);
      return same(tile, there) ? [] : [{ of: 'tiles', id: tileId(id, x, y), to: tile }];
    });
  }

  private dabs(x: number, y: number): void {
    const { mirror } = this.settings;
    const { origin, spacing, samples } = this.before.terrain;
    const [mx, my] = [0, 1].map((axis) => 2 * origin[axis] + (samples[axis] - 1) * spacing);
    this.dab(x, y);
    if (mirror === 'x' || mirror === 'both') this.dab(mx - x, y);
    if (mirror === 'y' || mirror === 'both') this.dab(x, my - y);
    if (mirror === 'both') this.dab(mx - x, my - y);
  }

  private dab(x: number, y: number): void {
    const { writes } = BRUSHES[this.kind];
    if (writes === 'heights') this.sculpt(x, y);
    else if (writes === 'hand') this.paint(x, y);
    else if (writes === 'placed') this.scatter(x, y);
    else this.mask(x, y);
  }

  /** Samples that a dab reaches, with how strongly. */
  private eachSample(x: number, y: number, act: (i: number, j: number, reach: number, far: number) => void): void {
    const { spacing, samples } = this.before.terrain;
    const { radius, fade } = this.settings;
    const [u, v] = this.before.sampleOf(x, y);
    const r = radius / spacing;
    for (let j = Math.max(0, Math.ceil(v - r)); j <= Math.min(samples[1] - 1, Math.floor(v + r)); j++)
      for (let i = Math.max(0, Math.ceil(u - r)); i <= Math.min(samples[0] - 1, Math.floor(u + r)); i++) {
        const far = Math.hypot(i - u, j - v);
        const reach = reachAt(far, r, fade);
        if (reach > 0) act(i, j, reach, far / r);
      }
  }

  private guardAt(i: number, j: number): number {
    const tile = this.before.tiles[Math.floor(j / TILE) * this.before.tilesX + Math.floor(i / TILE)];
    return tile?.guard === undefined ? 0 : (tileBytes(tile, 'guard')?.[(j % TILE) * TILE + (i % TILE)] ?? 0) / 255;
  }

  private sculpt(x: number, y: number): void {
    if (this.kind === 'weather' || this.kind === 'rain') return this.erode(x, y);
    const wanted: [number, number, number][] = [];
    this.eachSample(x, y, (i, j, reach) => {
      const share = reach * (1 - this.guardAt(i, j));
      if (share > 0) wanted.push([i, j, this.heightFor(i, j, share, x, y)]);
    });
    // Written when all are known: each is worked out from its neighbours as they were.
    for (const [i, j, height] of wanted) this.write(i, j, height);
    this.wrote();
  }

  private heightFor(i: number, j: number, share: number, x: number, y: number): number {
    const { ground, settings, begin } = this;
    const { strength, radius } = settings;
    const now = ground.at(i, j);
    const towards = (height: number, by = strength) => now + (height - now) * Math.min(1, share * by);
    switch (this.kind) {
      case 'raise':
        return now + share * strength * radius * RISE;
      case 'lower':
        return now - share * strength * radius * RISE;
      case 'flatten':
        return towards(begin!.height);
      case 'level':
        return towards(settings.height);
      case 'incline': {
        const [dx, dy] = [x - begin!.x, y - begin!.y];
        const far = dx * dx + dy * dy;
        if (far === 0) return now;
        const [px, py] = ground.pointOf(i, j);
        const end = this.before.heightAt(x, y) ?? now;
        return towards(begin!.height + (end - begin!.height) * (((px - begin!.x) * dx + (py - begin!.y) * dy) / far));
      }
      case 'smooth': {
        let sum = 0;
        for (let b = -1; b <= 1; b++) for (let a = -1; a <= 1; a++) sum += ground.at(i + a, j + b);
        return towards(sum / 9);
      }
      case 'roughen': {
        const [px, py] = ground.pointOf(i, j);
        return now + share * strength * radius * RISE * this.roughness!(px, py);
      }
      case 'terrace': {
        const { step } = settings;
        const t = now / step - Math.floor(now / step);
        // Level for most of a step, then up: a smooth step over the last third.
        const rise = Math.min(1, Math.max(0, (t - 2 / 3) * 3));
        return towards((Math.floor(now / step) + rise * rise * (3 - 2 * rise)) * step);
      }
      case 'stamp':
        return this.stamped(i, j, x, y, now, share);
      default:
        return now;
    }
  }

  private stamped(i: number, j: number, x: number, y: number, now: number, share: number): number {
    const { picture, radius, height, strength } = this.settings;
    if (!picture) return now;
    const [px, py] = this.ground.pointOf(i, j);
    // The picture's first row is the far one.
    const u = ((px - x) / radius / 2 + 0.5) * (picture.width - 1);
    const v = (0.5 - (py - y) / radius / 2) * (picture.height - 1);
    return now + bilinear(picture, u, v) * height * strength * share;
  }

  /** Weathering of a window about the dab: samples beyond the brush take no part. */
  private erode(x: number, y: number): void {
    const { spacing, samples } = this.before.terrain;
    const [u, v] = this.before.sampleOf(x, y);
    const r = Math.ceil(this.settings.radius / spacing) + 1;
    const [i0, j0] = [Math.max(0, Math.floor(u) - r), Math.max(0, Math.floor(v) - r)];
    const [i1, j1] = [Math.min(samples[0] - 1, Math.ceil(u) + r), Math.min(samples[1] - 1, Math.ceil(v) + r)];
    const [nx, ny] = [i1 - i0 + 1, j1 - j0 + 1];
    if (nx < 2 || ny < 2) return;
    const heights = new Float64Array(nx * ny);
    const share = new Float32Array(nx * ny);
    for (let j = 0; j < ny; j++) for (let i = 0; i < nx; i++) heights[j * nx + i] = this.ground.at(i0 + i, j0 + j);
    this.eachSample(x, y, (i, j, reach) => (share[(j - j0) * nx + i - i0] = reach * (1 - this.guardAt(i, j))));
    const { strength, rest } = this.settings;
    erodeGrid({ nx, ny, heights, share }, spacing, {
      kind: this.kind === 'rain' ? 'hydraulic' : 'thermal',
      steps: this.kind === 'rain' ? 12 : 3,
      strength,
      rest,
    });
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) if (heights[j * nx + i] !== this.ground.at(i0 + i, j0 + j)) this.write(i0 + i, j0 + j, heights[j * nx + i]);
    this.wrote();
  }

  private write(i: number, j: number, height: number): void {
    const number = Math.floor(j / TILE) * this.before.tilesX + Math.floor(i / TILE);
    let own = this.heights.get(number);
    if (!own) {
      this.heights.set(number, (own = ownHeights(this.before, number)));
      this.ground = this.ground.with(this.heights);
    }
    const { range, depth } = this.before.terrain;
    own[(j % TILE) * TILE + (i % TILE)] = depth === 'u16' ? Math.min(range[1], Math.max(range[0], height)) : height;
  }

  private wrote(): void {
    for (const own of this.heights.values()) changedHeights(own);
  }

  private paint(x: number, y: number): void {
    const { terrain, tilesX, tiles } = this.before;
    const { what, strength, slope, heights } = this.settings;
    this.eachSample(x, y, (i, j, reach) => {
      const share = reach * strength * (1 - this.guardAt(i, j));
      if (share <= 0 || (this.kind === 'paint' && !this.within(i, j, slope, heights))) return;
      const number = Math.floor(j / TILE) * tilesX + Math.floor(i / TILE);
      let own = this.hand.get(number);
      if (!own) {
        const tile = tiles[number];
        const read = (id: string) => (tile?.hand?.[id] === undefined ? null : tileBytes(tile, 'hand', id));
        own = Object.fromEntries(terrain.surfaces.map(({ id }) => [id, Uint8Array.from(read(id) ?? new Uint8Array(TILE_SAMPLES))]));
        this.hand.set(number, own);
      }
      const at = (j % TILE) * TILE + (i % TILE);
      for (const id in own) {
        const wanted = this.kind === 'paint' && id === what ? 255 : 0;
        const moved = own[id][at] + (wanted - own[id][at]) * Math.min(1, share);
        // At least by one, or weak strokes would never reach their end.
        own[id][at] = wanted > own[id][at] ? Math.ceil(moved) : Math.floor(moved);
      }
    });
  }

  /** Whether the ground at a sample keeps to limits of slope and height. */
  private within(i: number, j: number, slope: readonly [number, number], heights: readonly [number, number]): boolean {
    const height = this.before.at(i, j);
    if (height < heights[0] || height > heights[1]) return false;
    if (slope[0] <= 0 && slope[1] >= 90) return true;
    const { before } = this;
    const angle = slopeOfGradient(gradient({ nx: before.nx, ny: before.ny, at: (a, b) => before.at(a, b) }, i, j, before.terrain.spacing));
    return angle >= slope[0] && angle <= slope[1];
  }

  private mask(x: number, y: number): void {
    const { tilesX, tiles } = this.before;
    const holes = BRUSHES[this.kind].writes === 'holes';
    this.eachSample(x, y, (i, j, reach) => {
      const number = Math.floor(j / TILE) * tilesX + Math.floor(i / TILE);
      let own = this.masks.get(number);
      if (!own) {
        const tile = tiles[number];
        own = Uint8Array.from((tile && tileBytes(tile, holes ? 'holes' : 'guard')) ?? new Uint8Array(TILE_SAMPLES));
        this.masks.set(number, own);
      }
      const at = (j % TILE) * TILE + (i % TILE);
      if (holes) own[at] = this.kind === 'hole' ? 1 : 0;
      else own[at] = this.kind === 'protect' ? Math.max(own[at], Math.round(reach * 255)) : Math.min(own[at], Math.round((1 - reach) * 255));
    });
  }

  private thingsOf(number: number): { placed: TileThing[]; grown: TileThing[] } {
    let own = this.things.get(number);
    if (!own) {
      const tile = this.before.tiles[number];
      own = { placed: tile ? [...tileThings(tile, 'placed')] : [], grown: tile ? [...tileThings(tile, 'grown')] : [] };
      this.things.set(number, own);
    }
    return own;
  }

  private scatter(x: number, y: number): void {
    const { before, settings } = this;
    const { spacing } = before.terrain;
    const { radius, apart, strength, what, slope, heights } = settings;
    const [u, v] = before.sampleOf(x, y);
    const r = radius / spacing;
    const tilesNear = (a: number, b: number, reach: number): number[] => {
      const out: number[] = [];
      for (let ty = Math.max(0, Math.floor((b - reach) / TILE)); ty <= Math.min(before.tilesY - 1, Math.floor((b + reach) / TILE)); ty++)
        for (let tx = Math.max(0, Math.floor((a - reach) / TILE)); tx <= Math.min(before.tilesX - 1, Math.floor((a + reach) / TILE)); tx++)
          out.push(ty * before.tilesX + tx);
      return out;
    };
    const away = (thing: TileThing, number: number, a: number, b: number) =>
      Math.hypot((number % before.tilesX) * TILE + thing.x - a, Math.floor(number / before.tilesX) * TILE + thing.y - b);
    if (this.kind === 'clear') {
      for (const number of tilesNear(u, v, r)) {
        const own = this.thingsOf(number);
        own.placed = own.placed.filter((thing) => away(thing, number, u, v) > r);
        own.grown = own.grown.filter((thing) => away(thing, number, u, v) > r);
      }
      return;
    }
    const kind = before.terrain.things.findIndex(({ id }) => id === what);
    if (kind < 0) return;
    // Throws as many darts as would fill the disc, and keeps those that are far enough from all others.
    const darts = Math.ceil(((r * spacing) / apart) ** 2 * 2 * strength);
    for (let n = 0; n < Math.min(400, darts); n++) {
      const angle = this.random() * 2 * Math.PI;
      const far = r * Math.sqrt(this.random());
      const [a, b] = [u + far * Math.cos(angle), v + far * Math.sin(angle)];
      const [turn, size] = [this.random(), this.random()];
      if (a < 0 || b < 0 || a >= before.nx - 1 || b >= before.ny - 1) continue;
      if (!before.isThere(Math.floor(a), Math.floor(b)) || !this.within(Math.round(a), Math.round(b), slope, heights)) continue;
      const least = apart / spacing;
      const near = tilesNear(a, b, least).some((number) => {
        const { placed, grown } = this.thingsOf(number);
        return placed.some((thing) => away(thing, number, a, b) < least) || grown.some((thing) => away(thing, number, a, b) < least);
      });
      if (near) continue;
      const [tx, ty] = [Math.floor(a / TILE), Math.floor(b / TILE)];
      this.thingsOf(ty * before.tilesX + tx).placed.push({ kind, x: a - tx * TILE, y: b - ty * TILE, turn, size });
    }
  }
}

const same = (tile: Tile, there: Tile | undefined): boolean => there !== undefined && canonicalJson(tile) === canonicalJson(there);

function bilinear({ width, height, values }: { width: number; height: number; values: Float32Array }, u: number, v: number): number {
  if (u < 0 || v < 0 || u > width - 1 || v > height - 1) return 0;
  const [i, j] = [Math.min(width - 2, Math.floor(u)), Math.min(height - 2, Math.floor(v))];
  const [s, t] = [u - i, v - j];
  const at = (a: number, b: number) => values[Math.max(0, b) * width + Math.max(0, a)];
  return (at(i, j) * (1 - s) + at(i + 1, j) * s) * (1 - t) + (at(i, j + 1) * (1 - s) + at(i + 1, j + 1) * s) * t;
}
