/** Puts an opened package into a game's mods folder. Needs a file system, which the caller brings. */

import type { FileTree } from '../crate/fileTree.ts';
import { UnreadableInput } from '../unreadable.ts';
import type { ReleaseManifest } from './manifest.ts';
import { verifyTree } from './pack.ts';

export interface ModsFolder {
  /**
   * Writes a whole new folder beside the mods, lets `check` look at what lies on the disk, and only then moves it
   * into place instead of an older one. Where `check` throws, nothing has changed.
   */
  place(name: string, tree: FileTree, check: (written: FileTree) => void): void;
}

/** Writes, reads back from disk, verifies every hash, and puts into place. Answers the number of verified files. */
export function installRelease(mods: ModsFolder, manifest: ReleaseManifest, tree: FileTree): number {
  mods.place(manifest.name, tree, (written) => {
    const problem = verifyTree(manifest, written);
    if (problem)
      throw new UnreadableInput('install-verify', `After writing, ${problem} Nothing was installed.`, {}, 'Check the disk, and try again.');
  });
  return manifest.files.length;
}
