/** Files that a command writes where its user said so: never over what it was made of, nor over a crate's own files, unless that is said too. */

import { existsSync, realpathSync } from 'node:fs';
import { basename, dirname, join, relative, resolve, sep } from 'node:path';
import { isBesideCrate } from '@violet-crate/core/crate/contents';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeWhole } from '@violet-crate/host/files';
import type { Options } from './command.ts';

/** The option of every command that has one of these. */
export const OUTPUTS = ['out', 'to'];
export const FORCE = { summary: 'write even over what is read, or over a crate’s own file' };

/** A path as it is on the disk, whether the file is there yet or not. */
function real(file: string): string {
  if (existsSync(file)) return realpathSync(file);
  const folder = dirname(resolve(file));
  return join(folder === dirname(folder) ? folder : real(folder), basename(file));
}

/** The folder of the crate that a file is a part of; null where it is of none. */
function crateOf(file: string): string | null {
  for (let folder = dirname(file); ; folder = dirname(folder)) {
    if (existsSync(join(folder, 'crate.json'))) {
      const path = relative(folder, file).split(sep);
      return isBesideCrate(path[0]) || isBesideCrate(path.join('/')) ? null : folder;
    }
    if (folder === dirname(folder)) return null;
  }
}

/**
 * Refuses an output that would destroy something.
 *
 * @param reads files that the command reads
 * @throws UnreadableInput `out-over-input`
 */
export function needFree(file: string, reads: readonly string[], { force }: Options): void {
  if (force !== undefined || !existsSync(file)) return;
  const target = real(file);
  const what = reads.some((one) => real(one) === target)
    ? 'it is what is read'
    : crateOf(target)
      ? `it is a file of the crate in ${crateOf(target)}`
      : null;
  if (what) throw new UnreadableInput('out-over-input', `${file} would be written over: ${what}. Choose another file, or say --force.`, { file });
}

/** @param reads files that the command reads */
export function writeOutput(file: string, bytes: Uint8Array, reads: readonly string[], options: Options): void {
  needFree(file, reads, options);
  writeWhole(file, bytes);
}
