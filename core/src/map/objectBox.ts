/** The space that an object takes up in the map, axis-aligned, in units. */

import { assetRecord, type CrateWorld } from '../crate/world.ts';
import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { classOf, hasPart, type Profile } from '../profile/schema.ts';
import { shapeOf } from '../solid/shape.ts';
import type { MapObject } from '../document/schema.ts';
import { vectorOf } from '../document/value.ts';

/** From its size about the centre of its bottom; objects with a `size` property use that. */
export function classBox(profile: Profile, object: MapObject): Box3 {
  if (object.shape) return shapeOf(object.shape).box;
  const size = vectorOf(object.properties.size) ?? classOf(profile, object.class)?.size ?? [8, 8, 8];
  return boxAbout(object.position, [-size[0] / 2, -size[1] / 2, 0], [size[0] / 2, size[1] / 2, size[2]], turnsBox(profile, object) ? object.turn : 0);
}

/** Like classBox, but objects with a model take the model's bounds. */
export function objectBox(world: CrateWorld, object: MapObject): Box3 {
  const model = hasPart(world.profile, object.class, 'model') ? object.properties.model : undefined;
  const bounds = typeof model === 'string' ? assetRecord(world, model)?.bounds : undefined;
  return bounds ? boxAbout(object.position, bounds.min, bounds.max, object.turn) : classBox(world.profile, object);
}

/** Volumes and water are axis-aligned; their turn says where things leave them, not how they lie. */
const turnsBox = (profile: Profile, object: MapObject): boolean =>
  !hasPart(profile, object.class, 'volume') && !hasPart(profile, object.class, 'water');

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
  const tidy = (v: number) => Math.round(v * 1e6) / 1e6;
  return {
    min: [position[0] + tidy(Math.min(...xs)), position[1] + tidy(Math.min(...ys)), position[2] + min[2]],
    max: [position[0] + tidy(Math.max(...xs)), position[1] + tidy(Math.max(...ys)), position[2] + max[2]],
  };
}
