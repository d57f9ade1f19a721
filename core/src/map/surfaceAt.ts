import type { SurfacePoint } from '../decal/place.ts';
import type { GameMap } from '../document/schema.ts';
import { addScaled, type Vec3 } from '../math/vec3.ts';
import { groundsOf } from '../terrain/ground.ts';
import { rayGround } from '../terrain/ray.ts';
import { pickSolids } from './pick.ts';

/** The first surface of solids or of ground that a ray comes to; null where there is none. @param whole the map with what copies stand for */
export function surfaceAt(
  map: GameMap,
  whole: Pick<GameMap, 'solids'>,
  origin: Vec3,
  direction: Vec3,
  shown?: (id: string) => boolean,
): SurfacePoint | null {
  const [hit] = pickSolids(whole.solids, origin, direction, shown);
  const ground = groundPoint(map, origin, direction);
  if (ground && (!hit || ground.t < hit.t)) return ground;
  return hit ? surfacePoint(map, whole, hit, addScaled(origin, direction, hit.t)) : null;
}

/** Where a ray meets ground from above, in lengths of its direction; null where it does not. */
export function groundPoint(map: Pick<GameMap, 'terrains' | 'tiles'>, origin: Vec3, direction: Vec3): (SurfacePoint & { t: number }) | null {
  let best: (SurfacePoint & { t: number }) | null = null;
  for (const ground of groundsOf(map)) {
    const t = rayGround(ground, origin, direction);
    if (t === null || (best && best.t <= t)) continue;
    const point = addScaled(origin, direction, t);
    best = { t, point, normal: ground.normalAt(point[0], point[1]) };
  }
  return best;
}

/** A point on a face of a solid. */
export const surfacePoint = (
  map: GameMap,
  whole: Pick<GameMap, 'solids'>,
  { solid, face }: { solid: string; face: number },
  point: Vec3,
): SurfacePoint => ({
  point,
  normal: whole.solids[solid].faces[face].normal,
  ...(map.solids[solid] ? { solid } : {}),
});
