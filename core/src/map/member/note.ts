import { boxOfPoints } from '../../math/box3.ts';
import { applyAffine } from '../../solid/transform.ts';
import type { MemberFacts } from './member.ts';

export const note: MemberFacts<'notes'> = {
  kind: 'notes',
  word: 'note',
  words: 'notes',
  label: (_id, { text, name }) => text.split('\n')[0].slice(0, 40) || name,
  box: (_id, { position, points }) => boxOfPoints([position, ...points]),
  transform: (member, affine) => ({
    ...member,
    position: applyAffine(affine, member.position),
    points: member.points.map((p) => applyAffine(affine, p)),
  }),
  found: (_id, { name, text }) => [
    ['name', name],
    ['class', 'note'],
    ['text', text],
  ],
};
