import { CopyInspector } from '../inspector/CopyInspector.tsx';
import type { MemberLook } from './look.ts';

export const copy: MemberLook<'copies'> = {
  icon: () => 'boxes',
  heading: () => 'Copies of prefabs',
  aside: ({ prefab }, map) => map.prefabs[prefab]?.name ?? prefab,
  points: ({ position }) => [position],
  Inspector: ({ ids }) => <CopyInspector id={ids[0]} />,
};
