import type { FolderState } from '../api/types.ts';
import { Icon } from './Icon.tsx';

/** How a crate and the folder that it lives in stand. */
export function FolderStamp({ folder }: { folder: FolderState }) {
  const [kind, icon, word] = folder.looking
    ? ['running', 'arrow-repeat', 'comparing']
    : folder.problem
      ? ['blocked', 'x-octagon', 'cannot be kept equal']
      : folder.conflicts.length > 0
        ? ['notes', 'signpost-split', 'to settle']
        : folder.refused.length > 0
          ? ['notes', 'exclamation-triangle', 'not all']
          : ['clear', 'check-circle', 'equal'];
  return (
    <span className={`stamp ${kind}`} data-folder={word}>
      <Icon name={icon} /> {word}
    </span>
  );
}
