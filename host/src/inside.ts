/**
 * Files below a folder that somebody else may have filled: no part of a path may be a link, when it is looked at and when it is used.
 *
 * On Linux each folder on the way is opened without following links, the next one is looked up within it (`/proc/PID/fd/N/name`, which does
 * what openat(2) would), and the file is used through the last of them: exchanging a folder for a link in between changes nothing.
 * Elsewhere the whole way is looked at right before each use, which leaves a moment to whoever can write there at the same time.
 */

import { closeSync, constants, existsSync, fstatSync, lstatSync, mkdirSync, openSync, readFileSync, rmSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeAllWhole } from './files.ts';

const PINS = process.platform === 'linux' && existsSync(`/proc/${process.pid}/fd`);
const AS_FOLDER = constants.O_RDONLY | constants.O_DIRECTORY;

/** The refusal of a path with a link on its way. */
export const linked = (folder: string, path: string): UnreadableInput =>
  new UnreadableInput(
    'link-in-path',
    `${path} is or goes through a link, so it may lead out of ${folder}.`,
    { file: path },
    'Put the file or folder itself in the place of the link.',
  );

/** The names of a path within a folder. @throws UnreadableInput where it would leave the folder */
function namesOf(folder: string, path: string): string[] {
  const names = path.split('/').filter((name) => name !== '' && name !== '.');
  if (names.length === 0 || path.startsWith('/') || names.some((name) => name === '..' || name.includes('\0') || (name.includes('\\') && !PINS)))
    throw new UnreadableInput('path-outside', `"${path}" is not a path within ${folder}.`, { file: path });
  return names;
}

/**
 * Uses the folder that a file is in; null where that is not there.
 *
 * @param use is given the folder as a path that stays the same one, and the file's name there
 * @throws UnreadableInput `link-in-path`
 */
function atFolderOf<T>(folder: string, path: string, make: boolean, use: (folder: string, name: string) => T): T | null {
  const names = namesOf(folder, path);
  const name = names.pop()!;
  if (make) mkdirSync(folder, { recursive: true });
  if (!PINS) {
    let at = folder;
    for (const part of names) {
      at = join(at, part);
      const stats = lstatSync(at, { throwIfNoEntry: false });
      if (stats?.isSymbolicLink()) throw linked(folder, path);
      if (!stats && !make) return null;
      if (!stats) mkdirSync(at);
    }
    return use(at, name);
  }
  if (!existsSync(folder)) return null;
  let handle = openSync(folder, AS_FOLDER);
  try {
    for (const part of names) {
      const at = `${pinned(handle)}/${part}`;
      const next = openFolder(at, make, () => linked(folder, path));
      if (next === null) return null;
      closeSync(handle);
      handle = next;
    }
    return use(pinned(handle), name);
  } finally {
    closeSync(handle);
  }
}

const pinned = (handle: number): string => `/proc/${process.pid}/fd/${handle}`;

function openFolder(at: string, make: boolean, link: () => UnreadableInput): number | null {
  if (make)
    try {
      mkdirSync(at);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
  try {
    return openSync(at, AS_FOLDER | constants.O_NOFOLLOW);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (lstatSync(at, { throwIfNoEntry: false })?.isSymbolicLink()) throw link();
    if (!make && (code === 'ENOENT' || code === 'ENOTDIR')) return null;
    throw error;
  }
}

/**
 * A file below a folder; null where there is none, or no regular one (a pipe would be waited for).
 *
 * @throws UnreadableInput where a link is on its way, or it has more than `most` bytes
 */
export const readInside = (folder: string, path: string, most = Infinity): Uint8Array | null =>
  atFolderOf(folder, path, false, (at, name) => {
    const file = join(at, name);
    const stats = lstatSync(file, { throwIfNoEntry: false });
    if (stats?.isSymbolicLink()) throw linked(folder, path);
    return stats?.isFile() ? readHandle(file, constants.O_NOFOLLOW, most) : null;
  });

/** Writes files below a folder, each whole or not at all; a folder at a time. @throws UnreadableInput where a link is on the way of one */
export function writeInside(folder: string, files: Iterable<readonly [path: string, bytes: Uint8Array]>): void {
  const by = new Map<string, (readonly [string, Uint8Array])[]>();
  for (const file of files) {
    const at = dirname(file[0]);
    if (!by.has(at)) by.set(at, []);
    by.get(at)!.push(file);
  }
  // Whatever is wrong with one of them is found before any is written.
  for (const inOne of by.values())
    atFolderOf(folder, inOne[0][0], false, (at) => {
      for (const [path] of inOne)
        if (lstatSync(join(at, namesOf(folder, path).pop()!), { throwIfNoEntry: false })?.isSymbolicLink()) throw linked(folder, path);
    });
  for (const inOne of by.values())
    atFolderOf(folder, inOne[0][0], true, (at) =>
      writeAllWhole(inOne.map(([path, bytes]) => [join(at, namesOf(folder, path).pop()!), bytes] as const)),
    );
}

/** Removes a file below a folder; where it is a link, the link. @throws UnreadableInput where a link is on its way */
export function removeInside(folder: string, path: string): void {
  atFolderOf(folder, path, false, (at, name) => rmSync(join(at, name), { force: true }));
}

/** Whether a path below a folder is a regular file, reached without any link. */
export function isFileInside(folder: string, path: string): boolean {
  try {
    return atFolderOf(folder, path, false, (at, name) => lstatSync(join(at, name), { throwIfNoEntry: false })?.isFile() ?? false) ?? false;
  } catch (error) {
    if (error instanceof UnreadableInput) return false;
    throw error;
  }
}

/** The first part of a path below a folder that is a link; null where none is. */
export function linkOn(folder: string, path: string): string | null {
  const names = namesOf(folder, path);
  for (let i = 1; i <= names.length; i++) {
    const part = names.slice(0, i).join('/');
    const stats = lstatSync(join(folder, part), { throwIfNoEntry: false });
    if (stats?.isSymbolicLink()) return part;
    if (!stats?.isDirectory()) return null;
  }
  return null;
}

/**
 * A file's bytes, or null where it is not a regular one: opening a pipe would wait for its other end for ever, and a device has no end.
 *
 * @throws UnreadableInput where it has more than `most` bytes
 */
export const readRegular = (file: string, most = Infinity): Uint8Array | null =>
  statSync(file, { throwIfNoEntry: false })?.isFile() ? readHandle(file, 0, most) : null;

function readHandle(file: string, flags: number, most: number): Uint8Array | null {
  const handle = openSync(file, constants.O_RDONLY | constants.O_NONBLOCK | flags);
  try {
    const stats = fstatSync(handle);
    if (!stats.isFile()) return null;
    if (stats.size > most)
      throw new UnreadableInput('file-too-large', `${file} has ${stats.size} bytes; at most ${most} are read.`, { file }, 'Choose another file.');
    return new Uint8Array(readFileSync(handle));
  } finally {
    closeSync(handle);
  }
}
