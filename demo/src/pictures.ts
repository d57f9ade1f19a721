/** Pictures of the demo crates for the first page: taken of these very crates in the application, and kept in `demo/pictures/`. */

import { existsSync, readFileSync } from 'node:fs';
import { CRATE_PICTURE } from '@violet-crate/core/crate/contents';
import type { FileTree } from '@violet-crate/core/crate/fileTree';

export function withPicture(tree: FileTree, name: string): FileTree {
  const file = new URL(`../pictures/${name}.png`, import.meta.url);
  if (existsSync(file)) tree.set(CRATE_PICTURE, new Uint8Array(readFileSync(file)));
  return tree;
}
