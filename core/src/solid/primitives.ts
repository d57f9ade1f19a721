/** Solids made from a few numbers. All results are convex and closed; boxes have min < max on every axis. */

import type { Face, Solid } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import { cross, dot, normalise, sub, type Vec3 } from '../math/vec3.ts';
import { subtractSolid } from './cut.ts';
import { hullSolid } from './hull.ts';

/** An axis-aligned block. */
export function block(box: Box3, material: string): Solid {
  const faces: Face[] = [];
  for (let axis = 0; axis < 3; axis++) {
    const positive: Vec3 = [0, 0, 0];
    positive[axis] = 1;
    const negative: Vec3 = [0, 0, 0];
    negative[axis] = -1;
    faces.push({ normal: positive, distance: box.max[axis], material });
    faces.push({ normal: negative, distance: 0 - box.min[axis], material });
  }
  return { faces };
}

/** The block's box cut by a slope that rises from its bottom edge to its top edge along `axis` (0 = x, 1 = y). */
export function wedge(box: Box3, axis: 0 | 1, rising: 1 | -1, material: string): Solid {
  const run = box.max[axis] - box.min[axis];
  const rise = box.max[2] - box.min[2];
  const raw: Vec3 = [0, 0, run];
  raw[axis] = -rise * rising;
  const normal = normalise(raw);
  const foot: Vec3 = [box.min[0], box.min[1], box.min[2]];
  if (rising < 0) foot[axis] = box.max[axis];
  const solid = block(box, material);
  // The slope replaces the top and the vertical face at its foot.
  const dropped: Vec3 = [0, 0, 0];
  dropped[axis] = -rising;
  const faces = solid.faces.filter((face) => face.normal[2] !== 1 && dot(face.normal, dropped) < 0.5);
  return { faces: [...faces, { normal, distance: dot(normal, foot), material }] };
}

/** An upright prism over a regular polygon inscribed in the box's ellipse. */
export function cylinder(box: Box3, sides: number, material: string): Solid {
  const centre = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2];
  const radius = [(box.max[0] - box.min[0]) / 2, (box.max[1] - box.min[1]) / 2];
  const ring: [number, number][] = [];
  for (let i = 0; i < sides; i++) {
    const angle = ((i + 0.5) / sides) * 2 * Math.PI;
    ring.push([centre[0] + radius[0] * Math.cos(angle), centre[1] + radius[1] * Math.sin(angle)]);
  }
  return prism(ring, box.min[2], box.max[2], material);
}

/** An upright prism over a convex polygon, counter-clockwise seen from above. */
export function prism(ring: readonly (readonly [number, number])[], bottom: number, top: number, material: string): Solid {
  const faces: Face[] = [
    { normal: [0, 0, 1], distance: top, material },
    { normal: [0, 0, -1], distance: -bottom, material },
  ];
  for (let i = 0; i < ring.length; i++) {
    const [x0, y0] = ring[i];
    const [x1, y1] = ring[(i + 1) % ring.length];
    const normal = normalise([y1 - y0, x0 - x1, 0]);
    faces.push({ normal, distance: normal[0] * x0 + normal[1] * y0, material });
  }
  return { faces };
}

/** The convex solid whose faces are the given triangles' planes; points counter-clockwise from outside. */
export function fromTriangles(triangles: readonly (readonly [Vec3, Vec3, Vec3])[], material: string): Solid {
  return {
    faces: triangles.map(([a, b, c]) => {
      const normal = normalise(cross(sub(b, a), sub(c, a)));
      return { normal, distance: dot(normal, a), material };
    }),
  };
}

/**
 * A sealed shell of six slabs around the inner box: floor, ceiling, and four walls between them. Slabs
 * meet face to face and overlap nowhere, so nothing of the shell flickers and nothing leaks.
 * Order: floor, ceiling, west (-x), east (+x), south (-y), north (+y).
 */
export function roomShell(inner: Box3, thickness: number, material: string): Solid[] {
  const { min, max } = inner;
  const t = thickness;
  const slab = (x0: number, y0: number, z0: number, x1: number, y1: number, z1: number) => block({ min: [x0, y0, z0], max: [x1, y1, z1] }, material);
  return [
    slab(min[0] - t, min[1] - t, min[2] - t, max[0] + t, max[1] + t, min[2]),
    slab(min[0] - t, min[1] - t, max[2], max[0] + t, max[1] + t, max[2] + t),
    slab(min[0] - t, min[1] - t, min[2], min[0], max[1] + t, max[2]),
    slab(max[0], min[1] - t, min[2], max[0] + t, max[1] + t, max[2]),
    slab(min[0], min[1] - t, min[2], max[0], min[1], max[2]),
    slab(min[0], max[1], min[2], max[0], max[1] + t, max[2]),
  ];
}

