/** The sound of a map as its objects and solids have it: areas, what walls take, how long rooms sound on. */

import { type SoundArea, type SoundWorld } from '../bed/hear.ts';
import { roomAt, type Room } from '../bed/reverb.ts';
import type { SoundCells } from '../bed/space.ts';
import { findMaterial, type CrateWorld } from '../crate/world.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import { boxCentre } from '../math/box3.ts';
import { sub, type Vec3 } from '../math/vec3.ts';
import { numberOf } from '../part/part.ts';
import { hasPart } from '../profile/parts.ts';
import { materialType } from '../profile/schema.ts';
import { objectBox } from './objectBox.ts';
import { pickSolids } from './pick.ts';

/** Of surfaces that say nothing: plaster, brick; common practice. */
const PLAIN = { absorbs: 0.04, loss: 45 };

/** What a material takes of sound; nothing stops it where players walk through. */
function acousticsOf(world: CrateWorld): (material: string) => { absorbs: number; loss: number; solid: boolean } {
  const known = new Map<string, { absorbs: number; loss: number; solid: boolean }>();
  return (name) => {
    let found = known.get(name);
    if (!found) {
      const material = findMaterial(world, name)?.material;
      const type = material && materialType(world.profile, material.type);
      const surface = world.profile.surfaces.find(({ id }) => id === material?.surface);
      const open = type?.sky === true;
      found = {
        absorbs: open ? 1 : (surface?.absorbs ?? PLAIN.absorbs),
        loss: open ? 0 : (surface?.loss ?? PLAIN.loss),
        solid: type?.collides ?? true,
      };
      known.set(name, found);
    }
    return found;
  };
}

export const isSoundArea = (world: Pick<CrateWorld, 'profile'>, object: Pick<MapObject, 'class'>): boolean =>
  hasPart(world.profile, object.class, 'bed');

export const areaOf = (world: CrateWorld, id: string, object: MapObject): SoundArea => ({
  id,
  bed: String(object.properties.bed ?? ''),
  box: objectBox(world, object),
  near: Math.max(0.001, numberOf(object.properties.near)),
  priority: numberOf(object.properties.priority),
});

/** @param whole the map with what copies stand for @param cells of its build; without them sound is heard straight and through walls only */
export function soundWorld(world: CrateWorld, whole: Pick<GameMap, 'objects' | 'solids'>, cells: SoundCells | null): SoundWorld {
  const of = acousticsOf(world);
  return {
    areas: Object.entries(whole.objects).flatMap(([id, object]) => (isSoundArea(world, object) ? [areaOf(world, id, object)] : [])),
    cells,
    metres: world.profile.unit.metres,
    lossAlong(from, to) {
      let loss = 0;
      for (const { solid, face, t } of pickSolids(whole.solids, from, sub(to, from))) {
        if (t >= 1) break;
        const { loss: takes, solid: stops } = of(whole.solids[solid].faces[face].material);
        if (stops) loss += takes;
      }
      return loss;
    },
  };
}

/** The room about a point by Sabine; null where nothing is around it. */
export function roomOf(world: CrateWorld, whole: Pick<GameMap, 'solids'>, from: Vec3): Room | null {
  const of = acousticsOf(world);
  return roomAt(
    from,
    (at, direction) => {
      for (const { solid, face, t } of pickSolids(whole.solids, at, direction)) {
        const { normal, material } = whole.solids[solid].faces[face];
        const { absorbs, solid: stops } = of(material);
        if (stops) return { distance: t, normal, absorbs };
      }
      return null;
    },
    world.profile.unit.metres,
  );
}

/** Seconds that an area sounds on: what is set, or what its room gives. */
export function reverbOf(world: CrateWorld, whole: Pick<GameMap, 'solids'>, object: MapObject): number {
  const set = numberOf(object.properties.reverb);
  if (set > 0) return set;
  const seconds = roomOf(world, whole, boxCentre(objectBox(world, object)))?.seconds ?? 0;
  return Math.min(20, seconds);
}
