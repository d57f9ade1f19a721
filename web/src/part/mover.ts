import { BoxGeometry, Color, Mesh, MeshLambertMaterial } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import type { Look } from './look.ts';

export const mover: Look = {
  frame: 'line',
  inGame: true,
  async trialBody({ item, box, metres, texture, brightness }) {
    const [w, d, h] = boxSize(box).map((v) => v * metres);
    const map = await texture(item.properties.material);
    const rest = boxCentre(box);
    const node = new Mesh(new BoxGeometry(w, h, d), new MeshLambertMaterial({ map, emissiveMap: map, emissive: new Color(...brightness(rest)) }));
    node.position.set(...toGltf(rest, metres));
    return { node, rest };
  },
};
