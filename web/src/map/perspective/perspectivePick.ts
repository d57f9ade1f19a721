/** What lies under a point of the perspective. */

import { Raycaster, Vector2, type Camera } from 'three';
import { findMaterial, type CrateWorld } from '@violet-crate/core/crate/world';
import { objectBox } from '@violet-crate/core/map/objectBox';
import { lyingAt } from '@violet-crate/core/decal/place';
import { groundPoint, surfacePoint } from '@violet-crate/core/map/surfaceAt';
import { lyingOf } from '@violet-crate/core/decal/throwing';
import { pickSolids } from '@violet-crate/core/map/pick';
import { leavingFace, rayBox } from '@violet-crate/core/solid/ray';
import type { GameMap } from '@violet-crate/core/document/schema';
import { addScaled, type Vec3 } from '@violet-crate/core/math/vec3';
import { factOf } from '@violet-crate/core/profile/parts';
import { materialType } from '@violet-crate/core/profile/schema';
import { shapeOf } from '@violet-crate/core/solid/shape';
import { isShown, type ViewState } from '../../state/viewSlice.ts';

/** In map units, from the eye. */
export interface Ray {
  origin: Vec3;
  direction: Vec3;
}

export interface Hit {
  t: number;
  point: Vec3;
  solid?: string;
  face?: number;
  object?: string;
  decal?: string;
  overlay?: string;
}

/** Where a pointer is, in pixels of the window. */
export interface PointerAt {
  clientX: number;
  clientY: number;
}

/** The ray through a point of the picture. */
export function pointerRay(event: PointerAt, picture: HTMLElement, camera: Camera, metres: number): Ray {
  const box = picture.getBoundingClientRect();
  const caster = new Raycaster();
  caster.setFromCamera(new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2), camera);
  const { origin: o, direction: d } = caster.ray;
  return { origin: [o.x / metres, -o.z / metres, o.y / metres], direction: [d.x, -d.z, d.y] };
}

/** Faces of solids and objects along a ray, nearest first, as far as they are shown. */
export function pickPerspective(
  ray: Ray,
  { world, whole, view, band }: { world: CrateWorld; whole: GameMap; view: ViewState; band: { top: number } },
): Hit[] {
  const { profile } = world;
  const { direction } = ray;
  let { origin } = ray;
  const game = view.look === 'game';
  const limit = view.cutAway && !game ? band.top - 0.5 : Infinity;
  // From above the cut the picture begins at the cut: solids that it goes through are seen from inside.
  if (origin[2] > limit) {
    if (direction[2] >= 0) return [];
    origin = addScaled(origin, direction, (limit - origin[2]) / direction[2]);
  }
  const at = (t: number): Vec3 => addScaled(origin, direction, t);
  const drawn = (solid: string, face: number) => {
    const material = findMaterial(world, whole.solids[solid].faces[face].material)?.material;
    return !(view.hideUnseen || game) || (materialType(profile, material?.type ?? '')?.drawn ?? true);
  };
  const shown = (id: string) => isShown(view, 'solids', id, whole.solids[id].layer);
  const within = Object.keys(whole.solids).flatMap((solid) => {
    if (rayBox(shapeOf(whole.solids[solid]).box, origin, direction) !== 0 || !shown(solid)) return [];
    const left = leavingFace(whole.solids[solid], origin, direction);
    return left ? [{ ...left, point: at(left.t), solid }] : [];
  });
  const solids = pickSolids(whole.solids, origin, direction, shown)
    .map((hit) => ({ ...hit, point: at(hit.t) }))
    .filter((hit) => hit.point[2] <= limit + 1e-6);
  const objects = Object.entries(whole.objects).flatMap(([object, value]) => {
    if (!isShown(view, 'objects', object, value.layer) || factOf(profile, value.class, 'hollow')) return [];
    const t = rayBox(objectBox(world, value), origin, direction);
    return Number.isFinite(t) && at(t)[2] <= limit ? [{ t, point: at(t), object }] : [];
  });
  const [front] = solids.filter((h) => drawn(h.solid, h.face));
  const all = lyingOf(whole);
  const ground = Object.keys(all).length > 0 ? groundPoint(whole, origin, direction) : null;
  const onGround = ground && ground.point[2] <= limit && (!front || ground.t < front.t) ? ground : null;
  const under = onGround ?? (front ? { ...surfacePoint(whole, whole, front, front.point), t: front.t } : null);
  const lying = under
    ? lyingAt(all, under).flatMap((id): Hit[] => {
        const kind = 'points' in all[id] ? 'overlays' : 'decals';
        return isShown(view, kind, id, all[id].layer) ? [{ t: under.t, point: under.point, [kind === 'decals' ? 'decal' : 'overlay']: id }] : [];
      })
    : [];
  return [...lying, ...within.filter((h) => drawn(h.solid, h.face)), ...solids.filter((h) => drawn(h.solid, h.face)), ...objects].sort(
    (a, b) => a.t - b.t,
  );
}
