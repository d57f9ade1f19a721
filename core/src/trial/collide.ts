/**
 * Sweeps an axis-aligned box against convex solids. A plane of the solid is moved outwards by the box's
 * support in its direction (a Minkowski sum), after which the box is a point. Axial planes of the solid's
 * own box are added, so that slanted solids do not catch at their sharp edges.
 */

import { boxesTouch, type Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { baseWinding, clipBehind } from '../solid/winding.ts';

export interface Obstacle {
  id: string;
  /** nx, ny, nz, d */
  planes: [number, number, number, number][];
  box: Box3;
}

/** A box from its centre: half extents. */
export type Half = Vec3;

export interface Sweep {
  /** Share of the way that is free, 0..1. */
  fraction: number;
  /** Normal of what stopped it, or null. */
  normal: Vec3 | null;
  obstacle: Obstacle | null;
  /** The start itself lies inside an obstacle. */
  stuck: boolean;
}

/** Distance kept from surfaces, in units. */
export const SKIN = 1 / 64;

export function obstacleFromPlanes(id: string, planes: readonly [number, number, number, number][]): Obstacle {
  const asPlanes = planes.map(([x, y, z, d]) => ({ normal: [x, y, z] as Vec3, distance: d }));
  const box: Box3 = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
  asPlanes.forEach((plane, index) => {
    let winding: Vec3[] | null = baseWinding(plane);
    asPlanes.forEach((other, j) => {
      if (j !== index) winding = winding && clipBehind(winding, other);
    });
    for (const point of winding ?? []) {
      for (let axis = 0; axis < 3; axis++) {
        box.min[axis] = Math.min(box.min[axis], point[axis]);
        box.max[axis] = Math.max(box.max[axis], point[axis]);
      }
    }
  });
  return { id, planes: [...planes.map((p) => [...p] as [number, number, number, number]), ...axialPlanes(box)], box };
}

export function obstacleFromBox(id: string, box: Box3): Obstacle {
  return { id, planes: axialPlanes(box), box };
}

function axialPlanes(box: Box3): [number, number, number, number][] {
  return [
    [1, 0, 0, box.max[0]],
    [-1, 0, 0, -box.min[0]],
    [0, 1, 0, box.max[1]],
    [0, -1, 0, -box.min[1]],
    [0, 0, 1, box.max[2]],
    [0, 0, -1, -box.min[2]],
  ];
}

/** The obstacle moved by an offset; cheap enough for every frame. */
export function shiftObstacle(obstacle: Obstacle, by: Vec3): Obstacle {
  return {
    id: obstacle.id,
    planes: obstacle.planes.map(([x, y, z, d]) => [x, y, z, d + x * by[0] + y * by[1] + z * by[2]]),
    box: {
      min: [obstacle.box.min[0] + by[0], obstacle.box.min[1] + by[1], obstacle.box.min[2] + by[2]],
      max: [obstacle.box.max[0] + by[0], obstacle.box.max[1] + by[1], obstacle.box.max[2] + by[2]],
    },
  };
}

/** Sweeps the box about `from` by `motion`. */
export function sweepBox(obstacles: readonly Obstacle[], from: Vec3, half: Half, motion: Vec3): Sweep {
  const swept: Box3 = {
    min: [0, 1, 2].map((a) => from[a] + Math.min(0, motion[a]) - half[a] - SKIN) as Vec3,
    max: [0, 1, 2].map((a) => from[a] + Math.max(0, motion[a]) + half[a] + SKIN) as Vec3,
  };
  const best: Sweep = { fraction: 1, normal: null, obstacle: null, stuck: false };
  for (const obstacle of obstacles) {
    if (!boxesTouch(swept, obstacle.box)) continue;
    let enter = -Infinity;
    let leave = 1;
    let normal: Vec3 | null = null;
    let outside = false;
    for (const [x, y, z, d] of obstacle.planes) {
      const reach = d + Math.abs(x) * half[0] + Math.abs(y) * half[1] + Math.abs(z) * half[2];
      const start = x * from[0] + y * from[1] + z * from[2] - reach;
      const speed = x * motion[0] + y * motion[1] + z * motion[2];
      if (start > 0) outside = true;
      if (start > 0 && speed >= 0) {
        enter = Infinity;
        break;
      }
      if (speed < 0) {
        // Stop a skin's width before the plane.
        const t = (start - SKIN) / -speed;
        if (t > enter) {
          enter = t;
          normal = [x, y, z];
        }
      } else if (speed > 0) leave = Math.min(leave, -start / speed);
    }
    if (enter === Infinity) continue;
    if (!outside) {
      best.stuck = true;
      continue;
    }
    if (enter < leave && enter < best.fraction && normal) {
      best.fraction = Math.max(0, enter);
      best.normal = normal;
      best.obstacle = obstacle;
    }
  }
  return best;
}

/** The obstacles that a box overlaps by more than the skin. */
export function overlapping(obstacles: readonly Obstacle[], centre: Vec3, half: Half): Obstacle[] {
  return obstacles.filter((obstacle) =>
    obstacle.planes.every(
      ([x, y, z, d]) =>
        x * centre[0] + y * centre[1] + z * centre[2] - d - Math.abs(x) * half[0] - Math.abs(y) * half[1] - Math.abs(z) * half[2] < -SKIN / 2,
    ),
  );
}
