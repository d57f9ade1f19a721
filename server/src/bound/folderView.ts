import type { MemberKey } from '@violet-crate/core/document/merge';

/** Something that was changed on both sides, and has to be settled. */
export interface FolderConflict {
  path: string;
  /** What of a map clashes, as `collection/id`; empty where it is the file as a whole. */
  members: MemberKey[];
  /** What happened, in a sentence. */
  what: string;
}

export interface FolderView {
  folder: string;
  /** Why it cannot be kept equal now; null where it is. */
  problem: string | null;
  /** Whether the problem is that many files vanished at once, which somebody has to mean. */
  vanished: boolean;
  /** Files that cannot be taken as they are. */
  refused: { path: string; reason: string }[];
  conflicts: FolderConflict[];
  /** When crate and folder were last found equal or made so. */
  equalAt: string | null;
  /** Whether the first comparison is still under way. */
  looking: boolean;
}

/** What `settle` does about a conflict. */
export interface Settling {
  path: string;
  /** The side that holds; for maps by member, all others by `side`. */
  side: 'crate' | 'folder';
  members?: Record<MemberKey, 'crate' | 'folder'>;
}
