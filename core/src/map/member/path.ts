import { boxOfPoints } from '../../math/box3.ts';
import { applyAffine } from '../../solid/transform.ts';
import type { MemberFacts } from './member.ts';

export const path: MemberFacts<'paths'> = {
  kind: 'paths',
  word: 'path',
  words: 'paths',
  label: (_id, { name }) => name,
  box: (_id, { points }) => boxOfPoints(points),
  transform: (member, affine) => ({ ...member, points: member.points.map((p) => applyAffine(affine, p)) }),
  found: (_id, { name }) => [
    ['name', name],
    ['class', 'path'],
  ],
};
