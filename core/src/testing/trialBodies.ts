/** Things that physics moves, for tests of runs. */

import type { MapObject } from '../document/schema.ts';
import type { Vec3 } from '../math/vec3.ts';
import { boxHull, type ModelBody } from '../stages/pack/bodies.ts';
import { made } from './maps.ts';

export const BOX_MODEL = 'models/box.glb';

/** A cube about its bottom, as a build has it. */
export function cubeBody(side: number, mass: number, friction = 0.6): ModelBody {
  const half = side / 2;
  return { mass, friction, hulls: [boxHull({ min: [-half, -half, 0], max: [half, half, side] })] };
}

export const movable = (name: string, at: Vec3, model = BOX_MODEL): MapObject => made('prop', name, at, { model, movable: true });
