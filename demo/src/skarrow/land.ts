/**
 * The land of *Snowgate Ridge*: 1,280 × 1,024 m. It follows the course: a crest at first, then a bowl with a frozen tarn, a wood, a
 * yard with a shed, and a valley down to the finish; far from it mountains rise. Metres, z up.
 */

import type { Vec3 } from '@violet-crate/core/math/vec3';
import { smoothLine } from '@violet-crate/core/math/smoothLine';
import { noiseOf } from '@violet-crate/core/terrain/noise';

export const SAMPLES: [number, number] = [641, 513];
export const SPACING = 2;
export const ORIGIN: [number, number] = [-640, -512];

/** A place on the way: x, y, z, and how the land lies beside it: -1 falls away, 1 rises. */
type Place = [x: number, y: number, z: number, lie: number];

const WAY: Place[] = [
  [-545, -300, 152, -1],
  [-500, -284, 147, -1],
  [-425, -246, 139, -1],
  [-335, -176, 129, -1],
  [-262, -84, 119, -1],
  [-196, 16, 108, -0.9],
  [-128, 104, 95, -0.7],
  [-40, 176, 79, -0.3],
  [66, 214, 62, 0.2],
  [168, 188, 45, 0.6],
  [232, 108, 30, 0.8],
  [236, 14, 21, 0.7],
  [186, -74, 18, 0.5],
  [100, -136, 18, 0.5],
  [10, -180, 19.4, 0.7],
  [-62, -242, 21.5, 0.7],
  [-72, -322, 24.5, 0.6],
  [-10, -382, 25, 0.5],
  [86, -402, 24, 0.4],
  [186, -392, 22, 0.3],
  [290, -354, 19.5, 0.3],
  [372, -290, 17, 0.4],
  [428, -206, 14.5, 0.6],
  [462, -106, 12, 0.7],
  [474, 0, 9, 0.8],
  [462, 108, 6, 0.8],
  [424, 206, 3, 0.7],
  [372, 286, 2, 0.5],
  [332, 340, 1.5, 0.4],
];

/** The line that is ridden, corner by corner. */
export const LINE: Vec3[] = WAY.map(([x, y, z]) => [x, y, z]);

/** The same as it is smoothed, every few metres. */
export const SMOOTH = smoothLine(LINE, false, 4);

const LIES = smoothLine(
  WAY.map(([x, y, , lie]) => [x, y, lie * 100]),
  false,
  32,
);
const COARSE = smoothLine(LINE, false, 32);

export const TARN = { x: 143, y: -106, rx: 118, ry: 84, level: 17.6 };

/** Kickers across the way: at which metre of it, how high. */
export const JUMPS = [
  { along: 690, height: 1.5, length: 16 },
  { along: 2090, height: 1.2, length: 14 },
  { along: 2310, height: 1.4, length: 16 },
];

const broad = noiseOf(7, 420, 3);
const hills = noiseOf(21, 150, 4);
const rough = noiseOf(33, 40, 3);

/** Height of the land before anything is built on it. */
export function landAt(x: number, y: number): number {
  let [sum, weights, nearest] = [0, 0, Infinity];
  for (let n = 0; n < COARSE.length; n++) {
    const [px, py, pz] = COARSE[n];
    const d = Math.hypot(x - px, y - py);
    if (d < nearest) nearest = d;
    const lie = LIES[Math.min(LIES.length - 1, Math.round((n / (COARSE.length - 1)) * (LIES.length - 1)))][2] / 100;
    // Beside the way the land falls or rises, steeper at first, up to what a hillside is.
    const aside = Math.max(0, d - 9);
    const side = lie < 0 ? -42 * (1 - Math.exp(-aside / 70)) * -lie : 26 * (1 - Math.exp(-aside / 90)) * lie;
    const w = 1 / (d * d + 60) ** 2;
    sum += (pz + side) * w;
    weights += w;
  }
  const base = sum / weights;
  const away = Math.min(1, Math.max(0, (nearest - 10) / 90));
  const far = Math.min(1, Math.max(0, (nearest - 120) / 240));
  // Mountains beyond, so that no view ends at the edge of the land.
  const edge = Math.max(Math.abs(x) / 640, Math.abs(y) / 512);
  const rim = Math.max(0, edge - 0.72) ** 1.5 * 620;
  const peaks = (1 - Math.abs(hills(x, y))) ** 2;
  return base + away * (hills(x, y) * 12 + rough(x, y) * 1.5) + far * (broad(x, y) * 26 + peaks * 26) + rim * (0.5 + 0.8 * peaks);
}
