/**
 * What grows by rule: surfaces by slope, height, curvature and noise, and things at least distances. Rules are kept with the
 * terrain; made anew they replace what they made before and nothing that was set by hand. The same rules on the same ground give the
 * same result.
 */

import { TILE, type MapPath, type PaintRule, type ScatterRule, type Tile } from '../../document/schema.ts';
import type { Change } from '../../document/edit.ts';
import { canonicalJson } from '../../hash.ts';
import { own } from '../../own.ts';
import { chance } from '../../math/chance.ts';
import type { Ground } from '../ground.ts';
import { noiseOf, type Noise } from '../noise.ts';
import { MOST_THINGS, TILE_SAMPLES, type TileThing } from '../pack.ts';
import { curvature, gradient, slopeOfGradient } from '../relief.ts';
import { tileId, tileThings, withThings, withWeights } from '../tile.ts';
import { poissonDisc } from './poisson.ts';

/** How far a rule holds, 0..1: fades over `soft` degrees and units beyond its limits. */
function holds(rule: PaintRule | ScatterRule, soft: number, slope: number, height: number, bend: number, noise: number): number {
  let share = 1;
  const within = (value: number, limits: readonly [number, number] | undefined, fade: number) => {
    if (!limits) return;
    const beyond = Math.max(limits[0] - value, value - limits[1]);
    share = Math.min(share, beyond <= 0 ? 1 : fade > 0 ? Math.max(0, 1 - beyond / fade) : 0);
  };
  within(slope, rule.slope, soft);
  within(height, rule.height, soft);
  within(bend, rule.curvature, 0);
  // Noise is about -1..1; half of it lies above 0. A little softness keeps its patches from having stairs.
  if (rule.noise) share = Math.min(share, Math.min(1, Math.max(0, (noise - (1 - 2 * rule.noise.share)) * 6 + 0.5)));
  return share;
}

const noiseFor = (rule: PaintRule | ScatterRule): Noise | null => (rule.noise ? noiseOf(rule.seed, rule.noise.size, 3) : null);

/** Distance of points to paths, in units, up to a limit: looked up in a grid of their segments. */
export function pathDistance(paths: readonly Pick<MapPath, 'points' | 'loop'>[], limit: number): (x: number, y: number) => number {
  if (limit <= 0 || paths.length === 0) return () => Infinity;
  const cells = new Map<string, [number, number, number, number][]>();
  const cellOf = (v: number) => Math.floor(v / limit);
  for (const { points, loop } of paths)
    points.forEach((a, n) => {
      if (n === points.length - 1 && !loop) return;
      const b = points[(n + 1) % points.length];
      const far = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const steps = Math.max(1, Math.ceil(far / limit));
      for (let s = 0; s < steps; s++) {
        const at = (t: number): [number, number] => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
        const [from, to] = [at(s / steps), at((s + 1) / steps)];
        const key = `${cellOf((from[0] + to[0]) / 2)},${cellOf((from[1] + to[1]) / 2)}`;
        const list = cells.get(key);
        if (list) list.push([...from, ...to]);
        else cells.set(key, [[...from, ...to]]);
      }
    });
  return (x, y) => {
    let nearest = Infinity;
    const [cx, cy] = [cellOf(x), cellOf(y)];
    for (let j = cy - 2; j <= cy + 2; j++)
      for (let i = cx - 2; i <= cx + 2; i++)
        for (const [ax, ay, bx, by] of cells.get(`${i},${j}`) ?? []) {
          const [dx, dy] = [bx - ax, by - ay];
          const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
          nearest = Math.min(nearest, Math.hypot(ax + dx * t - x, ay + dy * t - y));
        }
    return nearest;
  };
}

/** Weights that the paint rules give, tile by tile; later rules lie on earlier ones. */
export function paintByRules(ground: Ground, onTile: (done: number) => void = () => {}): Change[] {
  const { terrain, tilesX, tilesY } = ground;
  const rules = Object.keys(terrain.paint)
    .sort()
    .map((id) => terrain.paint[id])
    .filter((rule) => terrain.surfaces.some(({ id }) => id === rule.surface));
  const noises = rules.map(noiseFor);
  const heights = { nx: ground.nx, ny: ground.ny, at: (i: number, j: number) => ground.at(i, j) };
  const changes: Change[] = [];
  for (let number = 0; number < tilesX * tilesY; number++) {
    const [tx, ty] = [number % tilesX, Math.floor(number / tilesX)];
    const there = ground.tiles[number];
    const weights: Record<string, Uint8Array> = {};
    if (rules.length > 0)
      for (let y = 0; y < Math.min(TILE, ground.ny - ty * TILE); y++)
        for (let x = 0; x < Math.min(TILE, ground.nx - tx * TILE); x++) {
          const [i, j] = [tx * TILE + x, ty * TILE + y];
          const height = ground.at(i, j);
          const slope = slopeOfGradient(gradient(heights, i, j, terrain.spacing));
          const bend = curvature(heights, i, j, terrain.spacing);
          const [px, py] = ground.pointOf(i, j);
          rules.forEach((rule, n) => {
            const share = holds(rule, rule.soft, slope, height, bend, noises[n]?.(px, py) ?? 0);
            if (share <= 0) return;
            const at = y * TILE + x;
            for (const id in weights) if (id !== rule.surface) weights[id][at] = Math.round(weights[id][at] * (1 - share));
            const own = (weights[rule.surface] ??= new Uint8Array(TILE_SAMPLES));
            own[at] = Math.round(own[at] + (255 - own[at]) * share);
          });
        }
    put(changes, ground, number, there, (tile) => withWeights(tile, 'ruled', weights));
    onTile((number + 1) / (tilesX * tilesY));
  }
  return changes;
}

