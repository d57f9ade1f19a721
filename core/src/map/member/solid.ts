import { shapeOf } from '../../solid/shape.ts';
import { moveSolid } from '../../solid/solid.ts';
import { isMove, transformSolid } from '../../solid/transform.ts';
import { layered } from './layered.ts';
import type { MemberFacts } from './member.ts';

export const solid: MemberFacts<'solids'> = {
  kind: 'solids',
  word: 'solid',
  words: 'solids',
  label: (id, { label }) => label ?? id,
  box: (_id, member) => shapeOf(member).box,
  transform: (member, affine, carry) => (isMove(affine) && !carry ? moveSolid(member, affine.move) : transformSolid(member, affine, carry)),
  colliders: (id, member) => [{ kind: 'convex', of: 'solids', id, box: shapeOf(member).box, solid: member }],
  surfaces: (id, member) => [{ kind: 'faces', of: 'solids', id, solid: member }],
  found: (id, member, { map }) => [
    ['id', id],
    ['name', member.label ?? ''],
    ...[...new Set(member.faces.map((face) => face.material))].map((name): [string, string] => ['material', name]),
    ...layered(member, map),
  ],
};
