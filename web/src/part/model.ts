import { toGltf } from '@violet-crate/core/stages/pack/gltfSpace';
import type { Look } from './look.ts';

export const model: Look = {
  inGame: true,
  async trialBody({ item, metres, model: load }) {
    const { object, properties } = item;
    const node = typeof properties.model === 'string' && properties.model !== '' ? await load(properties.model) : null;
    if (!node) return null;
    node.position.set(...toGltf(object.position, metres));
    node.rotation.y = (object.turn * Math.PI) / 180;
    return { node, rest: object.position };
  },
};
