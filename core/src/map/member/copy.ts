import { boxOfPoints } from '../../math/box3.ts';
import { own } from '../../own.ts';
import { shapeOf } from '../../solid/shape.ts';
import { classBox } from '../objectBox.ts';
import { expandMap } from '../prefab.ts';
import type { MemberFacts } from './member.ts';
import { placedUpright } from './upright.ts';

export const copy: MemberFacts<'copies'> = {
  kind: 'copies',
  word: 'copy of a prefab',
  words: 'copies',
  label: (_id, { name }) => name,
  box(id, member, { map, profile }) {
    const alone = expandMap({ ...map, solids: {}, objects: {}, signals: {}, copies: { [id]: member } }, profile);
    const boxes = [...Object.values(alone.solids).map((s) => shapeOf(s).box), ...Object.values(alone.objects).map((o) => classBox(profile, o))];
    return boxOfPoints(boxes.length > 0 ? boxes.flatMap((b) => [b.min, b.max]) : [member.position]);
  },
  transform: placedUpright,
  found: (_id, member, { map }) => [
    ['name', member.name],
    ['prefab', own(map.prefabs, member.prefab)?.name ?? member.prefab],
  ],
};