/** Things that the scatter rules make. */
export function scatterByRules(
  ground: Ground,
  paths: readonly Pick<MapPath, 'points' | 'loop'>[],
  onRule: (done: number) => void = () => {},
): Change[] {
  const { terrain, tilesX, tilesY, nx, ny } = ground;
  const { spacing } = terrain;
  const grown: TileThing[][] = Array.from({ length: tilesX * tilesY }, () => []);
  const heights = { nx, ny, at: (i: number, j: number) => ground.at(i, j) };
  const ids = Object.keys(terrain.scatter).sort();
  ids.forEach((id, n) => {
    const rule = own(terrain.scatter, id)!;
    const kind = terrain.things.findIndex((thing) => thing.id === rule.thing);
    if (kind < 0) return;
    const noise = noiseFor(rule);
    const clear = pathDistance(paths, rule.clear ?? 0);
    const surfaces = rule.surfaces && new Set(rule.surfaces);
    const accept = (a: number, b: number): boolean => {
      const [u, v] = [a / spacing, b / spacing];
      const [i, j] = [Math.round(u), Math.round(v)];
      if (!ground.isThere(Math.floor(u), Math.floor(v))) return false;
      const [x, y] = ground.pointOf(u, v);
      const slope = rule.slope ? slopeOfGradient(gradient(heights, i, j, spacing)) : 0;
      const bend = rule.curvature ? curvature(heights, i, j, spacing) : 0;
      if (holds(rule, 0, slope, ground.at(i, j), bend, noise?.(x, y) ?? 0) < 0.5) return false;
      if (rule.clear && clear(x, y) < rule.clear) return false;
      return !surfaces || surfaces.has(terrain.surfaces[ground.surfaceAt(x, y)].id);
    };
    const points = poissonDisc((nx - 1) * spacing, (ny - 1) * spacing, rule.apart, rule.seed, accept);
    const random = chance(rule.seed ^ 0x5f3759df);
    for (let k = 0; k < points.length; k += 2) {
      const [keep, turn, size] = [random(), random(), random()];
      if (keep >= rule.share) continue;
      const [u, v] = [points[k] / spacing, points[k + 1] / spacing];
      const [tx, ty] = [Math.floor(u / TILE), Math.floor(v / TILE)];
      const list = grown[ty * tilesX + tx];
      if (list && list.length < MOST_THINGS) list.push({ kind, x: u - tx * TILE, y: v - ty * TILE, turn, size });
    }
    onRule((n + 1) / ids.length);
  });
  const changes: Change[] = [];
  // What stands by hand keeps its place: nothing grows through it.
  grown.forEach((things, number) => {
    const there = ground.tiles[number];
    const placed = there ? tileThings(there, 'placed') : [];
    const free = things.filter((thing) => placed.every((other) => Math.hypot(other.x - thing.x, other.y - thing.y) * spacing > 1));
    put(changes, ground, number, there, (tile) => withThings(tile, 'grown', free));
  });
  return changes;
}

/** Everything that rules make, made anew: `again` is the ground after its surfaces, on which things then grow. */
export function rebuild(
  ground: Ground,
  paths: readonly Pick<MapPath, 'points' | 'loop'>[],
  again: (changes: readonly Change[]) => Ground,
  onProgress: (done: number) => void = () => {},
): Change[] {
  const painted = paintByRules(ground, (f) => onProgress(f * 0.5));
  const things = scatterByRules(painted.length > 0 ? again(painted) : ground, paths, (f) => onProgress(0.5 + f * 0.5));
  // A tile that both touch is written once, as things leave it.
  const byId = new Map([...painted, ...things].map((change) => [(change as { id: string }).id, change]));
  return [...byId.values()];
}

/** Adds the change of a tile, if it is one. */
function put(changes: Change[], ground: Ground, number: number, there: Tile | undefined, change: (tile: Tile) => Tile): void {
  const [x, y] = [number % ground.tilesX, Math.floor(number / ground.tilesX)];
  const blank: Tile = { terrain: ground.id, x, y };
  const next = change(there ?? blank);
  if (canonicalJson(next) === canonicalJson(there ?? blank)) return;
  changes.push({ of: 'tiles', id: tileId(ground.id, x, y), to: next });
}
