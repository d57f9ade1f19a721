/** Walls of a map at the height of somebody’s eyes: where solids and closed doors cut that level, as line segments. */

import { findMaterial, type CrateWorld } from '../crate/world.ts';
import type { GameMap } from '../document/schema.ts';
import { boxCorners, type Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { collidersOf } from '../map/member/members.ts';
import { wears } from '../map/member/collider.ts';
import { objectBox } from '../map/objectBox.ts';
import { partsOf } from '../profile/parts.ts';
import { materialType } from '../profile/schema.ts';
import { convexHull, shapeOf } from '../solid/shape.ts';
import type { Point2, Segment } from './visible.ts';

/** Parts whose block stands in the way as long as nothing has moved it. */
const DOORS = new Set(['mover', 'hinge', 'breakable']);

/** @param z height of the eyes @param near only what comes into this box, in x and y */
export function wallsAt(world: CrateWorld, map: GameMap, z: number, near?: Box3): Segment[] {
  const opaque = new Map<string, boolean>();
  const stops = (material: string): boolean => {
    let known = opaque.get(material);
    if (known === undefined)
      opaque.set(material, (known = materialType(world.profile, findMaterial(world, material)?.material.type ?? '')?.opaque ?? true));
    return known;
  };
  const misses = (box: Box3): boolean =>
    box.min[2] > z ||
    box.max[2] < z ||
    (near !== undefined && [0, 1].some((axis) => box.min[axis] > near.max[axis] || box.max[axis] < near.min[axis]));
  const walls: Segment[] = [];
  for (const collider of collidersOf(map)) {
    if (misses(collider.box) || !wears(collider, stops)) continue;
    for (const { winding } of shapeOf(collider.solid).polygons) {
      const cut = cutAt(winding, z);
      if (cut) walls.push(cut);
    }
  }
  for (const object of Object.values(map.objects)) {
    if (!partsOf(world.profile, object.class).some(({ id }) => DOORS.has(id))) continue;
    const straight = objectBox(world, { ...object, turn: 0 });
    const box = objectBox(world, object);
    if (misses(box)) continue;
    const [c, s] = [Math.cos((object.turn * Math.PI) / 180), Math.sin((object.turn * Math.PI) / 180)];
    const corners = convexHull(
      boxCorners(straight).map(([x, y]): [number, number] => {
        const [dx, dy] = [x - object.position[0], y - object.position[1]];
        return [object.position[0] + dx * c - dy * s, object.position[1] + dx * s + dy * c];
      }),
    );
    corners.forEach((corner, i) => walls.push([corner, corners[(i + 1) % corners.length]]));
  }
  return walls;
}

/** Where a convex polygon meets a level, or null. */
function cutAt(winding: readonly Vec3[], z: number): Segment | null {
  const points: Point2[] = [];
  winding.forEach((a, i) => {
    const b = winding[(i + 1) % winding.length];
    if (a[2] <= z === b[2] <= z) return;
    const t = (z - a[2]) / (b[2] - a[2]);
    points.push([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
  });
  return points.length === 2 ? [points[0], points[1]] : null;
}
