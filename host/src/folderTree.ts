/** Folders of this machine as trees: regular files only, within limits, whatever else lies there. */

import { lstatSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { readInside } from './inside.ts';

/** Why a link is left out. */
export const IS_LINK = 'it is a link, and links are not followed';

export interface FolderLimits {
  /** Files in all, their bytes in all, and folders within each other. */
  files: number;
  bytes: number;
  depth: number;
}

export const FOLDER_LIMITS: FolderLimits = { files: 20_000, bytes: 2 ** 31, depth: 32 };

export interface FolderOptions {
  /** Paths of files and folders that are left out, with all that is in them. */
  skip?(path: string): boolean;
  /** Whether files and folders whose name begins with a point are read too. */
  hidden?: boolean;
  limits?: FolderLimits;
  /** Told of what is neither a regular file nor a folder, with the reason for leaving it out. */
  leftOut?(path: string, reason: string): void;
}

/** A file of a folder: its path there, and its size when it was listed. */
export interface ListedFile {
  path: string;
  bytes: number;
}

/**
 * The regular files below a folder in order of name, without opening any. Links are not followed: whoever made them
 * decides what they lead to, which may be any file of this machine.
 *
 * @throws UnreadableInput where there is no such folder, or it goes beyond the limits
 */
export function listFolder(folder: string, options: FolderOptions = {}): ListedFile[] {
  const { skip = () => false, hidden = false, limits = FOLDER_LIMITS, leftOut = () => {} } = options;
  const stats = statSync(folder, { throwIfNoEntry: false });
  if (!stats) throw new UnreadableInput('folder-missing', `There is no folder ${folder}.`);
  if (!stats.isDirectory()) throw new UnreadableInput('folder-missing', `${folder} is a file, not a folder.`);
  const listed: ListedFile[] = [];
  let total = 0;
  const tooLarge = (what: string): never => {
    throw new UnreadableInput('folder-too-large', `The folder ${folder} is too large: ${what}.`, {}, 'Choose a folder further down.');
  };
  const visit = (prefix: string, depth: number) => {
    if (depth > limits.depth) tooLarge(`${prefix} lies ${depth} folders deep, and at most ${limits.depth} are read`);
    for (const name of readdirSync(join(folder, prefix)).sort()) {
      const path = prefix ? `${prefix}/${name}` : name;
      if ((!hidden && name.startsWith('.')) || skip(path)) continue;
      const kind = kindOf(join(folder, path));
      if (kind.what === 'folder') visit(path, depth + 1);
      else if (kind.what === 'other') leftOut(path, kind.reason);
      else {
        listed.push({ path, bytes: kind.bytes });
        total += kind.bytes;
        if (listed.length > limits.files) tooLarge(`it holds more than ${limits.files} files`);
        if (total > limits.bytes) tooLarge(`it holds more than ${Math.round(limits.bytes / 2 ** 20)} MB`);
      }
    }
  };
  visit('', 0);
  return listed;
}

/** The same with their contents. */
export function readTree(folder: string, options: FolderOptions = {}): FileTree {
  const tree: FileTree = new Map();
  for (const { path } of listFolder(folder, options)) {
    const bytes = readInside(folder, path);
    if (bytes) tree.set(path, bytes);
    else options.leftOut?.(path, 'it is no regular file any more');
  }
  return tree;
}

type Kind = { what: 'file'; bytes: number } | { what: 'folder' } | { what: 'other'; reason: string };

function kindOf(path: string): Kind {
  const stats = lstatSync(path, { throwIfNoEntry: false });
  if (!stats) return { what: 'other', reason: 'it is gone' };
  if (stats.isSymbolicLink()) return { what: 'other', reason: IS_LINK };
  if (stats.isFile()) return { what: 'file', bytes: stats.size };
  return stats.isDirectory() ? { what: 'folder' } : { what: 'other', reason: 'it is neither a file nor a folder' };
}
