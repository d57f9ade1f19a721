import { shapeOf } from '@violet-crate/core/solid/shape';
import { SolidInspector } from '../inspector/SolidInspector.tsx';
import type { MemberLook } from './look.ts';

export const solid: MemberLook<'solids'> = {
  icon: () => 'square',
  heading: () => 'Solids',
  aside: ({ faces, detail }) => `${faces[0].material}${detail ? ', detail' : ''}`,
  points: (member) => shapeOf(member).polygons.flatMap(({ winding }) => winding),
  Inspector: SolidInspector,
};
