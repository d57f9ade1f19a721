/** The looks of all kinds of members, beside the facts in `core/src/map/member/`. */

import { KINDS, type MemberKind } from '@violet-crate/core/document/members';
import { copy } from './copy.tsx';
import { decal } from './decal.tsx';
import type { MemberLook } from './look.ts';
import { note } from './note.tsx';
import { object } from './object.ts';
import { overlay } from './overlay.tsx';
import { path } from './path.tsx';
import { solid } from './solid.ts';

export const MEMBER_LOOKS: { [K in MemberKind]: MemberLook<K> } = {
  solids: solid,
  objects: object,
  copies: copy,
  paths: path,
  notes: note,
  decals: decal,
  overlays: overlay,
};

/** The look of a kind that is only known at run time. */
export const memberLook = (kind: MemberKind): MemberLook => MEMBER_LOOKS[kind] as unknown as MemberLook;

/** Kinds that are drawn as lines over the sheets. */
export const LINE_KINDS = KINDS.filter((kind) => memberLook(kind).draw);