/** Blocks for a straight stair that climbs along +x or -x or ±y from the box's bottom to its top. */
export function straightStair(box: Box3, axis: 0 | 1, rising: 1 | -1, steps: number, material: string): Solid[] {
  const solids: Solid[] = [];
  const tread = (box.max[axis] - box.min[axis]) / steps;
  const riser = (box.max[2] - box.min[2]) / steps;
  for (let i = 0; i < steps; i++) {
    const min: Vec3 = [...box.min];
    const max: Vec3 = [...box.max];
    if (rising > 0) {
      min[axis] = box.min[axis] + i * tread;
      max[axis] = box.min[axis] + (i + 1) * tread;
    } else {
      max[axis] = box.max[axis] - i * tread;
      min[axis] = box.max[axis] - (i + 1) * tread;
    }
    max[2] = box.min[2] + (i + 1) * riser;
    solids.push(block({ min, max }, material));
  }
  return solids;
}

/** Points of a regular polygon in the box's ellipse; the first at `start` radians, counter-clockwise. */
function ellipse({ min, max }: Box3, sides: number, start = Math.PI / sides): [number, number][] {
  return Array.from({ length: sides }, (_, i) => {
    const angle = start + (i / sides) * 2 * Math.PI;
    return [(min[0] + max[0]) / 2 + ((max[0] - min[0]) / 2) * Math.cos(angle), (min[1] + max[1]) / 2 + ((max[1] - min[1]) / 2) * Math.sin(angle)];
  });
}

const looks = (material: string): Face[] => [{ normal: [0, 0, 1], distance: 0, material }];

/** The hull of points; they must not lie in one plane. */
function around(points: readonly Vec3[], material: string): Solid {
  const solid = hullSolid(points, looks(material));
  if (!solid) throw new RangeError('The points lie in one plane.');
  return solid;
}

/** An upright cone, its point in the middle of the box's top. */
export function cone(box: Box3, sides: number, material: string): Solid {
  const tip: Vec3 = [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, box.max[2]];
  return around([...ellipse(box, sides).map(([x, y]): Vec3 => [x, y, box.min[2]]), tip], material);
}

/** An ellipsoid of `sides` meridians and half as many rings, flat faced, inscribed in the box. */
export function sphere(box: Box3, sides: number, material: string): Solid {
  const rings = Math.max(2, Math.round(sides / 2));
  const [cx, cy, cz] = [0, 1, 2].map((axis) => (box.min[axis] + box.max[axis]) / 2);
  const [rx, ry, rz] = [0, 1, 2].map((axis) => (box.max[axis] - box.min[axis]) / 2);
  const points: Vec3[] = [
    [cx, cy, cz - rz],
    [cx, cy, cz + rz],
  ];
  for (let ring = 1; ring < rings; ring++) {
    const latitude = Math.PI * (ring / rings - 0.5);
    for (let i = 0; i < sides; i++) {
      const angle = ((i + 0.5) / sides) * 2 * Math.PI;
      const r = Math.cos(latitude);
      points.push([cx + rx * r * Math.cos(angle), cy + ry * r * Math.sin(angle), cz + rz * Math.sin(latitude)]);
    }
  }
  return around(points, material);
}

/**
 * An arch that spans the box along `axis`: half an ellipse of `segments` wedge stones, `thickness` deep, the
 * opening below. Stones are convex and meet face to face.
 */
export function arch(box: Box3, axis: 0 | 1, segments: number, thickness: number, material: string): Solid[] {
  const other = axis === 0 ? 1 : 0;
  const centre = (box.min[axis] + box.max[axis]) / 2;
  const outer = [(box.max[axis] - box.min[axis]) / 2, box.max[2] - box.min[2]];
  const inner = outer.map((r) => Math.max(r - thickness, r * 0.05));
  const point = (radius: number[], angle: number, across: number): Vec3 => {
    const p: Vec3 = [0, 0, 0];
    p[axis] = centre - radius[0] * Math.cos(angle);
    p[other] = across;
    p[2] = box.min[2] + radius[1] * Math.sin(angle);
    return p;
  };
  return Array.from({ length: segments }, (_, i) => {
    const angles = [(i / segments) * Math.PI, ((i + 1) / segments) * Math.PI];
    const points = angles.flatMap((angle) => [outer, inner].flatMap((r) => [box.min[other], box.max[other]].map((y) => point(r, angle, y))));
    return around(points, material);
  });
}

