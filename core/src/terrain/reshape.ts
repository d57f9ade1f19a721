/** What changes the ground at once: weathering all of it, a ramp, a road along a path, a level place, heights from elsewhere. */

import { TILE } from '../document/schema.ts';
import type { Change } from '../document/edit.ts';
import type { Vec3 } from '../math/vec3.ts';
import { erodeGrid, type Erodible } from './erode.ts';
import { ownHeights, type Ground } from './ground.ts';
import { kept, tileBytes, tileId, withHeights } from './tile.ts';

/** Ground that was dug away and heaped up, cubic units. */
export interface Moved {
  cut: number;
  filled: number;
}

/** The edit's changes for other heights: `height` is asked for every sample within the rectangle and answers null to leave it. */
export function reshape(
  ground: Ground,
  { i0, j0, i1, j1 }: { i0: number; j0: number; i1: number; j1: number },
  height: (i: number, j: number, now: number) => number | null,
): { changes: Change[]; moved: Moved } {
  const { terrain, tilesX, nx, ny } = ground;
  const area = terrain.spacing ** 2;
  const moved: Moved = { cut: 0, filled: 0 };
  const own = new Map<number, Float32Array>();
  for (let j = Math.max(0, Math.ceil(j0)); j <= Math.min(ny - 1, j1); j++)
    for (let i = Math.max(0, Math.ceil(i0)); i <= Math.min(nx - 1, i1); i++) {
      const now = ground.at(i, j);
      const wanted = height(i, j, now);
      if (wanted === null || wanted === now) continue;
      const number = Math.floor(j / TILE) * tilesX + Math.floor(i / TILE);
      const there = ground.tiles[number];
      const at = (j % TILE) * TILE + (i % TILE);
      const guard = there?.guard === undefined ? 0 : (tileBytes(there, 'guard')?.[at] ?? 0) / 255;
      const next = kept(now + (wanted - now) * (1 - guard), terrain);
      if (next === now) continue;
      if (!own.has(number)) own.set(number, ownHeights(ground, number));
      own.get(number)![at] = next;
      if (next < now) moved.cut += (now - next) * area;
      else moved.filled += (next - now) * area;
    }
  const changes = [...own].map(([number, heights]): Change => {
    const [x, y] = [number % tilesX, Math.floor(number / tilesX)];
    return {
      of: 'tiles',
      id: tileId(ground.id, x, y),
      to: withHeights(ground.tiles[number] ?? { terrain: ground.id, x, y }, heights, terrain),
    };
  });
  return { changes, moved };
}

const everywhere = ({ nx, ny }: Ground) => ({ i0: 0, j0: 0, i1: nx - 1, j1: ny - 1 });

export interface Weathering {
  kind: 'thermal' | 'hydraulic';
  steps: number;
  /** 0..1 */
  strength: number;
  /** Angle of rest, degrees. */
  rest: number;
}

/** All of a ground weathered. */
export function weatherGround(ground: Ground, how: Weathering, onStep: (done: number) => void = () => {}): { changes: Change[]; moved: Moved } {
  const { nx, ny, terrain } = ground;
  const grid: Erodible = { nx, ny, heights: Float64Array.from(ground.grid()) };
  erodeGrid(grid, terrain.spacing, how, onStep);
  return reshape(ground, everywhere(ground), (i, j) => grid.heights[j * nx + i]);
}

/** Heights from elsewhere for the whole ground, row by row from the least y. */
export const replaceHeights = (ground: Ground, heights: ArrayLike<number>): Change[] =>
  reshape(ground, everywhere(ground), (i, j) => heights[j * ground.nx + i]).changes;

const fadeOut = (beyond: number, over: number): number => {
  if (beyond <= 0) return 1;
  if (beyond >= over) return 0;
  const t = 1 - beyond / over;
  return t * t * (3 - 2 * t);
};

/** An even slope from one point to another, `width` wide, with shoulders that lead back to the ground. Heights are the points' own. */
export function ramp(ground: Ground, from: Vec3, to: Vec3, width: number, shoulder: number): { changes: Change[]; moved: Moved } {
  return road(ground, [from, to], { width, shoulder, camber: 0, balance: false });
}

export interface RoadOptions {
  /** Of its level part, units. */
  width: number;
  /** Over which it leads back to the ground on either side, units. */
  shoulder: number;
  /** How much higher its middle is than its edges, units per unit of half width. */
  camber: number;
  /** Raised or lowered as a whole until as much is heaped up as is dug away. */
  balance: boolean;
}

