/** How a decal lies in space. */

import type { Decal } from '../document/schema.ts';
import { boxOfPoints, type Box3 } from '../math/box3.ts';
import { addScaled, cross, dot, normalise, type Vec3 } from '../math/vec3.ts';

/** What of a decal says where and how it is seen. */
export type ThrownDecal = Omit<Decal, 'name' | 'on' | 'rule' | 'layer'>;

export interface DecalFrame {
  /** Unit vectors to its right, to its top and away from the surface; right-handed. */
  right: Vec3;
  up: Vec3;
  normal: Vec3;
}

/** Normals steeper than this are floors and ceilings: the top of what lies there is +y. */
const FLOOR = 0.9;

export function frameOf({ normal: given, turn }: Pick<Decal, 'normal' | 'turn'>): DecalFrame {
  const normal = normalise(given);
  const towards: Vec3 = Math.abs(normal[2]) > FLOOR ? [0, 1, 0] : [0, 0, 1];
  const straight = normalise(addScaled(towards, normal, -dot(towards, normal)));
  const aside = cross(straight, normal);
  const angle = (turn * Math.PI) / 180;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const right = [0, 1, 2].map((k) => aside[k] * c + straight[k] * s) as Vec3;
  return { right, up: cross(normal, right), normal };
}

/** The four corners of its picture in the plane of its middle: from the lower left counter-clockwise, seen from outside. */
export function cornersOf(decal: Pick<Decal, 'position' | 'normal' | 'turn' | 'size'>): Vec3[] {
  const { right, up } = frameOf(decal);
  const [w, h] = decal.size;
  return (
    [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const
  ).map(([r, u]) => addScaled(addScaled(decal.position, right, (r * w) / 2), up, (u * h) / 2));
}

/** The space into which it is thrown. */
export function decalBox(decal: Pick<Decal, 'position' | 'normal' | 'turn' | 'size' | 'depth'>): Box3 {
  const { normal } = frameOf(decal);
  return boxOfPoints(cornersOf(decal).flatMap((corner) => [addScaled(corner, normal, decal.depth), addScaled(corner, normal, -decal.depth)]));
}