/** Extent of a sector of the unit circle's ring, from +x counter-clockwise through `degrees`, `inner` its inner radius. */
function sectorBounds(degrees: number, inner: number): { min: [number, number]; max: [number, number] } {
  const min: [number, number] = [Infinity, Infinity];
  const max: [number, number] = [-Infinity, -Infinity];
  // The extremes lie at the ends and where the circle crosses an axis.
  const angles = [0, degrees, ...[90, 180, 270, 360].filter((a) => a < degrees)].map((a) => (a * Math.PI) / 180);
  for (const angle of angles)
    for (const r of [1, inner])
      [Math.cos(angle) * r, Math.sin(angle) * r].forEach((v, axis) => {
        min[axis] = Math.min(min[axis], v);
        max[axis] = Math.max(max[axis], v);
      });
  return { min, max };
}

/** Outer radii along x and y with which a winding stair fills a box, and its middle. */
export function windingFrame(box: Box3, degrees: number, inner: number): { centre: [number, number]; radius: [number, number] } {
  const unit = sectorBounds(degrees, inner);
  const radius = [0, 1].map((axis) => (box.max[axis] - box.min[axis]) / (unit.max[axis] - unit.min[axis])) as [number, number];
  return { radius, centre: [0, 1].map((axis) => box.min[axis] - unit.min[axis] * radius[axis]) as [number, number] };
}

/**
 * Steps round a middle, climbing counter-clockwise from +x through `degrees`, from `inner` (share of the outer
 * radius) outwards; together they fill the box. With `hanging` each step is two risers thick instead of reaching
 * the floor, so that a stair of more than one turn leaves headroom.
 */
export function windingStair(box: Box3, steps: number, degrees: number, inner: number, hanging: boolean, material: string): Solid[] {
  const least = Math.max(inner, 0.02);
  const { centre, radius } = windingFrame(box, degrees, least);
  const riser = (box.max[2] - box.min[2]) / steps;
  return Array.from({ length: steps }, (_, i) => {
    const angles = [0, 1].map((k) => (((i + k) / steps) * degrees * Math.PI) / 180);
    const top = box.min[2] + (i + 1) * riser;
    const bottom = hanging ? Math.max(box.min[2], top - 2 * riser) : box.min[2];
    const points = angles.flatMap((angle) =>
      [1, least].flatMap((share) =>
        [bottom, top].map((z): Vec3 => [centre[0] + radius[0] * share * Math.cos(angle), centre[1] + radius[1] * share * Math.sin(angle), z]),
      ),
    );
    return around(points, material);
  });
}

export interface Opening {
  wall: 'west' | 'east' | 'south' | 'north';
  /** Middle of the opening along the wall, as a share of the inner length from its lower end. */
  at: number;
  width: number;
  /** Heights above the floor; a door begins at 0. */
  sill: number;
  height: number;
}

const WALLS = ['west', 'east', 'south', 'north'] as const;

/** A room shell with openings cut through its walls. */
export function roomWithOpenings(inner: Box3, thickness: number, openings: readonly Opening[], material: string): Solid[] {
  const slabs = roomShell(inner, thickness, material);
  return slabs.flatMap((slab, i) => {
    let pieces = [slab];
    for (const opening of openings) {
      if (WALLS[i - 2] !== opening.wall) continue;
      const along = opening.wall === 'west' || opening.wall === 'east' ? 1 : 0;
      const through = along === 1 ? 0 : 1;
      const middle = inner.min[along] + (inner.max[along] - inner.min[along]) * opening.at;
      const hole: Box3 = { min: [...inner.min], max: [...inner.max] };
      hole.min[along] = middle - opening.width / 2;
      hole.max[along] = middle + opening.width / 2;
      hole.min[through] = inner.min[through] - thickness * 2;
      hole.max[through] = inner.max[through] + thickness * 2;
      hole.min[2] = inner.min[2] + opening.sill;
      hole.max[2] = Math.min(inner.max[2], inner.min[2] + opening.sill + opening.height);
      pieces = pieces.flatMap((piece) => subtractSolid(piece, block(hole, material)));
    }
    return pieces;
  });
}
