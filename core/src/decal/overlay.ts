/** What of a surface an overlay covers: its strip or area is a row of convex prisms along its normal, each of which cuts as a decal does. */

import earcut from 'earcut';
import type { Overlay } from '../document/schema.ts';
import { boxOfPoints, type Box3 } from '../math/box3.ts';
import { addScaled, cross, dot, length, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { planeSide, type Plane, type Winding } from '../solid/winding.ts';
import { covered, halves, LEAST, roughArea, within, type DecalPiece } from './clip.ts';
import { frameOf } from './frame.ts';

/** What of an overlay says where and how it is seen. */
export type ThrownOverlay = Omit<Overlay, 'name' | 'on' | 'layer'>;

interface Tile {
  sides: Plane[];
  /** Where the fading of a strip's ends begins. */
  seams: Plane[];
  uv(point: Vec3): [number, number];
  alpha(point: Vec3): number;
}

const minus = (v: Vec3): Vec3 => [-v[0], -v[1], -v[2]];
const through = (normal: Vec3, point: Vec3, reach = 0): Plane => ({ normal, distance: dot(normal, point) + reach });

export class OverlayThrower {
  readonly box: Box3;
  private readonly normal: Vec3;
  private readonly tiles: Tile[];

  constructor(private readonly overlay: ThrownOverlay) {
    this.normal = normalise(overlay.normal);
    this.tiles = overlay.form === 'strip' ? stripTiles(overlay, this.normal) : areaTiles(overlay, this.normal);
    const reach = overlay.form === 'strip' ? overlay.width : 0;
    const { min, max } = boxOfPoints(
      overlay.points.flatMap((p) => [addScaled(p, this.normal, overlay.depth), addScaled(p, this.normal, -overlay.depth)]),
    );
    this.box = { min: min.map((v) => v - reach) as Vec3, max: max.map((v) => v + reach) as Vec3 };
  }

  on(winding: Winding, normal: Vec3): DecalPiece[] {
    const cover = covered(this.normal, normal, this.overlay.limit, 0);
    if (cover <= 0) return [];
    return this.tiles.flatMap(({ sides, seams, uv, alpha }) => {
      const left = within(winding, sides);
      if (!left) return [];
      let parts = [left];
      for (const seam of seams) parts = parts.flatMap((part) => halves(part, seam));
      return parts.flatMap((part) =>
        roughArea(part, normal) > LEAST ? [{ winding: part, uv: part.map(uv), alpha: part.map((p) => alpha(p) * cover) }] : [],
      );
    });
  }

  holds(point: Vec3, normal: Vec3): boolean {
    return (
      covered(this.normal, normal, this.overlay.limit, 0) > 0 && this.tiles.some(({ sides }) => sides.every((side) => planeSide(side, point) <= 1e-6))
    );
  }
}

/** One prism a piece of the line, mitred where it bends. */
function stripTiles({ points, width, repeat, depth, ends }: ThrownOverlay, normal: Vec3): Tile[] {
  const flat = (v: Vec3): Vec3 => addScaled(v, normal, -dot(v, normal));
  const pieces = points.slice(1).flatMap((to, i) => {
    const way = flat(sub(to, points[i]));
    const size = length(way);
    return size > 1e-6 ? [{ from: points[i], to, size, along: normalise(way) }] : [];
  });
  const whole = pieces.reduce((sum, { size }) => sum + size, 0);
  const fading = Math.min(ends, whole / 2);
  const per = repeat > 0 ? repeat : whole;
  let begun = 0;
  return pieces.map(({ from, to, size, along }, i): Tile => {
    const start = begun;
    begun += size;
    const left = cross(normal, along);
    /** Half way between this piece and its neighbour; straight across at an end, and where it turns back on itself. */
    const mitre = (other: { along: Vec3 } | undefined): Vec3 =>
      other && dot(other.along, along) > -0.9 ? normalise(addScaled(along, other.along, 1)) : along;
    const heights = [dot(normal, from), dot(normal, to)];
    const at = (p: Vec3) => start + dot(sub(p, from), along);
    const seam = (s: number): Plane => through(along, from, s - start);
    return {
      sides: [
        through(left, from, width / 2),
        through(minus(left), from, width / 2),
        through(minus(mitre(pieces[i - 1])), from),
        through(mitre(pieces[i + 1]), to),
        { normal, distance: Math.max(...heights) + depth },
        { normal: minus(normal), distance: depth - Math.min(...heights) },
      ],
      seams: fading > 0 ? [fading, whole - fading].filter((s) => s > start - width && s < start + size + width).map(seam) : [],
      uv: (p) => [at(p) / per, 0.5 - dot(sub(p, from), left) / width],
      alpha: (p) => (fading > 0 ? Math.max(0, Math.min(1, at(p) / fading, (whole - at(p)) / fading)) : 1),
    };
  });
}

/** One prism a triangle of the area; the picture is laid out by its corners. */
function areaTiles({ points, repeat, depth }: ThrownOverlay, normal: Vec3): Tile[] {
  const { right, up } = frameOf({ normal, turn: 0 });
  const flat = points.map((p): [number, number] => [dot(p, right), dot(p, up)]);
  const [xs, ys] = [flat.map(([x]) => x), flat.map(([, y]) => y)];
  const [x0, y1] = [Math.min(...xs), Math.max(...ys)];
  const [w, h] = repeat > 0 ? [repeat, repeat] : [Math.max(...xs) - x0 || 1, y1 - Math.min(...ys) || 1];
  // Seen from outside and counter-clockwise from its lower left corner, as an area of four is drawn.
  const stretched: [number, number][] = [[0, 1], [1, 1], [1, 0], [0, 0]]; // prettier-ignore
  const uvs = repeat === 0 && points.length === 4 ? stretched : flat.map(([x, y]): [number, number] => [(x - x0) / w, (y1 - y) / h]);
  const heights = points.map((p) => dot(normal, p));
  const triangles = earcut(flat.flat());
  return Array.from({ length: triangles.length / 3 }, (_, n): Tile => {
    const [a, ...others] = triangles.slice(n * 3, n * 3 + 3);
    const area = (i: number, j: number, k: number) =>
      (flat[j][0] - flat[i][0]) * (flat[k][1] - flat[i][1]) - (flat[j][1] - flat[i][1]) * (flat[k][0] - flat[i][0]);
    // Counter-clockwise seen from outside, whichever way its corners are drawn.
    const [b, c] = area(a, others[0], others[1]) < 0 ? [others[1], others[0]] : others;
    const whole = area(a, b, c);
    const edge = (i: number, j: number): Plane =>
      through(normalise(cross(addScaled(sub(points[j], points[i]), normal, heights[i] - heights[j]), normal)), points[i]);
    return {
      sides: [
        edge(a, b),
        edge(b, c),
        edge(c, a),
        { normal, distance: Math.max(...heights) + depth },
        { normal: minus(normal), distance: depth - Math.min(...heights) },
      ],
      seams: [],
      uv(p) {
        const [x, y] = [dot(p, right), dot(p, up)];
        const share = (i: number, j: number) => ((flat[i][0] - x) * (flat[j][1] - y) - (flat[i][1] - y) * (flat[j][0] - x)) / whole;
        const [wa, wb, wc] = [share(b, c), share(c, a), share(a, b)];
        return [0, 1].map((k) => uvs[a][k] * wa + uvs[b][k] * wb + uvs[c][k] * wc) as [number, number];
      },
      alpha: () => 1,
    };
  });
}
