/** Things that physics moves, for tests of runs. */

import type { MapObject } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import type { ModelBody } from '../stages/pack/bodies.ts';
import { made } from './maps.ts';

export const BOX_MODEL = 'models/box.glb';

/** A cube about its bottom, as a build has it. */
export function cubeBody(side: number, mass: number, friction = 0.6): ModelBody {
  const half = side / 2;
  return { mass, friction, hulls: [[0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [i & 1 ? half : -half, i & 2 ? half : -half, i & 4 ? side : 0])] };
}

export const movable = (name: string, at: Vec3, model = BOX_MODEL): MapObject => made('prop', name, at, { model, movable: true });
