/** A full disk, whoever was the first to notice it: the file system or the database. */

import { existsSync, statfsSync } from 'node:fs';
import { dirname } from 'node:path';
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
    if (!FULL.has(code) && !(DOUBTFUL.test(code) && freeBytes(folder) < MIB)) continue;
    return new UnreadableInput(
      'disk-full',
      `The disk is full: ${megabytes(needed)} are needed in ${folder}, ${Math.floor(freeBytes(folder) / MIB)} MB are free.`,
      {},
      'Nothing was changed. Make room, for example with Free space in the settings, and try again.',
    );
  }
  return null;
}
