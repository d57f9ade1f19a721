import { cross, normalise, sub, type Vec3 } from '../../math/vec3.ts';
import { decalBox, frameOf } from '../../decal/frame.ts';
import { byHand } from '../../decal/place.ts';
import { tidy } from '../../math/tidy.ts';
import { applyAffine } from '../../solid/transform.ts';
import { layered } from './layered.ts';
import type { MemberFacts } from './member.ts';

export const decal: MemberFacts<'decals'> = {
  kind: 'decals',
  word: 'decal',
  words: 'decals',
  label: (_id, { name }) => name,
  box: (_id, member) => decalBox(member),
  transform(member, affine) {
    const { right, up } = frameOf(member);
    const position = applyAffine(affine, member.position);
    const carried = (v: Vec3): Vec3 => sub(applyAffine(affine, [0, 1, 2].map((k) => member.position[k] + v[k]) as Vec3), position);
    const [r, u] = [carried(right), carried(up)];
    // A mirror turns the two about; what is thrown still looks away from its surface.
    const flat = cross(r, u);
    const away = carried(frameOf(member).normal);
    const side = flat[0] * away[0] + flat[1] * away[1] + flat[2] * away[2] < 0 ? -1 : 1;
    const normal = normalise([flat[0] * side, flat[1] * side, flat[2] * side]);
    const straight = frameOf({ normal, turn: 0 });
    const [a, b] = [straight.right, straight.up].map((axis) => axis[0] * r[0] + axis[1] * r[1] + axis[2] * r[2]);
    return { ...byHand(member), position, normal, turn: tidy((Math.atan2(b, a) * 180) / Math.PI) };
  },
  found: (_id, member, { map }) => [['name', member.name], ['class', 'decal'], ['material', member.material], ...layered(member, map)],
};
