/** What objects make of the space around the player and things: water, currents, mud, ladders. */

import { boxesTouch, type Box3 } from '../math/box3.ts';
import { add, type Vec3 } from '../math/vec3.ts';
import type { Climb } from '../part/part.ts';
import type { Liquid } from './bodies.ts';
import { SKIN } from './collide.ts';
import type { TrialObject } from './objects.ts';

const flowOf = ({ parts }: TrialObject): Vec3 => parts.reduce<Vec3>((sum, { part, life }) => add(sum, part.flow?.(life) ?? [0, 0, 0]), [0, 0, 0]);

export function liquidsOf(objects: Iterable<TrialObject>): Liquid[] {
  const liquids: Liquid[] = [];
  for (const item of objects)
    for (const { part, life } of item.parts) {
      const space = part.liquid?.(life);
      if (space) liquids.push({ space, flow: flowOf(item) });
    }
  return liquids;
}

/** The deepest water at a box, as the share of its height that is under it. */
export function waterAt(objects: Iterable<TrialObject>, box: Box3): { depth: number; flow: Vec3 } | null {
  let deepest: { depth: number; flow: Vec3 } | null = null;
  for (const { space, flow } of liquidsOf(objects)) {
    if (!boxesTouch(space, box)) continue;
    const depth = Math.min(1, (space.max[2] - Math.max(space.min[2], box.min[2])) / (box.max[2] - box.min[2]));
    if (depth > (deepest?.depth ?? 0)) deepest = { depth, flow };
  }
  return deepest;
}

/** The least share of the walking speed that anything leaves. */
export function dragOn(objects: Iterable<TrialObject>): number {
  let least = 1;
  for (const { parts } of objects) for (const { part, life } of parts) least = Math.min(least, part.drag?.(life) ?? 1);
  return least;
}

export function climbAt(objects: Iterable<TrialObject>, box: Box3): Climb | null {
  for (const { climbs } of objects) for (const climb of climbs) if (boxesTouch(box, climb.space, SKIN * 2)) return climb;
  return null;
}
