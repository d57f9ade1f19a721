import { BoxGeometry, Color, Group, Mesh, MeshLambertMaterial } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import type { Look } from './look.ts';

/** Distance of two rungs and width of a pole, in metres. Common practice: rungs at 25 to 30 cm. */
const RUNG = 0.28;
const POLE = 0.05;

export const ladder: Look = {
  frame: 'line',
  points: true,
  inGame: true,
  mark(context) {
    for (const x of [-4, 4]) {
      context.moveTo(x, -7);
      context.lineTo(x, 7);
    }
    for (const y of [-4, 0, 4]) {
      context.moveTo(-4, y);
      context.lineTo(4, y);
    }
    context.stroke();
  },
  async trialBody({ item, box, metres, texture, brightness }) {
    const rest = boxCentre(box);
    const map = await texture(item.properties.material);
    const material = new MeshLambertMaterial({ map, emissiveMap: map, emissive: new Color(...brightness(rest)) });
    const node = new Group();
    const bar = (w: number, h: number, across: number, up: number) => {
      const mesh = new Mesh(new BoxGeometry(POLE, h, w), material);
      mesh.position.set(0, up, across);
      node.add(mesh);
    };
    // Rungs run across the way that it faces; its box lies along the axes.
    const size = boxSize(box).map((v) => v * metres);
    const quarter = Math.abs(Math.round(item.object.turn / 90)) % 2;
    const wide = size[quarter === 0 ? 1 : 0];
    for (const side of [-1, 1]) bar(POLE, size[2], (side * (wide - POLE)) / 2, 0);
    for (let up = RUNG / 2; up < size[2]; up += RUNG) bar(wide - POLE, POLE / 2, 0, up - size[2] / 2);
    node.rotation.y = (item.object.turn * Math.PI) / 180;
    node.position.set(...toGltf(rest, metres));
    return { node, rest };
  },
};
