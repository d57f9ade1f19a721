import type { Vec3 } from '../../math/vec3.ts';
import { applyAffine, isMove, turnOf, type Affine } from '../../solid/transform.ts';

/** What stands upright after an affine map: at its new place, turned as far as the map turns about z. */
export const placedUpright = <T extends { position: Vec3; turn: number }>(member: T, affine: Affine): T => ({
  ...member,
  position: applyAffine(affine, member.position),
  turn: isMove(affine) ? member.turn : turnOf(affine, member.turn),
});
