/** Selecting by a rectangle. */

import type { KINDS, Members } from '@violet-crate/core/document/members';

export type MarqueeMode = 'replace' | 'add' | 'remove';

/** Shift adds to what is selected, Control takes away from it. */
export const marqueeMode = ({ shift, control }: { shift: boolean; control: boolean }): MarqueeMode =>
  control ? 'remove' : shift ? 'add' : 'replace';

/** What is selected after a rectangle around `found`. */
export function marqueed(selection: Members, found: Members, how: MarqueeMode): Record<(typeof KINDS)[number], string[]> {
  const combine = (kind: (typeof KINDS)[number]): string[] =>
    how === 'replace'
      ? [...found[kind]]
      : how === 'add'
        ? [...new Set([...selection[kind], ...found[kind]])]
        : selection[kind].filter((id) => !found[kind].includes(id));
  return { solids: combine('solids'), objects: combine('objects'), copies: combine('copies'), paths: combine('paths') };
}
