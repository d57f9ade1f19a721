import { readFileSync, statSync } from 'node:fs';
import { UnreadableInput } from '@violet-crate/core/unreadable';

/** Bytes that a bank or a patch may have. */
const MOST = 2 ** 29;

/** A file that somebody named. @throws UnreadableInput where it is missing, no file, or too large */
export function readInput(file: string): Uint8Array {
  const known = statSync(file, { throwIfNoEntry: false });
  if (!known?.isFile()) throw new UnreadableInput('file-missing', `There is no file ${file}.`, { file });
  if (known.size > MOST) throw new UnreadableInput('file-too-large', `${file} has ${known.size} bytes; at most ${MOST} are read.`, { file });
  return new Uint8Array(readFileSync(file));
}