/** A road along a line whose heights are its points' own. Corners are as the line has them: a smooth line comes from a route or a path. */
export function road(ground: Ground, line: readonly Vec3[], options: RoadOptions): { changes: Change[]; moved: Moved; raised: number } {
  const { width, shoulder, camber, balance } = options;
  const half = width / 2;
  const reach = half + shoulder;
  const across = nearestOnLine(line, reach);
  const [u0, v0] = ground.sampleOf(Math.min(...line.map((p) => p[0])) - reach, Math.min(...line.map((p) => p[1])) - reach);
  const [u1, v1] = ground.sampleOf(Math.max(...line.map((p) => p[0])) + reach, Math.max(...line.map((p) => p[1])) + reach);
  const rect = { i0: u0, j0: v0, i1: u1, j1: v1 };
  const laid = (raised: number) =>
    reshape(ground, rect, (i, j, now) => {
      const [x, y] = ground.pointOf(i, j);
      const near = across(x, y);
      if (!near) return null;
      const wanted = near.height + raised + camber * Math.max(0, half - near.far);
      return now + (wanted - now) * fadeOut(near.far - half, shoulder);
    });
  if (!balance) return { ...laid(0), raised: 0 };
  // What is heaped up less what is dug away rises with the road, so that halving finds where it is nothing.
  let [low, high] = [-ground.terrain.spacing, ground.terrain.spacing];
  const surplus = (raised: number) => {
    const { moved } = laid(raised);
    return moved.filled - moved.cut;
  };
  for (let n = 0; n < 12 && surplus(low) > 0; n++) low *= 2;
  for (let n = 0; n < 12 && surplus(high) < 0; n++) high *= 2;
  for (let n = 0; n < 20; n++) {
    const middle = (low + high) / 2;
    if (surplus(middle) > 0) high = middle;
    else low = middle;
  }
  return { ...laid((low + high) / 2), raised: (low + high) / 2 };
}

/** The nearest point of a line within a distance, seen from above: how far it is and how high the line is there. */
function nearestOnLine(line: readonly Vec3[], limit: number): (x: number, y: number) => { far: number; height: number } | null {
  const cells = new Map<string, number[]>();
  const cellOf = (v: number) => Math.floor(v / limit);
  for (let n = 0; n + 1 < line.length; n++) {
    const [a, b] = [line[n], line[n + 1]];
    for (let j = cellOf(Math.min(a[1], b[1]) - limit); j <= cellOf(Math.max(a[1], b[1]) + limit); j++)
      for (let i = cellOf(Math.min(a[0], b[0]) - limit); i <= cellOf(Math.max(a[0], b[0]) + limit); i++) {
        const key = `${i},${j}`;
        const list = cells.get(key);
        if (list) list.push(n);
        else cells.set(key, [n]);
      }
  }
  return (x, y) => {
    let best: { far: number; height: number } | null = null;
    for (const n of cells.get(`${cellOf(x)},${cellOf(y)}`) ?? []) {
      const [a, b] = [line[n], line[n + 1]];
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const t = Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / (dx * dx + dy * dy || 1)));
      const far = Math.hypot(a[0] + dx * t - x, a[1] + dy * t - y);
      if (far <= limit && (!best || far < best.far)) best = { far, height: a[2] + (b[2] - a[2]) * t };
    }
    return best;
  };
}

/** A level place under a rectangle of the map, with a fade around it. */
export function levelPlace(
  ground: Ground,
  { min, max }: { min: readonly number[]; max: readonly number[] },
  height: number,
  fade: number,
): { changes: Change[]; moved: Moved } {
  // Quads that the place reaches into are levelled whole, or its edge would cut a slope.
  const slack = ground.terrain.spacing;
  const [i0, j0] = ground.sampleOf(min[0] - fade - slack, min[1] - fade - slack);
  const [i1, j1] = ground.sampleOf(max[0] + fade + slack, max[1] + fade + slack);
  return reshape(ground, { i0, j0, i1, j1 }, (i, j, now) => {
    const [x, y] = ground.pointOf(i, j);
    const beyond = Math.hypot(Math.max(0, min[0] - slack - x, x - max[0] - slack), Math.max(0, min[1] - slack - y, y - max[1] - slack));
    const share = fadeOut(beyond, fade);
    return share > 0 ? now + (height - now) * share : null;
  });
}
