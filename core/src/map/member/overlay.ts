import { throwing } from '../../decal/throwing.ts';
import { normalise, sub, type Vec3 } from '../../math/vec3.ts';
import { applyAffine } from '../../solid/transform.ts';
import { layered } from './layered.ts';
import type { MemberFacts } from './member.ts';

export const overlay: MemberFacts<'overlays'> = {
  kind: 'overlays',
  word: 'overlay',
  words: 'overlays',
  label: (_id, { name }) => name,
  box: (_id, member) => throwing(member).box,
  transform: (member, affine) => ({
    ...member,
    points: member.points.map((p) => applyAffine(affine, p)),
    normal: normalise(sub(applyAffine(affine, member.normal), applyAffine(affine, [0, 0, 0] as Vec3))),
  }),
  found: (_id, member, { map }) => [['name', member.name], ['class', 'overlay'], ['material', member.material], ...layered(member, map)],
};
