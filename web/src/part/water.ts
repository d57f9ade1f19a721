import { Color, Mesh, MeshBasicMaterial, PlaneGeometry } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import type { Look } from './look.ts';

/** Metres that one repeat of its texture covers. */
const REPEAT = 2;
/** Water lower than this, in units, is not drawn. */
const SHALLOW = 0.5;

export const water: Look = {
  frame: 'line',
  inGame: true,
  body: { colour: () => '#4f9aa0', opacity: 0.4 },
  async trialBody({ item, box, metres, texture, brightness }) {
    const [w, d] = boxSize(box).map((v) => v * metres);
    const [x, y] = boxCentre(box);
    const map = (await texture(item.properties.material))?.clone() ?? null;
    map?.repeat.set(w / REPEAT, d / REPEAT);
    const color = new Color(...brightness([x, y, box.max[2]])).multiplyScalar(2.4);
    const node = new Mesh(new PlaneGeometry(w, d).rotateX(-Math.PI / 2), new MeshBasicMaterial({ map, color, transparent: true, opacity: 0.8 }));
    return {
      node,
      rest: [x, y, box.min[2]],
      update({ live }) {
        node.visible = live.level > SHALLOW;
        node.position.set(...toGltf([x, y, box.min[2] + live.level], metres));
      },
    };
  },
};
