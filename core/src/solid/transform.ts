/** Affine maps of solids and points: turning, mirroring, scaling, shearing, moving. */

import type { Face, Solid } from '../document/schema.ts';
import { projectionAxes } from './projection.ts';
import { cross, dot, normalise, type Vec3 } from '../math/vec3.ts';

/** p' = rows · p + move; rows are the rows of a 3 × 3 matrix. */
export interface Affine {
  rows: [Vec3, Vec3, Vec3];
  move: Vec3;
}

export const applyAffine = ({ rows, move }: Affine, p: Vec3): Vec3 => [
  dot(rows[0], p) + move[0],
  dot(rows[1], p) + move[1],
  dot(rows[2], p) + move[2],
];

const column = (rows: Affine['rows'], i: number): Vec3 => [rows[0][i], rows[1][i], rows[2][i]];

export const determinant = ({ rows }: Affine): number => dot(rows[0], cross(rows[1], rows[2]));

/** A map that keeps `centre` where it is. */
function about(centre: Vec3, rows: Affine['rows']): Affine {
  return { rows, move: centre.map((c, i) => c - dot(rows[i], centre)) as Vec3 };
}

export const translation = (by: Vec3): Affine => ({
  rows: [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  move: by,
});

/** A turn by `degrees` about a world axis through `centre`, counter-clockwise seen from the axis' tip. Right angles are exact. */
export function rotation(axis: 0 | 1 | 2, degrees: number, centre: Vec3): Affine {
  const quarter = ((degrees % 360) + 360) % 360;
  const exact = quarter % 90 === 0;
  const c = exact ? [1, 0, -1, 0][quarter / 90] : Math.cos((degrees * Math.PI) / 180);
  const s = exact ? [0, 1, 0, -1][quarter / 90] : Math.sin((degrees * Math.PI) / 180);
  const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
  const rows = translation([0, 0, 0]).rows;
  rows[u][u] = c;
  rows[u][v] = -s;
  rows[v][u] = s;
  rows[v][v] = c;
  return about(centre, rows);
}

/** Scaling per axis about `centre`; a negative factor mirrors. */
export function scaling(factors: Vec3, centre: Vec3): Affine {
  const rows = translation([0, 0, 0]).rows;
  factors.forEach((f, axis) => (rows[axis][axis] = f));
  return about(centre, rows);
}

/** Shearing: `axis` moves by `amount` for every unit along `along`. */
export function shearing(axis: 0 | 1 | 2, along: 0 | 1 | 2, amount: number, centre: Vec3): Affine {
  const rows = translation([0, 0, 0]).rows;
  rows[axis][along] = amount;
  return about(centre, rows);
}

/** How normals go: by the inverse transpose, whose rows are the cross products of the rows over the determinant. */
function inverseTranspose(affine: Affine): (n: Vec3) => Vec3 {
  const { rows } = affine;
  const d = determinant(affine);
  const inverse = [cross(rows[1], rows[2]), cross(rows[2], rows[0]), cross(rows[0], rows[1])];
  return (n) => inverse.map((row) => dot(row, n) / d) as Vec3;
}

/**
 * A solid after an affine map. Planes go by the inverse transpose, so that any map that can be undone is
 * good, mirrors included. With `carry` the texture goes along with the solid; else it stays in the world.
 */
export function transformSolid(solid: Solid, affine: Affine, carry = false): Solid {
  if (Math.abs(determinant(affine)) < 1e-9) throw new RangeError('The map flattens the solid.');
  const turn = inverseTranspose(affine);
  return {
    ...solid,
    faces: solid.faces.map((face): Face => {
      const raw = turn(face.normal);
      const normal = tidy(normalise(raw));
      const on: Vec3 = [face.normal[0] * face.distance, face.normal[1] * face.distance, face.normal[2] * face.distance];
      const next: Face = { ...face, normal, distance: dot(normal, applyAffine(affine, on)) };
      return carry ? { ...next, ...carriedProjection(face, affine, turn) } : next;
    }),
  };
}

/** Rounding noise of turns: normals within 1e-12 of an axis lie on it. */
const tidy = (normal: Vec3): Vec3 => normal.map((v) => (Math.abs(v) < 1e-12 ? 0 : Math.abs(Math.abs(v) - 1) < 1e-12 ? Math.sign(v) : v)) as Vec3;

/**
 * The projection that gives every point of the moved face the texture coordinate it had: the old axes u, v
 * with s(p) = u·p become u' with u'·(Mp + t) + k = u·p, so u' = M^-T u and k = -u'·t.
 */
function carriedProjection(face: Face, affine: Affine, turn: (n: Vec3) => Vec3): Pick<Face, 'axes' | 'shift'> {
  const axes = face.axes ?? (Object.values(projectionAxes(face.normal)) as [Vec3, Vec3]);
  const moved = axes.map(turn) as [Vec3, Vec3];
  const lost: [number, number] = [-dot(moved[0], affine.move), -dot(moved[1], affine.move)];
  // Shifts apply after the turn of the projection.
  const angle = ((face.turn ?? 0) * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return { axes: moved, shift: [(face.shift?.[0] ?? 0) + lost[0] * c + lost[1] * s, (face.shift?.[1] ?? 0) - lost[0] * s + lost[1] * c] };
}

/** The turn about z, in degrees, of what looks along +x before the map; for objects, which only turn upright. */
export function turnOf(affine: Affine, degrees: number): number {
  const angle = (degrees * Math.PI) / 180;
  const ahead = column(affine.rows, 0).map((x, i) => x * Math.cos(angle) + column(affine.rows, 1)[i] * Math.sin(angle));
  const turned = (Math.atan2(ahead[1], ahead[0]) * 180) / Math.PI;
  return Math.round((((turned % 360) + 360) % 360) * 1e6) / 1e6;
}

/** Whether a map only moves. */
export const isMove = ({ rows }: Affine): boolean => rows.every((row, i) => row.every((v, j) => v === (i === j ? 1 : 0)));
