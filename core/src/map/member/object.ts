import { classOf } from '../../profile/schema.ts';
import { transformSolid } from '../../solid/transform.ts';
import { classBox } from '../objectBox.ts';
import { layered } from './layered.ts';
import type { MemberFacts } from './member.ts';
import { placedUpright } from './upright.ts';

export const object: MemberFacts<'objects'> = {
  kind: 'objects',
  word: 'object',
  words: 'objects',
  label: (_id, { name }) => name,
  box: (_id, member, { profile }) => classBox(profile, member),
  transform(member, affine) {
    const placed = placedUpright(member, affine);
    return placed.shape ? { ...placed, shape: transformSolid(placed.shape, affine, true) } : placed;
  },
  found: (_id, member, { map, profile }) => [
    ['name', member.name],
    ['class', member.class],
    ['class', classOf(profile, member.class)?.label ?? ''],
    ...layered(member, map),
    ...Object.entries(member.properties).map(([key, value]): [string, string] => [key, String(value)]),
  ],
};
