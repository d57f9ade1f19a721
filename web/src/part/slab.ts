import { BoxGeometry, Color, Mesh, MeshLambertMaterial } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { vectorOf } from '@violet-crate/core/document/value';
import { boxSize } from '@violet-crate/core/math/box3';
import type { Vec3 } from '@violet-crate/core/math/vec3';
import type { TrialBody, TrialThing } from './look.ts';

/** A block of the object's `size` in its `material`, turned as the object is. */
export async function slab({ item, box, metres, texture, brightness }: TrialThing): Promise<TrialBody> {
  const { object, properties } = item;
  const size = vectorOf(properties.size) ?? boxSize(box);
  const [w, d, h] = size.map((v) => v * metres);
  const [x, y, z] = object.position;
  const rest: Vec3 = [x, y, z + size[2] / 2];
  const map = await texture(properties.material);
  const node = new Mesh(new BoxGeometry(w, h, d), new MeshLambertMaterial({ map, emissiveMap: map, emissive: new Color(...brightness(rest)) }));
  node.position.set(...toGltf(rest, metres));
  node.rotation.y = (object.turn * Math.PI) / 180;
  return { node, rest };
}
