/** A full disk, whoever was the first to notice it: the file system or the database. */

import { existsSync, statfsSync } from 'node:fs';
import { dirname, isAbsolute } from 'node:path';
import { UnreadableInput } from '@violet-crate/core/unreadable';

const FULL = new Set(['ENOSPC', 'EDQUOT', 'SQLITE_FULL']);
/** SQLite calls a full disk an I/O error where it happens in its shared memory or journal. */
const DOUBTFUL = /^SQLITE_(IOERR|CANTOPEN)/;
const MIB = 1 << 20;

/** Bytes that are free on the disk of a folder, which need not exist yet. */
function freeBytes(folder: string): number {
  let at = folder;
  while (!existsSync(at) && dirname(at) !== at) at = dirname(at);
  const { bavail, bsize } = statfsSync(at);
  return bavail * bsize;
}

const megabytes = (bytes: number): string => `${Math.max(1, Math.ceil(bytes / MIB)).toLocaleString('en')} MB`;

/**
 * What to tell of an error where its cause is a full disk; null where it is another.
 *
 * @param needed bytes that were to be written
 */
export function diskFull(error: unknown, folder: string, needed: number): UnreadableInput | null {
  for (let cause = error; cause instanceof Error; cause = cause.cause) {
    if (cause instanceof UnreadableInput && cause.code === 'disk-full') return cause;
    const code = (cause as NodeJS.ErrnoException).code ?? '';
    const { path, syscall } = cause as NodeJS.ErrnoException;
    // Where it happened says more than where somebody supposes it: there may be several disks.
    const at = path && isAbsolute(path) && !path.startsWith('/proc/') ? dirname(path) : folder;
    const free = freeBytes(at);
    if (!FULL.has(code) && !(DOUBTFUL.test(code) && free < MIB)) continue;
    // The system says the same where it watches too many files.
    if (syscall === 'watch' || syscall === 'inotify_add_watch') continue;
    return new UnreadableInput(
      'disk-full',
      free > Math.max(needed, MIB)
        ? `The disk of ${at} takes no more files: a quota is used up, or it has no room for names.`
        : `The disk is full: ${megabytes(needed)} are needed in ${at}, ${Math.floor(free / MIB)} MB are free.`,
      {},
      'Nothing was changed. Make room, for example with Free space in the settings, and try again.',
    );
  }
  return null;
}
