/** Where on its form a particle is born, in the object's frame. */

import type { Vec3 } from '../math/vec3.ts';
import { cosineOfTurns, sineOfTurns } from '../math/exact.ts';
import type { Emitter } from './document.ts';
import { LANE, roll } from './roll.ts';

/** Triangles of a model: nine numbers each, in units, in the frame of the model. */
export type MeshOf = (model: string) => Float32Array | null;

export type Source = (seed: number, birth: number, out: Float64Array) => void;

/** A direction into `out` at 0..2, all of them alike, by two numbers of chance (Archimedes: heights on a sphere are even). */
function directionBy(height: number, turn: number, out: Float64Array): void {
  const z = 2 * height - 1;
  const r = Math.sqrt(Math.max(0, 1 - z * z));
  out[0] = r * cosineOfTurns(turn);
  out[1] = r * sineOfTurns(turn);
  out[2] = z;
}

/** @param meshOf null where a model is not at hand: particles are then born at its point */
export function sourceOf({ from, at }: Emitter, meshOf: MeshOf): Source {
  const [ax, ay, az] = at;
  const point: Source = (_seed, _birth, out) => void out.set(at);
  switch (from.shape) {
    case 'point':
      return point;
    case 'box': {
      const [w, d, h] = from.size;
      return (seed, birth, out) => {
        out[0] = ax + (roll(seed, birth, LANE.x) - 0.5) * w;
        out[1] = ay + (roll(seed, birth, LANE.y) - 0.5) * d;
        out[2] = az + (roll(seed, birth, LANE.z) - 0.5) * h;
      };
    }
    case 'sphere': {
      const { radius, shell } = from;
      return (seed, birth, out) => {
        directionBy(roll(seed, birth, LANE.x), roll(seed, birth, LANE.y), out);
        // The largest of three numbers lies as the distance does in a full sphere: its third power is even.
        const r = shell ? radius : radius * Math.max(roll(seed, birth, LANE.z), roll(seed, birth, LANE.w), roll(seed, birth, LANE.w + 100));
        out[0] = ax + out[0] * r;
        out[1] = ay + out[1] * r;
        out[2] = az + out[2] * r;
      };
    }
    case 'path':
      return alongPath(from.points, at);
    case 'model': {
      const triangles = meshOf(from.model);
      return triangles && triangles.length >= 9 ? onSurface(triangles, at) : point;
    }
  }
}

/** The place in a row of sums at which a share of the whole is reached. */
function placeIn(sums: Float64Array, share: number): number {
  const wanted = share * sums[sums.length - 1];
  let [low, high] = [0, sums.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sums[middle] > wanted) high = middle;
    else low = middle + 1;
  }
  return low;
}

function sumsOf(sizes: readonly number[]): Float64Array {
  let sum = 0;
  return Float64Array.from(sizes, (size) => (sum += size));
}

function alongPath(points: readonly Vec3[], at: Vec3): Source {
  const length = (a: Vec3, b: Vec3) => Math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2 + (b[2] - a[2]) ** 2);
  const sums = sumsOf(points.slice(1).map((p, i) => length(points[i], p)));
  return (seed, birth, out) => {
    const i = placeIn(sums, roll(seed, birth, LANE.x));
    const t = roll(seed, birth, LANE.y);
    for (let k = 0; k < 3; k++) out[k] = at[k] + points[i][k] + (points[i + 1][k] - points[i][k]) * t;
  };
}

/** Even over the area. Points within a triangle by R. Osada et al., "Shape distributions", 2002, section 4.2. */
function onSurface(triangles: Float32Array, at: Vec3): Source {
  const areas: number[] = [];
  for (let i = 0; i < triangles.length; i += 9) {
    const [ax, ay, az, bx, by, bz, cx, cy, cz] = triangles.subarray(i, i + 9);
    const [ux, uy, uz, vx, vy, vz] = [bx - ax, by - ay, bz - az, cx - ax, cy - ay, cz - az];
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    areas.push(Math.sqrt(nx * nx + ny * ny + nz * nz) / 2);
  }
  const sums = sumsOf(areas);
  return (seed, birth, out) => {
    const i = placeIn(sums, roll(seed, birth, LANE.x)) * 9;
    const root = Math.sqrt(roll(seed, birth, LANE.y));
    const share = roll(seed, birth, LANE.z);
    const [a, b, c] = [1 - root, root * (1 - share), root * share];
    for (let k = 0; k < 3; k++) out[k] = at[k] + a * triangles[i + k] + b * triangles[i + 3 + k] + c * triangles[i + 6 + k];
  };
}
