import { Mesh, MeshLambertMaterial, OctahedronGeometry } from 'three';
import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import { boxCentre, boxSize } from '@violet-crate/core/math/box3';
import type { Look } from './look.ts';

/** A bag; without a model it is a small stone in the test run. */
export const item: Look = {
  colour: 'warm',
  inGame: true,
  mark(context) {
    context.strokeRect(-5, -3, 10, 9);
    context.moveTo(3, -3);
    context.arc(0, -3, 3, 0, Math.PI, true);
    context.stroke();
  },
  async trialBody({ item: { properties }, box, metres }) {
    if (typeof properties.model === 'string' && properties.model !== '') return null;
    const rest = boxCentre(box);
    const node = new Mesh(
      new OctahedronGeometry((Math.min(...boxSize(box)) * metres) / 2),
      new MeshLambertMaterial({ color: '#c9a14a', emissive: '#4a3a12' }),
    );
    node.position.set(...toGltf(rest, metres));
    return { node, rest };
  },
};
