/** Puts an opened package into a game's mods folder. Needs a file system, which the caller brings. */

import type { FileTree } from '../crate/contents.ts';
import type { ReleaseManifest } from './manifest.ts';
import { verifyTree } from './pack.ts';

export interface ModsFolder {
  /** Writes a whole new folder beside the mods and moves it into place, replacing an older one. */
  replace(name: string, tree: FileTree): void;
  read(name: string): FileTree;
}

/** Installs, reads back from disk, and verifies every hash. Answers the number of verified files. */
export function installRelease(mods: ModsFolder, manifest: ReleaseManifest, tree: FileTree): number {
  mods.replace(manifest.name, tree);
  const problem = verifyTree(manifest, mods.read(manifest.name));
  if (problem) throw new Error(`after installing, ${problem}`);
  return manifest.files.length;
}
