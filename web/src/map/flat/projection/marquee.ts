/** Selecting by a rectangle. */

import { byKind, type MemberKind, type Members } from '@violet-crate/core/document/members';

export type MarqueeMode = 'replace' | 'add' | 'remove';

/** Shift adds to what is selected, Control takes away from it. */
export const marqueeMode = ({ shift, control }: { shift: boolean; control: boolean }): MarqueeMode =>
  control ? 'remove' : shift ? 'add' : 'replace';

/** What is selected after a rectangle around `found`. */
export function marqueed(selection: Members, found: Members, how: MarqueeMode): Record<MemberKind, string[]> {
  return byKind((kind) =>
    how === 'replace'
      ? [...found[kind]]
      : how === 'add'
        ? [...new Set([...selection[kind], ...found[kind]])]
        : selection[kind].filter((id) => !found[kind].includes(id)),
  );
}
