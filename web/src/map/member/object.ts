import { classOf } from '@violet-crate/core/profile/schema';
import { ObjectInspector } from '../inspector/ObjectInspector.tsx';
import type { MemberLook } from './look.ts';

export const object: MemberLook<'objects'> = {
  icon: (member, profile) => classOf(profile, member.class)?.icon ?? 'question',
  heading: (member, profile) => classOf(profile, member.class)?.label ?? member.class,
  points: ({ position }) => [position],
  Inspector: ObjectInspector,
};
