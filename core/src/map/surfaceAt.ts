import type { SurfacePoint } from '../decal/place.ts';
import type { GameMap } from '../document/schema.ts';
import { addScaled, type Vec3 } from '../math/vec3.ts';
import { pickSolids } from './pick.ts';

/** The first surface of solids that a ray comes to; null where there is none. @param whole the map with what copies stand for */
export function surfaceAt(
  map: GameMap,
  whole: Pick<GameMap, 'solids'>,
  origin: Vec3,
  direction: Vec3,
  shown?: (id: string) => boolean,
): SurfacePoint | null {
  const [hit] = pickSolids(whole.solids, origin, direction, shown);
  return hit ? surfacePoint(map, whole, hit, addScaled(origin, direction, hit.t)) : null;
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
