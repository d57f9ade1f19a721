/**
 * What of a surface a decal covers. Its box is the meeting of six half spaces, so that clipping a convex polygon by it is exact
 * (Sutherland and Hodgman, "Reentrant polygon clipping", 1974, for convex clip volumes).
 */

import type { Box3 } from '../math/box3.ts';
import { addScaled, dot, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { clipBehind, splitWinding, windingCentre, type Plane, type Winding } from '../solid/winding.ts';
import { decalBox, frameOf, type DecalFrame, type ThrownDecal } from './frame.ts';

/** A convex part of a decal on one surface. */
export interface DecalPiece {
  winding: Winding;
  /** Place in the picture per point: 0,0 is its upper left corner. */
  uv: [number, number][];
  /** Cover per point, 0 to 1; it is linear in between. */
  alpha: number[];
}

/** Areas below this are dust of rounding, square units. */
export const LEAST = 1e-6;

/** A decal made ready to be thrown at many surfaces. */
export class Thrower {
  readonly frame: DecalFrame;
  private readonly sides: Plane[];
  /** Of each side, where the fading towards it begins. */
  private readonly seams: Plane[];
  /** Between the parts of its picture that lie nearest to one side each, in shares of its size. */
  private readonly diagonals: Plane[];
  private readonly half: [number, number];
  private readonly rim: [number, number];

  constructor(readonly decal: ThrownDecal) {
    this.frame = frameOf(decal);
    const { right, up, normal } = this.frame;
    const { position, depth, soft } = decal;
    const [w, h] = (this.half = [decal.size[0] / 2, decal.size[1] / 2]);
    this.rim = [w * soft, h * soft];
    const plane = (direction: Vec3, reach: number): Plane => ({ normal: direction, distance: dot(direction, position) + reach });
    const minus = (v: Vec3): Vec3 => [-v[0], -v[1], -v[2]];
    this.sides = [plane(right, w), plane(minus(right), w), plane(up, h), plane(minus(up), h), plane(normal, depth), plane(minus(normal), depth)];
    const [rw, rh] = this.rim;
    const through = (direction: Vec3): Plane => ({ normal: direction, distance: dot(direction, position) });
    const slanted = (sign: 1 | -1): Plane => through(normalise(addScaled([right[0] / w, right[1] / w, right[2] / w], up, sign / h)));
    this.diagonals = [slanted(1), slanted(-1)];
    this.seams = [plane(right, w - rw), plane(minus(right), w - rw), plane(up, h - rh), plane(minus(up), h - rh)];
  }

  /** How much of it is seen on a surface of this normal. */
  cover(normal: Vec3): number {
    return covered(this.frame.normal, normal, this.decal.limit, this.decal.fade);
  }

  get box(): Box3 {
    return decalBox(this.decal);
  }

  /** Whether it lies over a point of a surface of this normal. */
  holds(point: Vec3, normal: Vec3): boolean {
    const from = sub(point, this.decal.position);
    const { depth } = this.decal;
    const [w, h] = this.half;
    return (
      dot(from, from) <= w * w + h * h + (depth + 1e-6) ** 2 &&
      Math.abs(dot(from, this.frame.right)) <= w &&
      Math.abs(dot(from, this.frame.up)) <= h &&
      Math.abs(dot(from, this.frame.normal)) <= depth + 1e-6 &&
      this.cover(normal) > 0
    );
  }

  /** The parts of a surface that it covers, none where it does not reach it. @param normal unit normal of the winding */
  on(winding: Winding, normal: Vec3): DecalPiece[] {
    const cover = this.cover(normal);
    if (cover <= 0) return [];
    const left = within(winding, this.sides);
    if (!left) return [];
    // Cover is linear within each: it falls towards one side, from that side's seam on.
    let parts = [left];
    if (this.decal.soft > 0) {
      for (const diagonal of this.diagonals) parts = parts.flatMap((part) => halves(part, diagonal));
      parts = parts.flatMap((part) => halves(part, this.seams[this.sideOf(windingCentre(part))]));
    }
    return parts.flatMap((part) => (roughArea(part, normal) > LEAST ? [this.piece(part, cover)] : []));
  }

  /** The side that a point is nearest to, in shares of the size. */
  private sideOf(point: Vec3): number {
    const from = sub(point, this.decal.position);
    const [a, b] = [dot(from, this.frame.right) / this.half[0], dot(from, this.frame.up) / this.half[1]];
    return Math.abs(a) > Math.abs(b) ? (a > 0 ? 0 : 1) : b > 0 ? 2 : 3;
  }

  private piece(winding: Winding, cover: number): DecalPiece {
    const { right, up } = this.frame;
    const [w, h] = this.half;
    const [rw, rh] = this.rim;
    const uv: [number, number][] = [];
    const alpha: number[] = [];
    for (const point of winding) {
      const from = sub(point, this.decal.position);
      const [a, b] = [dot(from, right), dot(from, up)];
      uv.push([0.5 + a / (2 * w), 0.5 - b / (2 * h)]);
      const rim = rw === 0 ? 1 : Math.min(1, (w - Math.abs(a)) / rw, (h - Math.abs(b)) / rh);
      alpha.push(cover * Math.max(0, rim));
    }
    return { winding, uv, alpha };
  }
}

/**
 * How much is seen on a surface of what is thrown along another normal: 0 beyond the limit, 1 before it begins to fade.
 *
 * @param limit degrees @param fade degrees before the limit
 */
export function covered(away: Vec3, normal: Vec3, limit: number, fade: number): number {
  const angle = (Math.acos(Math.max(-1, Math.min(1, dot(away, normal)))) * 180) / Math.PI;
  if (angle > limit + 1e-6) return 0;
  return fade === 0 ? 1 : Math.max(0, Math.min(1, (limit - angle) / fade));
}

/** The part of a winding behind all of some planes, or null. */
export function within(winding: Winding, sides: readonly Plane[]): Winding | null {
  let left: Winding | null = winding;
  for (const side of sides) left = left && clipBehind(left, side, 0);
  return left;
}

/** Both sides of a plane, as far as there is something on them. */
export function halves(winding: Winding, plane: Plane): Winding[] {
  const { front, back, on } = splitWinding(winding, plane, 1e-9);
  return on ? [winding] : [front, back].flatMap((side) => (side ? [side] : []));
}

/** Area of a flat polygon, by the fan from its first point. */
export function roughArea(winding: Winding, normal: Vec3): number {
  let twice = 0;
  for (let i = 2; i < winding.length; i++) {
    const [a, b] = [sub(winding[i - 1], winding[0]), sub(winding[i], winding[0])];
    twice += normal[0] * (a[1] * b[2] - a[2] * b[1]) + normal[1] * (a[2] * b[0] - a[0] * b[2]) + normal[2] * (a[0] * b[1] - a[1] * b[0]);
  }
  return twice / 2;
}
