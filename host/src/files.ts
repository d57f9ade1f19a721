/** Files on disk, written whole or not at all, and folders as trees. */

import { randomBytes } from 'node:crypto';
import { closeSync, existsSync, fsyncSync, mkdirSync, openSync, readdirSync, readFileSync, renameSync, statSync, writeSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { StageCache } from '@violet-crate/core/build/stage';
import type { FileTree } from '@violet-crate/core/crate/contents';
import { UnreadableInput } from '@violet-crate/core/finding';

/** Writes a file whole or not at all: a neighbour is written and synced, then renamed over it. */
export function writeWhole(file: string, bytes: Uint8Array): void {
  mkdirSync(dirname(file), { recursive: true });
  const part = `${file}.${randomBytes(6).toString('hex')}.part`;
  const handle = openSync(part, 'w');
  try {
    writeSync(handle, bytes);
    fsyncSync(handle);
  } finally {
    closeSync(handle);
  }
  renameSync(part, file);
}

export function writeTree(folder: string, tree: FileTree): void {
  for (const [path, bytes] of tree) writeWhole(join(folder, path), bytes);
}

/**
 * All files below a folder by their path in it, in order of name. Hidden files are left out.
 *
 * @param skip names of folders at the top that are left out
 */
export function readTree(folder: string, skip: ReadonlySet<string> = new Set()): FileTree {
  if (!existsSync(folder)) throw new UnreadableInput('folder-missing', `There is no folder ${folder}.`);
  const tree: FileTree = new Map();
  const visit = (prefix: string) => {
    for (const name of readdirSync(join(folder, prefix)).sort()) {
      if (name.startsWith('.') || (prefix === '' && skip.has(name))) continue;
      const path = prefix ? `${prefix}/${name}` : name;
      if (statSync(join(folder, path)).isDirectory()) visit(path);
      else tree.set(path, new Uint8Array(readFileSync(join(folder, path))));
    }
  };
  visit('');
  return tree;
}

/** Results of build stages by key, under a folder. */
export function stageCache(folder: string): StageCache {
  const fileOf = (key: string) => join(folder, key.slice(0, 2), key);
  return {
    get: (key) => Promise.resolve(existsSync(fileOf(key)) ? new Uint8Array(readFileSync(fileOf(key))) : null),
    put: (key, value) => Promise.resolve(writeWhole(fileOf(key), value)),
  };
}
