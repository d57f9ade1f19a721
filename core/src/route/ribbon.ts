/** The ribbon of a route: its line smoothed and laid on the ground, with what a rider feels along it. */

import type { GameMap, Route } from '../document/schema.ts';
import { smoothLine } from '../math/smoothLine.ts';
import type { Vec3 } from '../math/vec3.ts';
import { groundBelow, groundsOf } from '../terrain/ground.ts';

export interface Station {
  /** Units along the ribbon from the start. */
  along: number;
  at: Vec3;
  /** Rise over run, in percent: above 0 uphill. */
  gradient: number;
  /** Units; Infinity where it is straight. Circle through three points of the line. */
  radius: number;
}

export interface Ribbon {
  stations: Station[];
  length: number;
  /** Sums of all rises and falls, units. */
  climb: number;
  descent: number;
}

/** Distance of stations, in widths of the ribbon. */
const SPACING = 0.5;

const ribbons = new WeakMap<Route, { tiles: GameMap['tiles']; ribbon: Ribbon }>();

/** Remembered while route and ground stay the same. */
export function ribbonOf(map: Pick<GameMap, 'terrains' | 'tiles'>, route: Route): Ribbon {
  const known = ribbons.get(route);
  if (known?.tiles === map.tiles) return known.ribbon;
  const grounds = groundsOf(map);
  const line = smoothLine(route.points, false, route.width * SPACING).map(([x, y, z]): Vec3 => [x, y, groundBelow(grounds, x, y)?.height ?? z]);
  const ribbon = measure(line);
  ribbons.set(route, { tiles: map.tiles, ribbon });
  return ribbon;
}

/** What a line is along its way. */
export function measure(line: readonly Vec3[]): Ribbon {
  const stations: Station[] = [];
  let [along, climb, descent] = [0, 0, 0];
  line.forEach((at, n) => {
    const last = line[n - 1];
    const step = last ? Math.hypot(at[0] - last[0], at[1] - last[1]) : 0;
    if (last && step < 1e-9) return;
    along += step;
    const rise = last ? at[2] - last[2] : 0;
    if (rise > 0) climb += rise;
    else descent -= rise;
    stations.push({ along, at, gradient: step > 0 ? (rise / step) * 100 : 0, radius: radiusAt(line, n) });
  });
  if (stations.length > 1) stations[0].gradient = stations[1].gradient;
  return { stations, length: along, climb, descent };
}

/** Points to either side of which a bend is measured: one bend has several. */
const REACH = 2;

/** abc / 4F, F being the area of the triangle (circumradius). */
function radiusAt(line: readonly Vec3[], n: number): number {
  const [a, b, c] = [line[Math.max(0, n - REACH)], line[n], line[Math.min(line.length - 1, n + REACH)]];
  const [ab, bc, ca] = [Math.hypot(b[0] - a[0], b[1] - a[1]), Math.hypot(c[0] - b[0], c[1] - b[1]), Math.hypot(a[0] - c[0], a[1] - c[1])];
  const area = Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2;
  return area < 1e-9 * ab * bc ? Infinity : (ab * bc * ca) / (4 * area);
}

/** Where a point is seen from the ribbon: how far along it, and how far beside it. */
export function beside({ stations }: Ribbon, [x, y]: readonly number[]): { along: number; off: number } {
  let best = { along: 0, off: Infinity };
  for (let n = 1; n < stations.length; n++) {
    const [a, b] = [stations[n - 1], stations[n]];
    const [dx, dy] = [b.at[0] - a.at[0], b.at[1] - a.at[1]];
    const t = Math.min(1, Math.max(0, ((x - a.at[0]) * dx + (y - a.at[1]) * dy) / (dx * dx + dy * dy)));
    const off = Math.hypot(a.at[0] + dx * t - x, a.at[1] + dy * t - y);
    if (off < best.off) best = { along: a.along + (b.along - a.along) * t, off };
  }
  return best;
}

/** The place at a distance along the ribbon, and where it leads: radians from +x. */
export function placeAlong({ stations }: Ribbon, along: number): { at: Vec3; heading: number } {
  // The first station from there on, by halving.
  let [n, high] = [1, stations.length - 1];
  while (n < high) {
    const middle = (n + high) >> 1;
    if (stations[middle].along < along) n = middle + 1;
    else high = middle;
  }
  const [a, b] = [stations[n - 1], stations[n]];
  const t = Math.min(1, Math.max(0, (along - a.along) / (b.along - a.along || 1)));
  return {
    at: [0, 1, 2].map((k) => a.at[k] + (b.at[k] - a.at[k]) * t) as Vec3,
    heading: Math.atan2(b.at[1] - a.at[1], b.at[0] - a.at[0]),
  };
}
