/**
 * What of a map stands in the way of rays, boxes and bodies, whatever kind of member it comes from. All of it is convex so
 * far; a ground of heights is to become a second kind here, and the functions below get a case for it.
 */

import type { MemberKind } from '../../document/members.ts';
import type { Solid } from '../../document/schema.ts';
import { boxesTouch, type Box3 } from '../../math/box3.ts';
import type { Vec3 } from '../../math/vec3.ts';
import { boxInSolid } from '../../solid/boxInSolid.ts';
import { rayBox, raySolid } from '../../solid/ray.ts';

export interface ConvexCollider {
  kind: 'convex';
  of: MemberKind;
  id: string;
  box: Box3;
  /** Its planes, with the material of each. */
  solid: Solid;
}

export type Collider = ConvexCollider;

/** Whether a box lies within what collides, by more than `slack` on every side. */
export const holdsBox = (collider: Collider, box: Box3, slack: number): boolean =>
  boxesTouch(box, collider.box, slack) && boxInSolid(box, collider.solid, slack);

/** Whether what collides wears a material for which the test holds. */
export const wears = (collider: Collider, test: (material: string) => boolean): boolean => collider.solid.faces.some((face) => test(face.material));

/** Height of the surface that an upright ray from `from` downwards meets first, or null where there is none. */
export function surfaceBelow(colliders: readonly Collider[], from: Vec3): number | null {
  const down: Vec3 = [0, 0, -1];
  let nearest = Infinity;
  for (const { box, solid } of colliders) {
    if (rayBox(box, from, down) >= nearest) continue;
    const hit = raySolid(solid, from, down);
    if (hit && hit.t < nearest) nearest = hit.t;
  }
  return nearest < Infinity ? from[2] - nearest : null;
}
