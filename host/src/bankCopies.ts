/** A mod's own copies of the game's banks, beside the originals, which are only read. */

import { applyBankPatch, copyFor, patchPath, readBankPatch, type BankPatch } from '@violet-crate/core/bank/bankPatch';
import type { FileTree } from '@violet-crate/core/crate/fileTree';
import { sha256Hex } from '@violet-crate/core/hash';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import { isFileInside, readInside, removeInside, writeInside } from './inside.ts';

/** Copies that are made of banks of an install, by their paths in it. */
export interface BankCopies {
  game: string;
  copies: [path: string, bytes: Uint8Array][];
}

const notesIn = (tree: FileTree): BankPatch[] =>
  [...tree].flatMap(([path, bytes]) => (/^banks\/[^/]+\.json$/.test(path) ? [readBankPatch(bytes, path)] : []));

/**
 * The copies that a mod's patches make of the banks of an install; nothing is written yet.
 *
 * @param game folder of the install
 * @throws UnreadableInput where a bank is missing or another one
 */
export function bankCopies(game: string, mod: string, tree: FileTree): BankCopies {
  const copies = notesIn(tree).map((note): [string, Uint8Array] => {
    const original = readInside(game, note.file);
    const patch = tree.get(patchPath(note.bank));
    if (!patch) throw new UnreadableInput('bank-patch', `${patchPath(note.bank)} is missing.`, { file: patchPath(note.bank) });
    if (!original)
      throw new UnreadableInput('bank-missing', `The install has no ${note.file}.`, { file: note.file }, 'Repair the game under Set-up.');
    return [copyFor(note.file, mod), applyBankPatch(original, note, patch, patchPath(note.bank))];
  });
  return { game, copies };
}

export const placeBankCopies = ({ game, copies }: BankCopies): void => writeInside(game, copies);

/**
 * Makes copies anew that are not there: of a mod whose installation or removal was killed between its folder and its banks, where copies
 * go first and come last. Originals that are others by now are left alone; `wrongCopies` tells of them.
 */
export function mendBankCopies(game: string, mod: string, tree: FileTree): void {
  try {
    if (notesIn(tree).every(({ file }) => isFileInside(game, copyFor(file, mod)))) return;
    placeBankCopies(bankCopies(game, mod, tree));
  } catch (error) {
    if (!(error instanceof UnreadableInput)) throw error;
  }
}

/** What is wrong with the copies of a mod, in a sentence; null where all are as its patches make them. */
export function wrongCopies(game: string, mod: string, tree: FileTree): string | null {
  for (const { file, to } of notesIn(tree)) {
    const copy = copyFor(file, mod);
    const bytes = isFileInside(game, copy) ? readInside(game, copy) : null;
    if (!bytes) return `${copy} is missing.`;
    if (sha256Hex(bytes) !== to.sha256) return `${copy} is not what its patch makes of ${file}.`;
  }
  return null;
}

/** Takes a mod's copies away; the originals are as they were. */
export function dropBankCopies(game: string, mod: string, tree: FileTree): void {
  for (const { file } of notesIn(tree)) removeInside(game, copyFor(file, mod));
}
