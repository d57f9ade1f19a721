import { constants, closeSync, fstatSync, openSync, readFileSync, statSync } from 'node:fs';
import { UnreadableInput } from '@violet-crate/core/unreadable';

/** Bytes that a file may have: of a bank, a patch or a package, and of a document. */
const MOST = 2 ** 30;
const MOST_TEXT = 64 << 20;

/** A file that somebody named. @throws UnreadableInput where it is missing, no regular file (a device has no end), or too large */
export function readInput(file: string, most = MOST): Uint8Array {
  const known = statSync(file, { throwIfNoEntry: false });
  if (!known) throw new UnreadableInput('file-missing', `There is no file ${file}.`, { file });
  if (!known.isFile()) throw new UnreadableInput('file-kind', `${file} is no regular file.`, { file });
  // Opened without waiting, and asked again: it may be another by now.
  const handle = openSync(file, constants.O_RDONLY | constants.O_NONBLOCK);
  try {
    const stats = fstatSync(handle);
    if (!stats.isFile()) throw new UnreadableInput('file-kind', `${file} is no regular file.`, { file });
    if (stats.size > most) throw new UnreadableInput('file-too-large', `${file} has ${stats.size} bytes; at most ${most} are read.`, { file });
    return new Uint8Array(readFileSync(handle));
  } finally {
    closeSync(handle);
  }
}

/** The same as text. */
export const readText = (file: string): string => new TextDecoder().decode(readInput(file, MOST_TEXT));
