/**
 * Sweeps an axis-aligned box against convex solids. A plane of the solid is moved outwards by the box's
 * support in its direction (a Minkowski sum), after which the box is a point. Axial planes of the solid's
 * own box are added, so that slanted solids do not catch at their sharp edges.
 */

import { boxCorners, boxesTouch, boxOfPoints, type Box3 } from '../math/box3.ts';
import { isTurned, posePoint, turnVector, type Pose } from '../math/pose.ts';
import { dot, type Vec3 } from '../math/vec3.ts';
import { baseWinding, clipBehind } from '../solid/winding.ts';

type PlaneRow = [number, number, number, number];

export interface Obstacle {
  id: string;
  /** nx, ny, nz, d */
  planes: PlaneRow[];
  /** Ids of the kinds of surface of its planes, empty where none is stated; without it none is. */
  surfaces?: readonly string[];
  corners: readonly Vec3[];
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
  /** Kind of the surface that stopped it, or empty. */
  surface: string;
  /** The start itself lies inside an obstacle. */
  stuck: boolean;
}

/** Distance kept from surfaces, in units. */
export const SKIN = 1 / 64;

/** @param surfaces kinds of surface of the planes */
export function obstacleFromPlanes(id: string, planes: readonly PlaneRow[], surfaces: readonly string[] = []): Obstacle {
  const asPlanes = planes.map(([x, y, z, d]) => ({ normal: [x, y, z] as Vec3, distance: d }));
  const corners = new Map<string, Vec3>();
  asPlanes.forEach((plane, index) => {
    let winding: Vec3[] | null = baseWinding(plane);
    asPlanes.forEach((other, j) => {
      if (j !== index) winding = winding && clipBehind(winding, other);
    });
    // Every corner lies on three planes or more.
    for (const point of winding ?? []) corners.set(point.map((v) => Math.round(v * 1024)).join(), point);
  });
  return bevelled(id, planes, surfaces, [...corners.values()]);
}

export function obstacleFromBox(id: string, box: Box3): Obstacle {
  return { id, planes: axialPlanes(box), corners: boxCorners(box), box };
}

/** An obstacle whose corners are known already. */
export const obstacleFromCorners = (id: string, planes: readonly PlaneRow[], surfaces: readonly string[], corners: readonly Vec3[]): Obstacle =>
  bevelled(id, planes, surfaces, corners);

/** With the planes of its own box, which feel like the surface that looks most nearly their way. */
function bevelled(id: string, planes: readonly PlaneRow[], surfaces: readonly string[], corners: readonly Vec3[]): Obstacle {
  const box = boxOfPoints(corners);
  const axial = axialPlanes(box);
  const likest = ([x, y, z]: PlaneRow): string => {
    let best = 0;
    planes.forEach((plane, i) => {
      if (facing(plane, [x, y, z]) > facing(planes[best], [x, y, z])) best = i;
    });
    return surfaces[best] ?? '';
  };
  return {
    id,
    planes: [...planes.map((p) => [...p] as PlaneRow), ...axial],
    ...(surfaces.some(Boolean) ? { surfaces: [...planes.map((_, i) => surfaces[i] ?? ''), ...axial.map(likest)] } : {}),
    corners,
    box,
  };
}

const facing = ([x, y, z]: PlaneRow, way: Vec3): number => dot([x, y, z], way);

function axialPlanes(box: Box3): PlaneRow[] {
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
  const shifted = (p: Vec3): Vec3 => [p[0] + by[0], p[1] + by[1], p[2] + by[2]];
  return {
    ...obstacle,
    planes: obstacle.planes.map(([x, y, z, d]) => [x, y, z, d + x * by[0] + y * by[1] + z * by[2]]),
    corners: obstacle.corners.map(shifted),
    box: { min: shifted(obstacle.box.min), max: shifted(obstacle.box.max) },
  };
}

/** The obstacle where a pose has brought it, `origin` being where the origin of its object rests. */
export function poseObstacle(obstacle: Obstacle, pose: Pose, origin: Vec3): Obstacle {
  if (!isTurned(pose)) return shiftObstacle(obstacle, pose.offset);
  // The planes of its own box are made anew: they do not turn with it.
  const own = obstacle.planes.slice(0, -6);
  const planes = (own.length > 0 ? own : obstacle.planes).map(([x, y, z, d]): PlaneRow => {
    const normal = turnVector(pose.turn, [x, y, z]);
    const moved = posePoint(pose, origin, [x * d, y * d, z * d]);
    return [...normal, dot(normal, moved)];
  });
  const corners = obstacle.corners.map((corner) => posePoint(pose, origin, corner));
  return bevelled(obstacle.id, planes, obstacle.surfaces ?? [], corners);
}

/** Sweeps the box about `from` by `motion`. */
export function sweepBox(obstacles: readonly Obstacle[], from: Vec3, half: Half, motion: Vec3): Sweep {
  const swept: Box3 = {
    min: [0, 1, 2].map((a) => from[a] + Math.min(0, motion[a]) - half[a] - SKIN) as Vec3,
    max: [0, 1, 2].map((a) => from[a] + Math.max(0, motion[a]) + half[a] + SKIN) as Vec3,
  };
  const best: Sweep = { fraction: 1, normal: null, obstacle: null, surface: '', stuck: false };
  for (const obstacle of obstacles) {
    if (!boxesTouch(swept, obstacle.box)) continue;
    let enter = -Infinity;
    let leave = 1;
    let normal: Vec3 | null = null;
    let met = 0;
    let outside = false;
    for (let i = 0; i < obstacle.planes.length; i++) {
      const [x, y, z, d] = obstacle.planes[i];
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
          met = i;
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
      best.surface = obstacle.surfaces?.[met] ?? '';
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
