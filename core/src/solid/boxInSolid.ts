import type { Solid } from '../document/schema.ts';
import type { Box3 } from '../math/box3.ts';
import type { Vec3 } from '../math/vec3.ts';
import { planeSide } from './winding.ts';

/** Whether a box and a convex solid share more than `slack`: no face plane has the box in front of it. */
export function boxInSolid(box: Box3, solid: Solid, slack: number): boolean {
  return solid.faces.every((face) => planeSide(face, face.normal.map((n, axis) => (n >= 0 ? box.min[axis] : box.max[axis])) as Vec3) <= -slack);
}
