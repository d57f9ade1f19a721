import { Icon } from '../common/Icon.tsx';
import type { LinkRow } from './useLinks.ts';

const ORIGIN: Record<LinkRow['origin'] | 'unused' | 'kept', [icon: string, word: string, tone: string]> = {
  crate: ['box-seam', 'crate', 'clear'],
  game: ['controller', 'game', 'open'],
  missing: ['x-octagon', 'missing', 'blocked'],
  unused: ['slash-circle', 'unused', 'stale'],
  kept: ['bookmark', 'kept', 'open'],
};

/** Where a thing comes from, as shape and word. */
export function OriginStamp({ row }: { row: Pick<LinkRow, 'origin' | 'unused' | 'kept'> }) {
  const [icon, word, tone] = ORIGIN[row.unused ? (row.kept ? 'kept' : 'unused') : row.origin];
  return (
    <span className={`stamp ${tone}`}>
      <Icon name={icon} /> {word}
    </span>
  );
}
