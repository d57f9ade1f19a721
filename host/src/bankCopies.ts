/** A mod's own copies of the game's banks, beside the originals, which are only read. */

import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { applyBankPatch, copyFor, patchPath, readBankPatch, type BankPatch } from '@violet-crate/core/bank/bankPatch';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { writeWhole } from './files.ts';

const notesIn = (tree: FileTree): BankPatch[] =>
  [...tree].flatMap(([path, bytes]) => (/^banks\/[^/]+\.json$/.test(path) ? [readBankPatch(bytes, path)] : []));

/**
 * The copies that a mod's patches make of the banks of an install; nothing is written yet.
 *
 * @param game folder of the install
 * @throws UnreadableInput where a bank is missing or another one
 */
export function bankCopies(game: string, mod: string, tree: FileTree): [file: string, bytes: Uint8Array][] {
  return notesIn(tree).map((note) => {
    const original = join(game, note.file);
    const patch = tree.get(patchPath(note.bank));
    if (!patch) throw new UnreadableInput('bank-patch', `${patchPath(note.bank)} is missing.`, { file: patchPath(note.bank) });
    if (!existsSync(original))
      throw new UnreadableInput('bank-missing', `The install has no ${note.file}.`, { file: note.file }, 'Repair the game under Set-up.');
    return [join(game, copyFor(note.file, mod)), applyBankPatch(new Uint8Array(readFileSync(original)), note, patch, patchPath(note.bank))];
  });
}

export function placeBankCopies(copies: readonly (readonly [string, Uint8Array])[]): void {
  for (const [file, bytes] of copies) writeWhole(file, bytes);
}

/** Takes a mod's copies away; the originals are as they were. */
export function dropBankCopies(game: string, mod: string, tree: FileTree): void {
  for (const { file } of notesIn(tree)) rmSync(join(game, copyFor(file, mod)), { force: true });
}
