/** The space that an object takes up in the map, axis-aligned, in units. */

import { assetRecord, type CrateWorld } from '../crate/world.ts';
import type { Box3 } from '../math/box3.ts';
import { tidy } from '../math/tidy.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { Climb } from '../part/part.ts';
import { factOf, partsOf } from '../profile/parts.ts';
import { classOf, type Profile } from '../profile/schema.ts';
import { shapeOf } from '../solid/shape.ts';
import type { GameMap, MapObject } from '../document/schema.ts';
import { vectorOf } from '../document/value.ts';

/** From its size about the centre of its bottom; objects with a `size` property use that. */
export function classBox(profile: Profile, object: MapObject): Box3 {
  if (object.shape) return shapeOf(object.shape).box;
  const size = vectorOf(object.properties.size) ?? classOf(profile, object.class)?.size ?? [8, 8, 8];
  return boxAbout(
    object.position,
    [-size[0] / 2, -size[1] / 2, 0],
    [size[0] / 2, size[1] / 2, size[2]],
    factOf(profile, object.class, 'upright') ? 0 : object.turn,
  );
}

/** The path of the model that an object is shown as; empty where it has none. */
export function modelOf(profile: Profile, object: Pick<MapObject, 'class' | 'properties'>): string {
  const property = factOf(profile, object.class, 'modelIn');
  const model = property && object.properties[property];
  return typeof model === 'string' ? model : '';
}

/** Like classBox, but objects with a model take the model's bounds, which `boundsOf` knows. */
export function boxWithModel(profile: Profile, object: MapObject, boundsOf: (model: string) => Box3 | undefined): Box3 {
  const model = modelOf(profile, object);
  const bounds = model === '' ? undefined : boundsOf(model);
  return bounds ? boxAbout(object.position, bounds.min, bounds.max, object.turn) : classBox(profile, object);
}

export const objectBox = (world: CrateWorld, object: MapObject): Box3 =>
  boxWithModel(world.profile, object, (model) => assetRecord(world, model)?.bounds);

function boxAbout(position: Vec3, min: Vec3, max: Vec3, turn: number): Box3 {
  const angle = (turn * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const xs: number[] = [];
  const ys: number[] = [];
  for (const x of [min[0], max[0]]) {
    for (const y of [min[1], max[1]]) {
      xs.push(x * c - y * s);
      ys.push(x * s + y * c);
    }
  }
  return {
    min: [position[0] + tidy(Math.min(...xs)), position[1] + tidy(Math.min(...ys)), position[2] + min[2]],
    max: [position[0] + tidy(Math.max(...xs)), position[1] + tidy(Math.max(...ys)), position[2] + max[2]],
  };
}

/** What can be climbed in a map. */
export const climbsOf = (profile: Profile, map: Pick<GameMap, 'objects'>): Climb[] =>
  Object.values(map.objects).flatMap((object) =>
    partsOf(profile, object.class).flatMap((part) => part.climb?.(object, classBox(profile, object)) ?? []),
  );
